"""The project folder on disk: read, write, lock and recover."""
