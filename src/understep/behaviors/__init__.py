"""Behaviors: what units do that the computer leads."""
