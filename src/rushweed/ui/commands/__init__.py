"""What can be done by key, menu and finder."""
