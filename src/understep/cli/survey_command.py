"""The command that asks the same questions of many boards."""

from __future__ import annotations

import json
import signal
import sys
from concurrent.futures import ProcessPoolExecutor
from contextlib import nullcontext
from functools import partial
from multiprocessing import active_children, get_context
from pathlib import Path
from typing import Any

import click
from rich.console import Console
from rich.markup import escape
from rich.progress import Progress
from rich.table import Table

import understep as us
from understep.cli.common import OutputFile, say
from understep.draw._look import PICTURES
from understep.errors import printable
from understep.study._survey_questions import QUESTIONS
from understep.worlds._delta import MOST_SEED

ENDING = ".board.json"


class SeedsArgument(click.ParamType):  # type: ignore[type-arg]
    """Seeds as ``first:end``, the end left out."""

    name = "first:end"

    def convert(self, value: Any, param: Any, ctx: Any) -> range:
        """Read the pair."""
        first, _, end = str(value).partition(":")
        known = all(part.isascii() and part.isdecimal() and len(part) < 11 for part in (first, end))
        if not known or not int(first) < int(end) <= MOST_SEED:
            self.fail(f"{value!r} are not seeds; type first:end, such as 0:20")
        return range(int(first), int(end))


@click.command()
@click.argument(
    "folder", type=click.Path(exists=True, file_okay=False, path_type=Path), required=False
)
@click.option("--seeds", type=SeedsArgument(), help="Ask demo boards of these seeds instead.")
@click.option(
    "--question", "questions", type=click.Choice(list(QUESTIONS)), multiple=True,
    help="Ask this; may be given several times. Default: all.",
)  # fmt: skip
@click.option("--workers", default=1, show_default=True, help="Number of processes.")
@click.option(
    "--out", type=click.Path(file_okay=False, path_type=Path),
    help="Write survey.csv and survey.json there, and continue an interrupted run.",
)  # fmt: skip
@click.option("--json", "as_json", is_flag=True, help="Print JSON for programs.")
@click.option("--png", type=OutputFile(PICTURES), help="Draw a chart into FILE (.png, .svg, .pdf).")
def survey(
    folder: Path | None,
    seeds: range | None,
    questions: tuple[str, ...],
    workers: int,
    out: Path | None,
    as_json: bool,
    png: str | None,
) -> None:
    """Ask all boards in FOLDER, or boards from seeds, the same questions.

    Exit status 1: a board could not be read or asked.
    """
    if (folder is None) == (seeds is None):
        raise click.UsageError("type a folder of board files, or --seeds first:end")
    if workers < 1:
        raise click.UsageError("--workers must be 1 or more")
    boards: dict[str, Any] = {
        f"delta {seed}": partial(us.worlds.delta, seed) for seed in seeds or ()
    }
    if folder is not None:
        for path in sorted(folder.glob(f"*{ENDING}")):
            boards[path.name.removesuffix(ENDING)] = partial(us.load, path)
        if not boards:
            raise click.UsageError(f"there are no files *{ENDING} in {folder}")
    if out is not None:
        out.mkdir(parents=True, exist_ok=True)
    # a line for each answer, so that an interrupted run can go on
    log = None if out is None else out / "survey.log"
    pool: Any = nullcontext(None)
    if workers > 1:  # new processes, not copies of one that has threads; they die with this one
        pool = ProcessPoolExecutor(
            workers, get_context("spawn"), signal.signal, (signal.SIGINT, signal.SIG_IGN)
        )
    with pool as executor, Progress(console=Console(stderr=True), transient=True) as progress:
        task = progress.add_task("asking", total=len(boards))

        def tell(name: str, done: int, _: int) -> None:
            progress.update(task, completed=done, description=escape(printable(name)))

        try:
            found = us.study.survey(
                boards, questions or tuple(QUESTIONS), executor=executor, log=log, progress=tell
            )
        except KeyboardInterrupt:
            # they would wait for work that never comes
            for child in active_children():
                child.kill()
            raise
    if out is not None:
        (out / "survey.csv").write_text(found.csv(), encoding="utf-8", newline="")
        (out / "survey.json").write_text(json.dumps(found.plain(), indent=1), encoding="utf-8")
    if png is not None:
        what = f"Boards in {folder.name}" if folder is not None else "Lands of the delta"
        us.draw.chart(found, title=f"{what}: what was asked of them", path=png)
    if as_json:
        click.echo(json.dumps(found.plain()))
    else:
        _tell(found, len(boards))
        files = [] if out is None else [out / "survey.csv", out / "survey.json"]
        for written in (*files, *([] if png is None else [png])):
            say(f"written: {written}")
    if found.errors:
        sys.exit(1)


def _tell(found: us.answers.Survey, many: int) -> None:
    """The summary, and what failed."""
    table = Table("question", "subject", "boards", "least", "middle", "average", "most", box=None)
    for row in found.summary:
        numbers = [
            "" if each is None else f"{each:.4g}"
            for each in (row.least, row.middle, row.average, row.most)
        ]
        words = (escape(printable(word)) for word in (row.question, row.subject))
        table.add_row(*words, str(row.boards), *numbers)
    failed = {row.board for row in found.errors}
    say(f"{many} boards asked, {len(failed)} failed")
    Console().print(table)
    for each in found.errors:
        say(f"  {each.board}{', ' + each.question if each.question else ''}: {each.error}")
