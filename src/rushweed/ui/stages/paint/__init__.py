"""Paint: levels."""
