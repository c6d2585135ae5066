"""Study: surveys of many boards, searches step by step, comparisons, and proof."""

from understep._face import face

__getattr__, __dir__ = face(__name__)
