"""Behaviors: what units do that the computer leads. Each returns a plan and moves nothing."""

from understep._face import face

__getattr__, __dir__ = face(__name__)
