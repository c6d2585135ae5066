"""Worlds: large maps in sectors, and the demo map of any size."""
