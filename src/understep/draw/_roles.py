"""Roles: what the marks of overlays mean, and how figures, legends and terminals show them."""

from __future__ import annotations

from typing import Any, Literal, NamedTuple, TypeAlias

from understep.draw import _look as look

Swatch: TypeAlias = Literal[
    "", "turn", "line", "tint", "hatch", "veil", "ring", "full ring", "dot", "marker", "arrow"
]


class Role(NamedTuple):
    """How one role is shown.

    Attributes
    ----------
    words
        What it means, in the legend of a figure; ``{}`` is the number.
    swatch
        The kind of its swatch there.
    ink
        Its colour.
    marker
        A marker on its cells; empty where figures draw it in a way of its own.
    sign
        Before the glyph of a cell, in a terminal; empty: its number, or nothing.
    meaning
        What it means, in the legend of a terminal.
    """

    words: str = ""
    swatch: Swatch = ""
    ink: str = look.ROUTE
    marker: str = ""
    sign: str = ""
    meaning: str = ""


#: By role, in the order in which a terminal's legend names them.
ROLES = {
    "reach": Role(
        "may end there, turn {}", "turn", meaning="1-9  may end there, in that turn"
    ),
    "pass": Role("may only pass", "dot", look.INK, "", ":", ":    may only pass"),
    "start": Role("where the unit stands"),
    "route": Role("route, turns numbered", "line", look.ROUTE, "", "*",
                  "*    route; *1 where turn 1 ends"),
    "turn-end": Role("where a turn ends", sign="*"),
    "goal": Role("goal", "full ring", look.ROUTE, "", "*"),
    "refused": Role("not possible there", "marker", look.ROUTE, "x", "x",
                    "x    not possible there"),
    "nearest": Role("nearest it can get", "marker", look.ROUTE, "P", "+",
                    "+    nearest it can get"),
    "finding": Role("to look at, by number", "marker", look.ROUTE, "D", "!",
                    "!    something to look at"),
    "line": Role("line of sight", "marker", look.INK, ".", ".", ".    line of sight"),
    "view": Role("edge of what is seen", "line", look.INK, "", "'", "'    seen"),
    "eye": Role("where it is seen from", sign="'"),
    "attack": Role("can be attacked", "hatch", look.STRIKE, "", "/", "/    can be attacked"),
    "target": Role("target", "ring", look.STRIKE, "", "!", "!..! a target"),
    "threat": Role("can be attacked, by how many", "hatch", look.STRIKE,
                   meaning="1-9  so many foes can attack it"),
    "stand": Role("stands, the best first", "full ring", look.STRIKE,
                  meaning="1-9  where to attack from, the best first"),
    "seen before": Role("known, not seen now", "tint", look.FAINT, "", ",",
                        ",    known, not seen now"),
    "unknown": Role("never seen", "veil", look.FAINT, "", "?", "?    never seen"),
    "remembered": Role("last seen there", "full ring", look.FAINT, "", "!",
                       "!    a unit was last seen there"),
    "field": Role("cost {:g} to {:g}", "", meaning="0-9  cost"),
    "area": Role("areas, by number", "tint", look.TURNS[0],
                 meaning="a-z  areas, the largest first"),
    "expanded": Role("expanded, the darker the sooner", "tint", "#484d85", "", "-",
                     "-    expanded by the search"),
    "free": Role("could stand there", "tint", look.FREE),
    "closed": Role("could not stand there", "tint", look.SHUT, "", "#",
                   "#    could not stand there"),
    "back": Role("to the cell before", "arrow", look.INK,
                 meaning="NE   to the cell before; *: link, leap"),
    "onward": Role("to the next cell", "arrow", look.INK,
                   meaning="NE   to the next cell; *: link, leap"),
    "label": Role("a text of the game"),
}  # fmt: skip


def role_of(name: str) -> Role:
    """How a role is shown: one of a game's own as a tint, with its name in the legend."""
    found = ROLES.get(name)
    return found or Role(name, "tint", look.OTHER, "", "o", f"o    {name}")


def tint(role: Role) -> str:
    """The colour of a role that is a tint: thin, unless its ink says how opaque it is."""
    return role.ink if len(role.ink) > len("#rrggbb") else role.ink + look.THIN


MARKERS = {name: role.marker for name, role in ROLES.items() if role.marker}


def reach_color(turn: int) -> tuple[float, float, float, float]:
    """The wash over cells that are reached in a turn."""
    return (0.76, 0.34, 0.10, 0.2 / max(1, turn) ** 0.8)


def swatch(name: str, number: Any) -> Any:
    """What stands for a role in the legend of a figure; None: nothing does."""
    from matplotlib.lines import Line2D
    from matplotlib.patches import Patch

    role = role_of(name)
    turn = (int(number or 1) - 1) % len(look.TURNS)
    point: dict[str, Any] = {"ls": "none", "marker": "o", "mec": role.ink, "mew": 1.8, "ms": 9}
    if role.swatch == "turn":
        return Patch(
            fc=reach_color(int(number or 1)), ec=look.TURNS[turn], lw=1.6, ls=look.DASHES[turn]
        )
    if role.swatch == "line":
        dashes = look.SEEN if name == "view" else "--"
        return Line2D([], [], color=role.ink, lw=2, ls=dashes)
    if role.swatch == "tint":
        fill = look.PAPER if role.ink == look.FAINT else tint(role)
        return Patch(fc=fill, ec=role.ink, lw=0.4)
    if role.swatch == "hatch":
        return Patch(fc="none", ec=role.ink, hatch=look.CROSSED, lw=0)
    if role.swatch == "veil":
        return Patch(fc=look.PAPER, ec=role.ink, hatch=look.VEIL, lw=0.4)
    if role.swatch in ("ring", "full ring"):
        return Line2D([], [], mfc="none" if role.swatch == "ring" else look.PAPER, **point)
    if role.swatch == "arrow":
        return Line2D([], [], color=role.ink, lw=1, marker=">", ms=5)
    if role.swatch == "dot":
        return Line2D([], [], ls="none", marker=".", color=role.ink)
    if role.swatch == "marker":
        return Line2D([], [], ls="none", marker=role.marker, color=role.ink, mew=2)
    return None
