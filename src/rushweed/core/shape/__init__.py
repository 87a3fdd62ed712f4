"""Where tiles are solid."""
