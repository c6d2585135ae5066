"""What the commands share: boards and cells as arguments, answers on the terminal."""

from __future__ import annotations

import json
from collections.abc import Callable
from importlib.resources import files
from pathlib import Path
from typing import Any

import click
from rich.console import Console

import understep as us
from understep.errors import UnderstepError

SHIPPED = ("fen", "sluice-house")


def shipped(name: str) -> us.Board:
    """A board that comes with the package."""
    from understep.files.reader import parse

    raw = files("understep").joinpath("data", f"{name}.board.json").read_bytes()
    return parse(raw, f"{name}.board.json")


class BoardArgument(click.ParamType[us.Board]):
    """A board file, or the name of a shipped board."""

    name = "board"

    def convert(self, value: Any, param: Any, ctx: Any) -> us.Board:
        """Load the board."""
        if isinstance(value, us.Board):
            return value
        if value in SHIPPED:
            return shipped(value)
        if not Path(value).is_file():
            self.fail(f"no file {value!r}; type a board file, or one of {', '.join(SHIPPED)}")
        try:
            return us.load(value)
        except (UnderstepError, OSError) as error:
            return self.fail(str(error))


class CellArgument(click.ParamType[us.Cell]):
    """A cell as ``col,row``."""

    name = "col,row"

    def convert(self, value: Any, param: Any, ctx: Any) -> us.Cell:
        """Read the pair."""
        numbers = whole_numbers(value)
        if numbers is None or len(numbers) != 2:
            self.fail(f"{value!r} is no cell; type col,row, such as 3,4")
        return us.Cell(*numbers)


def whole_numbers(text: str) -> list[int] | None:
    """Numbers parted by commas; None where it is something else."""
    try:
        return [int(part) for part in text.split(",")]
    except ValueError:
        return None


class Commands(click.Group):
    """A group whose commands turn the library's errors into one line and exit status 2."""

    def invoke(self, ctx: click.Context) -> Any:
        """Run, and explain what was refused."""
        try:
            return super().invoke(ctx)
        except UnderstepError as error:
            raise click.UsageError(str(error), ctx) from None
        except OSError as error:
            raise click.UsageError(f"{error.filename or 'file'}: {error.strerror}", ctx) from None


def output_options(command: Callable[..., Any]) -> Callable[..., Any]:
    """``--json``, ``--png`` and ``--isometric``, the same for every command that answers."""

    def keep(context: click.Context, _: Any, value: bool) -> None:
        context.meta["view"] = "isometric" if value else None

    command = click.option(
        "--isometric", is_flag=True, expose_value=False, callback=keep,
        help="Draw the figure as seen from the side, with elevation.",
    )(command)  # fmt: skip
    command = click.option("--json", "as_json", is_flag=True, help="Print JSON for programs.")(
        command
    )
    return click.option(
        "--png", type=click.Path(dir_okay=False), help="Draw a figure into FILE (.png, .svg, .pdf)."
    )(command)


def say(text: Any = "") -> None:
    """Print for people; never wraps a board."""
    Console(highlight=False, soft_wrap=True).print(text, markup=False)


def show_answers(
    board: us.Board,
    *answers: Any,
    as_json: Any = None,
    png: str | None = None,
    labels: Any = None,
    **drawing: Any,
) -> None:
    """Print a board with answers on it, or ``as_json``; draw a figure too where one is wanted."""
    if png is not None:
        view = click.get_current_context().meta["view"]
        us.figure(board, *answers, path=png, labels=labels, view=view, **drawing)
    if as_json is not None:
        click.echo(json.dumps(as_json, ensure_ascii=False))
        return
    from understep.draw.terminal import legend

    console = Console()
    width = console.width if console.is_terminal else 1000
    say(us.picture(board, *answers, width=width, labels=labels))
    say()
    say(legend(board, *answers))
    if png is not None:
        say(f"figure: {png}")
