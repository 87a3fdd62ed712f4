"""Walk: the level played on the spot."""
