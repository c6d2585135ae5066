"""Rules: what a movement allows, and its step table: the rules compiled to arrays."""
