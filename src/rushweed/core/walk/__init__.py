"""Walking in a level: the world as shapes, the mover, runs, and what can be reached."""
