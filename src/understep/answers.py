"""The classes of answers, for annotations and ``isinstance``; calls return them."""

from understep._face import face

__getattr__, __dir__ = face(__name__)
