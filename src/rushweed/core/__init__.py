"""What Rushweed does, free of any window."""
