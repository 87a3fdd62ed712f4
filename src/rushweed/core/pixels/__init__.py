"""Pictures as read-only arrays."""
