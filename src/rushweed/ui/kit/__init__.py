"""What every part of the window is made of: theme, icons, controls, fields."""
