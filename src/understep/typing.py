"""The types of arguments, for annotations."""

from understep._face import face

__getattr__, __dir__ = face(__name__)
