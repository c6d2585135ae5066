"""Moves: movement rules, step tables, and the searches that run on them."""
