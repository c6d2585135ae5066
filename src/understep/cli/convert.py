"""``understep convert``: coordinates from one system to another, from arguments, lines or CSV."""

from __future__ import annotations

import csv
import io
import json
import sys
from collections.abc import Callable, Iterator, Sequence
from typing import IO, Any, Literal, get_args

import click

import understep as us
from understep.cli.common import BoardArgument, say
from understep.errors import InputError
from understep.grids.systems import Shifted, System, Top

Address = System | Literal["world"]
PLACES = (*get_args(System), "world")
COLUMNS = {
    "offset": ("col", "row"),
    "axial": ("q", "r"),
    "cube": ("q", "r", "s"),
    "doubled": ("dcol", "drow"),
    "world": ("x", "y"),
}
MOST_CHARACTERS = 64 << 20
Numbers = Sequence[int | float]


# a negative coordinate looks like an option
@click.command(context_settings={"ignore_unknown_options": True})
@click.argument("values", nargs=-1)
@click.option("--from", "source", type=click.Choice(PLACES), default="offset", show_default=True)
@click.option("--to", "target", type=click.Choice(PLACES), default="cube", show_default=True)
@click.option("--top", type=click.Choice(get_args(Top)), help="Which end of a hex is up.")
@click.option("--shifted", type=click.Choice(get_args(Shifted)), help="Which lines are shifted.")
@click.option(
    "--board",
    type=BoardArgument(),
    help="Take top, shifted and world from a board. Default: pointy, odd.",
)
@click.option(
    "--csv",
    "table",
    type=click.File("r", encoding="utf-8", lazy=False),
    help="Read CSV with a header, write it with columns added: col,row (offset), q,r (axial),"
    " q,r,s (cube), dcol,drow (doubled), x,y (world).",
)
@click.option("--json", "as_json", is_flag=True, help="Print JSON for programs.")
def convert(
    values: tuple[str, ...],
    source: Address,
    target: Address,
    top: Top | None,
    shifted: Shifted | None,
    board: us.Board | None,
    table: IO[str] | None,
    as_json: bool,
) -> None:
    """Convert coordinates, such as 3,2 or -1,4,-3; a - stands for the lines of standard input.

    Exit status 1: a world point is off the board.
    """
    if board is None and "world" in (source, target):
        raise click.UsageError("the world is that of a board; type --board BOARD too")
    if board is not None and (top or shifted):
        raise click.UsageError("a board has its own top and shift; leave out --top and --shifted")
    if table is not None and as_json:
        raise click.UsageError("--csv writes CSV; leave out --json")
    # one of the two, not both and not neither
    if (table is None) == (not values):
        raise click.UsageError("type coordinates such as 3,2, or - to read lines, or --csv FILE")
    change = _change(source, target, board, {"top": top or "pointy", "shifted": shifted or "odd"})
    if table is not None:
        sys.exit(_table(table, source, target, change))
    rows = [(text, change(_numbers(text, source, place), place)) for text, place in _texts(values)]
    if as_json:
        click.echo(json.dumps([row for _, row in rows]))
    else:
        for text, row in rows:
            say(f"{source} {text} -> {target} {_shown(row)}")
    sys.exit(int(any(row is None for _, row in rows)))


def _texts(values: tuple[str, ...]) -> Iterator[tuple[str, str]]:
    """Coordinates as text, each with its place for messages."""
    for value in values:
        if value != "-":
            yield value, ""
            continue
        for number, line in enumerate(_read(sys.stdin).splitlines(), start=1):
            if line.strip():
                yield line.strip(), f"line {number}: "


def _read(file: IO[str] | None) -> str:
    # a program can be started without any
    if file is None or file.closed:
        raise click.UsageError("there is no standard input")
    try:
        text = file.read(MOST_CHARACTERS + 1)
    except UnicodeDecodeError as error:
        raise click.UsageError(f"byte {error.start} is not UTF-8") from None
    if len(text) > MOST_CHARACTERS:
        raise click.UsageError(f"more than {MOST_CHARACTERS >> 20} million characters")
    # some spreadsheets put this mark before UTF-8
    return text.removeprefix("\ufeff")


def _numbers(text: str, source: Address, place: str) -> Numbers:
    # only points of the world have fractions
    kind = float if source == "world" else int
    try:
        numbers = [kind(part) for part in text.replace(",", " ").split()]
    except ValueError:
        numbers = []
    if len(numbers) != len(COLUMNS[source]):
        like = ",".join(COLUMNS[source])
        what = "numbers" if source == "world" else "whole numbers"
        raise click.UsageError(f"{place}{text!r} is no {source} coordinate; type {what} {like}")
    return numbers


def _change(
    source: Address, target: Address, board: us.Board | None, how: Any
) -> Callable[[Numbers, str], list[int | float] | None]:
    """What converts the numbers of one coordinate; None for a point off the board."""
    grid = None if board is None else board.grid
    if isinstance(grid, us.HexGrid):
        how = {"top": grid.top, "shifted": grid.shifted}
    elif grid is not None and {source, target} - {"offset", "world"}:
        raise click.UsageError("a square board has offset and world coordinates only")

    def change(numbers: Numbers, place: str) -> list[int | float] | None:
        values: Any = tuple(numbers)
        system: Address = source
        try:
            if board is not None and system == "world":
                values, system = board.cell_at(values), "offset"
            if values is None:
                return None
            # where a cell lies is known to its board only
            flat: Any = "offset" if target == "world" else target
            found: Any = us.convert(values, system, flat, **how)  # type: ignore[arg-type]
            if board is not None and target == "world":
                found = board.center(found)
        except InputError as error:
            raise click.UsageError(f"{place}{error}") from None
        return found.tolist()  # type: ignore[no-any-return]

    return change


def _shown(row: list[int | float] | None) -> str:
    return "off the board" if row is None else ",".join(map(str, row))


def _table(
    table: IO[str],
    source: Address,
    target: Address,
    change: Callable[[Numbers, str], list[int | float] | None],
) -> int:
    """Read CSV and, if all of it is right, write it with columns added; the exit status."""
    # kept back until all of it is known to be right
    status, written = 0, io.StringIO()
    writer = csv.writer(written, lineterminator="\n")
    reader = csv.reader(io.StringIO(_read(table), newline=""), strict=True)
    try:
        header = next(reader, [])
        needed = COLUMNS[source]
        missing = [name for name in needed if header.count(name) != 1]
        if missing:
            rule = f"the header must have {','.join(needed)}, once each"
            raise click.UsageError(f"line 1: {rule}; it is {','.join(header)!r}")
        added = [name for name in COLUMNS[target] if name not in needed]
        if clash := [name for name in added if name in header]:
            raise click.UsageError(f"line 1: there is a column {clash[0]!r} already")
        places = [header.index(name) for name in needed]
        writer.writerow([*header, *added])
        for row in reader:
            if not row:
                continue
            place = f"line {reader.line_num}: "
            if len(row) != len(header):
                raise click.UsageError(
                    f"{place}has {len(row)} of the header's {len(header)} fields"
                )
            found = change(_numbers(",".join(row[at] for at in places), source, place), place)
            status = status or int(found is None)
            # a point off the board gets empty fields, so that all rows stay
            empty: list[Any] = [""] * 3
            named = dict(zip(COLUMNS[target], found or empty, strict=False))
            writer.writerow([*row, *(named[name] for name in added)])
    except csv.Error as error:
        raise click.UsageError(f"line {reader.line_num}: is no CSV: {error}") from None
    click.echo(written.getvalue(), nl=False)
    return status
