"""What the commands share: boards and cells as arguments, answers on the terminal."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import click
from rich.console import Console

import understep as us
from understep.checks import path_of
from understep.draw._look import PAGES, PICTURES
from understep.errors import InputError, UnderstepError, printable
from understep.maps._shipped import SHIPPED

PIECE = "name a piece: FOLDER@col,row,cols,rows"
MOST_WHOLE = 1 << 20  # cells

WIDEST = 120  # columns of the text below a map


class BoardArgument(click.ParamType):  # type: ignore[type-arg]
    """A board file, the name of a shipped board, or a world folder, or a piece of one."""

    name = "board"

    def convert(self, value: Any, param: Any, ctx: Any) -> us.Board:
        """Load the board."""
        # as tests call it
        if isinstance(value, us.Board):
            return value
        if value in SHIPPED:
            return us.maps.shipped(value)
        # a folder's own name may hold an @
        folder, mark, piece = value.rpartition("@")
        if mark and Path(folder).is_dir():
            return self._piece(opened(self, folder), piece)
        if Path(value).is_dir():
            world = opened(self, value)
            # as one board it would fill the memory
            if world.size[0] * world.size[1] > MOST_WHOLE:
                self.fail(f"{world!r} is too large for one board; {PIECE}")
            return titled(world.board((0, 0), *world.size), value)
        if not Path(value).is_file():
            self.fail(f"no file {value!r}; type a board file, or one of {', '.join(SHIPPED)}")
        try:
            return us.load(value)
        except (UnderstepError, OSError) as error:
            return self.fail(str(error))

    def _piece(self, world: us.worlds.World, piece: str) -> us.Board:
        """A piece of a world, by its first cell, columns and rows."""
        numbers = whole_numbers(piece)
        if numbers is None or len(numbers) != 4:
            self.fail(f"{piece!r} is not a piece of a world; {PIECE}")
        try:
            return titled(world.board(us.Cell(*numbers[:2]), *numbers[2:]), f"piece {piece}")
        except (UnderstepError, OSError) as error:
            return self.fail(str(error))


class WorldArgument(click.ParamType):  # type: ignore[type-arg]
    """As a board, but a whole world folder is a world."""

    name = "board"

    def convert(self, value: Any, param: Any, ctx: Any) -> us.Board | us.worlds.World:
        """Open the world, or load the board."""
        if isinstance(value, str) and Path(value).is_dir():
            return opened(self, value)
        return BoardArgument().convert(value, param, ctx)


def opened(argument: click.ParamType[Any], folder: str) -> us.worlds.World:
    """A world folder."""
    try:
        return us.worlds.load_world(folder)
    except (UnderstepError, OSError) as error:
        return argument.fail(f"{folder!r} is not a world folder: {error}")


def titled(board: us.Board, title: str) -> us.Board:
    """A board with a title."""
    board.title = title
    return board


class CellArgument(click.ParamType):  # type: ignore[type-arg]
    """A cell as ``col,row``."""

    name = "col,row"

    def convert(self, value: Any, param: Any, ctx: Any) -> us.Cell:
        """Read the pair."""
        numbers = whole_numbers(value)
        if numbers is None or len(numbers) != 2:
            self.fail(f"{value!r} is not a cell; type col,row, such as 3,4")
        return us.Cell(*numbers)


class OutputFile(click.Path):
    """A file to write, refused before anything is done if it has another ending."""

    def __init__(self, endings: tuple[str, ...]) -> None:
        super().__init__(dir_okay=False)
        self._endings = endings

    def convert(self, value: Any, param: Any, ctx: Any) -> Any:
        """Check the ending."""
        try:
            path_of("path", value, self._endings)
        except InputError as error:
            self.fail(str(error), param, ctx)
        return super().convert(value, param, ctx)


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
        except click.UsageError as error:
            # names and paths can hold characters that would steer the terminal
            raise click.UsageError(printable(error.format_message()), error.ctx) from None
        except UnderstepError as error:
            raise click.UsageError(printable(str(error)), ctx) from None
        except OSError as error:
            what = printable(f"{error.filename or 'file'}: {error.strerror}")
            raise click.UsageError(what, ctx) from None


def output_options(command: Callable[..., Any]) -> Callable[..., Any]:
    """``--json``, ``--png``, ``--html`` and ``--isometric``, for every command that answers."""

    def keep(context: click.Context, _: Any, value: bool) -> None:
        context.meta["view"] = "isometric" if value else None

    def begin(context: click.Context, _: Any, value: us.Cell | None) -> None:
        context.meta["first"] = value

    def write(context: click.Context, _: Any, value: str | None) -> None:
        context.meta["html"] = value

    command = click.option(
        "--from", type=CellArgument(), expose_value=False, callback=begin, metavar="COL,ROW",
        help="First column and row of the map, where the board is too wide.",
    )(command)  # fmt: skip
    command = click.option(
        "--isometric", is_flag=True, expose_value=False, callback=keep,
        help="Draw an isometric view, with elevation.",
    )(command)  # fmt: skip
    command = click.option("--json", "as_json", is_flag=True, help="Print JSON for programs.")(
        command
    )
    command = click.option(
        "--html", type=OutputFile(PAGES), expose_value=False, callback=write,
        help="Write a page to explore in a browser into FILE (.html).",
    )(command)  # fmt: skip
    return click.option(
        "--png",
        type=OutputFile(PICTURES),
        help="Draw a figure into FILE (.png, .svg, .pdf).",
    )(command)


def say(text: Any = "") -> None:
    """Print for people; never wraps a board."""
    text = printable(text) if isinstance(text, str) else text
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
        us.draw.figure(board, *answers, path=png, labels=labels, view=view, **drawing)
    html = click.get_current_context().meta.get("html")
    if html is not None:
        us.draw.page(board, *answers, path=html, title=drawing.get("title"))
    if as_json is not None:
        click.echo(json.dumps(as_json))
        return
    from understep.draw._terminal import legend

    console = Console()
    # what is read by a program, or from a file, is not cut to fit a window
    width = console.width if console.is_terminal else 1000
    first = click.get_current_context().meta.get("first")
    shown = us.draw.terminal(
        board, *answers, width=width, labels=labels, first=first, numbers=True, edges=True
    )
    say(shown)
    say()
    Console(highlight=False, width=min(width, WIDEST)).print(legend(board, *answers), markup=False)
    if png is not None:
        say(f"figure: {png}")
    if html is not None:
        say(f"page: {html}")
