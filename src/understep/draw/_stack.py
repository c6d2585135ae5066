"""The stack: what is laid over a board, the lowest first, each with whose it is."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any, NamedTuple

from understep.errors import InputError
from understep.overlay import Overlay, Overlays

ON_ROUTE = "start", "route", "turn-end", "goal"


class Layer(NamedTuple):
    """An overlay to draw.

    Attributes
    ----------
    overlay
        The overlay.
    name
        The name of the unit it is of; empty: of none.
    route
        The number of the route in it, from 0; None: it has no route.
    """

    overlay: Overlay
    name: str = ""
    route: int | None = None


def stack(answers: Iterable[Any]) -> list[Layer]:
    """Overlays, and what can give one, the lowest first.

    Raises
    ------
    InputError
        What is not an overlay and has none.
    """
    found: list[Layer] = []
    for answer in answers:
        if isinstance(answer, Overlays):
            found += map(Layer, answer)
            continue
        overlay = answer if isinstance(answer, Overlay) else None
        if overlay is None and hasattr(answer, "overlay"):
            overlay = answer.overlay()
        if overlay is None:
            raise InputError("answers", "must be answers or overlays", answer)
        found.append(Layer(overlay, getattr(getattr(answer, "unit", None), "name", "")))
    found.sort(key=lambda layer: layer.overlay.priority)
    routes = 0
    for place, layer in enumerate(found):
        if layer.overlay.role("route") or (
            layer.overlay.role("start") and layer.overlay.role("goal")
        ):
            found[place] = layer._replace(route=routes)
            routes += 1
    return found
