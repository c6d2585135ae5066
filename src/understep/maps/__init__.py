"""Maps: levels from text, tables and images; resize, scatter, check."""

from understep._face import face

__getattr__, __dir__ = face(__name__)
