"""Texture compression: block formats and indexed colour, coded and decoded in NumPy."""
