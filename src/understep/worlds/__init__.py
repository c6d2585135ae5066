"""Worlds: large maps in sectors, and journeys across them."""

from understep._face import face

__getattr__, __dir__ = face(__name__)
