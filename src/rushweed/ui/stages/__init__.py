"""One module a stage: its tools, its option line, what it draws on the Desk, its card."""
