"""Moves: ranges, routes, fields, areas, and explanations, by searches over step tables."""
