"""Freeze: what packers of games must know, as modules are loaded at first use."""

from __future__ import annotations

from pathlib import Path


def hooks() -> list[str]:
    """The folder of the hook, for PyInstaller."""
    return [str(Path(__file__).parent)]
