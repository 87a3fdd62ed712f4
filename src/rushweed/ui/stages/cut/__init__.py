"""Cut: sheets become cells."""
