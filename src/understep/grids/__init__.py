"""Grids: which cells exist, who neighbors whom, where they lie in the world. No game state."""
