"""The project as one frozen value, its edits and its history."""
