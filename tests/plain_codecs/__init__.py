"""The searches of the block codecs in NumPy: what the compiled ones are held against."""
