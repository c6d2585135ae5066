"""Drawing: figures and terminal views, so that a programmer sees what the rules decided."""

from understep._face import face

__getattr__, __dir__ = face(__name__)
