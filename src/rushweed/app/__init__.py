"""The program as a process: its log, and what happens when something in it goes wrong."""
