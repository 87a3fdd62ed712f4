"""The tools of Tune: plumb marks, the guides of a nine-slice, what shows textures and recipes."""
