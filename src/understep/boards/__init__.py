"""Boards: a grid plus everything that changes on it. The single owner of the truth."""
