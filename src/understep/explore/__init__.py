"""Explore: a board in a browser, with the library behind it."""
