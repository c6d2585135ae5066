"""Proof: answers compared with a slow, obvious reference."""
