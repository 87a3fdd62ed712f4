"""The window: it shows the core and does no work of its own."""
