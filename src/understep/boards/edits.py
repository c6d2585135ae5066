"""Edits: the changes of a board as JSON lines, and the way back.

One line is one step of undo: a list of changes, by names and cells. Replayed on an equal board, in
order, they make it equal again.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator, Mapping
from typing import Any

import numpy as np

from understep.boards.contents import OPEN, TYPES, PartKey
from understep.boards.cost import plain
from understep.boards.data import data_table
from understep.boards.journal import Change, Journal, JournalStep, Owned, Version
from understep.boards.roster import Listed
from understep.boards.spelled import Rules, spelled, unspelled
from understep.boards.store import ABSENT, Absent, PairTable
from understep.boards.turn import Turn
from understep.boards.unit import Unit
from understep.checks import expect, named, text, whole
from understep.errors import InputError, JournalError, StaleError, UnderstepError

MOST_TEXT = 64 << 20
FACTS = "side", "movement", "left", "facing", "sight", "eye", "attack", "data", "at"


def written(board: Any, since: int) -> str:
    """The changes since a state, as lines."""
    journal = board._journal
    if not isinstance(journal, Journal):
        raise JournalError("what a side knows follows from the edits of the board itself")
    expect("since", since, int, "must be a state of this board")
    steps = journal.path_from(since)
    if steps is None:
        raise StaleError(f"what changed since state {since} is not known any more")
    edits = (list(_edits(board, step)) for step in steps)
    return "".join(json.dumps(step, ensure_ascii=False) + "\n" for step in edits if step)


def _edits(board: Any, step: JournalStep) -> Iterator[dict[str, Any]]:
    for change in step.changes:
        store = change.store
        if isinstance(store, Owned):
            # states grow, so that this step goes back
            if 0 < step.after < step.before:
                rule = "what a side knows was undone, too; go on from a new copy"
                raise JournalError(rule)
            continue  # what sides know follows
        # it only marks that something was followed
        if isinstance(store, Version):
            continue
        if store is board._memories:
            rule = "a side began or ceased to know things; let it do so on both boards first"
            raise JournalError(rule)
        if store is board._roster:
            yield _unit(board, change)
        elif store is board._roster.sides:
            yield {"side": change.keys, "to": not isinstance(change.new, Absent)}
        elif store is board._facts:
            yield {"board": change.keys, "to": spelled(change.new)}
        else:
            yield _part(board, board._contents.key_of(store), change)


def _unit(board: Any, change: Change) -> dict[str, Any]:
    """A unit that came, went or changed: of the last, what differs."""
    if isinstance(change.new, Absent):
        return {"unit": change.keys, "to": None}
    new = change.new.unit
    facts = {name: getattr(new, name) for name in FACTS}
    edit = {"unit": change.keys, "to": facts}
    if isinstance(change.old, Listed):
        old = change.old.unit
        edit["to"] = {name: facts[name] for name in FACTS if facts[name] != getattr(old, name)}
    else:
        every = board._roster.values
        serial, name = change.new.serial, change.keys
        later = [each for key, each in every.items() if each.serial > serial and key != name]
        if later:  # it comes back to its place in the order
            edit["before"] = [
                each.unit.name for each in sorted(later, key=lambda each: each.serial)
            ]
    return {key: spelled(value) for key, value in edit.items()}


def _part(board: Any, key: PartKey, change: Change) -> dict[str, Any]:
    """A change of what lies on cells, or between them."""
    grid, contents = board.grid, board._contents
    if isinstance(change.store, PairTable):
        new = None if isinstance(change.new, Absent) else [plain(change.new[0]), change.new[1]]
        ends = [list(grid.numbering.cell_of(number)) for number in change.keys]
        return {"part": "links", "at": ends, "to": new}
    keys = np.atleast_1d(change.keys)
    values = np.broadcast_to(np.asarray(change.new), keys.shape).tolist()
    if key[0] == "terrain":
        values = [contents.terrain_names[value] for value in values]
    elif key[0] == "edges":
        names, ways = contents.edge_names, grid.directions
        keys, way = np.divmod(keys, len(ways))
        edges = [[names[code % OPEN - 1], code >= OPEN] if code else None for code in values]
        values = [[ways[at], edge] for at, edge in zip(way.tolist(), edges, strict=True)]
    # most edits give all cells the same, which is written once
    same = all(value == values[0] for value in values)
    edit = {"part": key[0]} | ({} if key[1] is None else {"name": key[1]})
    cells = grid.numbering.cells_of(keys).tolist()
    return edit | {"at": cells} | ({"to": values[0]} if same and values else {"each": values})


def replay(board: Any, edits: str, rules: Rules) -> None:
    """Make the changes that lines tell, all or none."""
    expect("edits", edits, str, "must be a text of JSON lines")
    expect("rules", rules, Mapping, "must map names to functions")
    # before any of it is read
    if len(edits) > MOST_TEXT:
        raise InputError("edits", f"at most {MOST_TEXT} characters", len(edits))
    found = [unit.movement.rule for unit in board.units() if unit.movement.rule is not None]
    # rules are functions: no text can hold them, but the board may have them
    known = {rule.__qualname__: rule for rule in found} | dict(rules)
    steps = list(_read(edits))
    # on a copy first, so that nothing is done where one of them cannot be
    for each in (board.copy(), board):
        for number, step in steps:
            try:
                with each.batch():
                    for edit in step:
                        _replayed(each, edit, known)
            except UnderstepError as error:
                raise InputError("edits", str(error), step, f"line {number}") from None


def _read(edits: str) -> Iterator[tuple[int, list[Any]]]:
    """The steps of some lines, each with its number."""
    for number, line in enumerate(edits.split("\n"), 1):
        if not line.strip():
            continue
        try:
            step = json.loads(line, parse_constant=_no_constant)
        except (ValueError, RecursionError) as error:
            raise InputError(
                "edits", f"is not JSON: {error}", line[:80], f"line {number}"
            ) from None
        if not isinstance(step, list):
            raise InputError("edits", "must be a list of changes", step, f"line {number}")
        yield number, step


def _no_constant(word: str) -> None:
    raise ValueError(f"{word} is not a number of JSON")


def _replayed(board: Any, edit: Any, rules: Rules) -> None:
    """Make one change."""
    what = next((key for key in DO if isinstance(edit, dict) and key in edit), None)
    if what is None or not isinstance(edit[what], str):
        raise InputError("edit", "must name a unit, a side, a part, or a fact of the board", edit)
    try:
        DO[what](board, edit, rules)
    except (LookupError, TypeError, ValueError, OverflowError) as error:
        if isinstance(error, UnderstepError):
            raise
        raise InputError("edit", f"is no edit of a {what}: {error!r}", edit) from None


def _do_unit(board: Any, edit: dict[str, Any], rules: Rules) -> None:
    name, facts = edit["unit"], edit["to"]
    if facts is None:
        board.remove(name)
        return
    # what a text says is checked as what a caller says
    expect("to", facts, dict, "must be facts of a unit, or null")
    for fact in facts:
        named("to", "fact of a unit", fact, FACTS)
    facts = {fact: unspelled(value, fact, rules) for fact, value in facts.items()}
    # a unit that is changed may be moved, too; both are one change
    at = facts.pop("at", None)
    if name in board._roster.values:
        board._units.revise(name, facts, at)
        return
    board.add(Unit(name, **facts), at=at)
    # of those it came before, some may be gone
    later = [each for each in edit.get("before", ()) if each in board._roster.values]
    if later and later[0] != name:
        board._units.move_before(name, later[0])


def _do_side(board: Any, edit: dict[str, Any], _rules: Rules) -> None:
    if edit["to"]:
        board.enlist(edit["side"])
    elif any(unit.side == edit["side"] for unit in board.units()):
        raise InputError("side", "has units here", edit["side"])
    else:
        named("side", "side", edit["side"], board.sides)
        board._journal.write(board._roster.sides, edit["side"], ABSENT)


def _do_board(board: Any, edit: dict[str, Any], _rules: Rules) -> None:
    fact, to = edit["board"], edit["to"]
    if fact == "title":
        board.title = to
    elif fact == "data":
        board._journal.write(board._facts, "data", data_table("data", to))
    elif fact == "turn":
        if to is not None:
            sides, side, count, used = to
            for each in (*sides, side):
                text("sides", each)
            pairs = tuple((str(name), whole("used", many, 0)) for name, many in used)
            to = Turn(tuple(sides), side, whole("round", count, 1), pairs)
        board.turn = to
    else:
        raise InputError("board", "must be title, data or turn", fact)


def _do_part(board: Any, edit: dict[str, Any], _rules: Rules) -> None:
    part, name, at = edit["part"], edit.get("name"), edit["at"]
    if part == "links":
        a, b = at
        if edit["to"] is not None:
            board.link(a, b, edit["to"][0], both=False, kind=edit["to"][1])
        else:
            board.unlink(a, b, both=False)
        return
    # one for all, or one for each
    values = edit["each"] if "each" in edit else [edit["to"]] * len(at)
    if len(values) != len(at):
        raise InputError("each", f"must be one for each of {len(at)} cells", len(values))
    if part == "edges":
        for cell, (way, edge) in zip(at, values, strict=True):
            there = board.grid.step(cell, way)
            kind, is_open = edge or (None, False)
            board.set_edge(cell, there, kind, both=False, is_open=is_open)
    elif part == "elevation":
        board.set_elevation(np.array(values, dtype=float), at)
    elif part == "property":
        kind = TYPES.get(type(board.properties.get(name)), object)
        # JSON may have written a whole float as an int
        values = [float(each) if kind is np.float64 else each for each in values]
        board.set_value(name, values, at)
    elif part == "terrain":
        # in the order of first use, each terrain in one change
        for each in dict.fromkeys(values):
            board.paint(
                each, [cell for cell, value in zip(at, values, strict=True) if value == each]
            )
    else:
        board._features.set_counts(part, name, at, values)


DO: dict[str, Callable[[Any, dict[str, Any], Rules], None]] = {
    "unit": _do_unit, "side": _do_side, "board": _do_board, "part": _do_part,
}  # fmt: skip
