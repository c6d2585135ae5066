"""Actions: what units do to each other."""
