"""Kernels: all that is compiled. Arrays in, arrays out; nothing here knows what a game is."""
