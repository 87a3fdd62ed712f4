"""How the game draws: units, pivots, sampling."""
