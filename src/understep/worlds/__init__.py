"""Surveys over many boards, and the demo world."""
