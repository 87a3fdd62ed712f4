"""Shape: what is solid."""
