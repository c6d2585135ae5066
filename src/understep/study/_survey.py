"""Survey: the same questions asked of many boards, here or wherever an executor runs them."""

from __future__ import annotations

import csv
import io
import json
import math
import os
from collections.abc import Callable, Iterable, Mapping
from concurrent.futures import FIRST_COMPLETED, Executor, Future, wait
from statistics import mean, median
from typing import Any, NamedTuple, TypeAlias

from understep.boards.board import Board
from understep.checks import expect, items, named, path_of
from understep.errors import InputError
from understep.study._survey_questions import QUESTIONS, Figure, Question

Source: TypeAlias = Board | Callable[[], Board]
FORMULA = ("=", "+", "-", "@", "\t", "\r")  # what makes a spreadsheet take a text for one
AHEAD = 64  # boards handed to an executor before the first of them is back
COLUMNS = "board", "question", "subject", "value", "error"


class SurveyRow(NamedTuple):
    """A row of a survey.

    Attributes
    ----------
    board
        The name of the board.
    question
        The name of the question; empty where the board itself could not be had.
    subject
        Of what the answer is, such as a unit; empty where there is only one.
    value
        The answer; None without one.
    error
        The error; empty where nothing failed.
    """

    board: str
    question: str
    subject: str
    value: Figure
    error: str = ""


class Summary(NamedTuple):
    """What one question came to over all boards.

    Attributes
    ----------
    question, subject
        As in `SurveyRow`.
    boards
        How many answers there are.
    missing
        How many boards asked have none, or failed.
    least, middle, average, most
        Of the answers; None without any.
    """

    question: str
    subject: str
    boards: int
    missing: int
    least: Figure
    middle: Figure
    average: Figure
    most: Figure


class Survey(tuple[SurveyRow, ...]):
    """What a survey found, board by board in the order given; a tuple of `SurveyRow`."""

    __slots__ = ()

    @property
    def errors(self) -> tuple[SurveyRow, ...]:
        """The rows that say what failed."""
        return tuple(row for row in self if row.error)

    def values(self, question: str, subject: str = "") -> dict[str, Figure]:
        """The answers to one question by board.

        Raises
        ------
        InputError
            What is not a text.
        """
        for argument, each in (("question", question), ("subject", subject)):
            expect(argument, each, str, "must be a text")
        return {
            row.board: row.value
            for row in self
            if (row.question, row.subject) == (question, subject) and not row.error
        }

    @property
    def summary(self) -> tuple[Summary, ...]:
        """Least, middle, average and most of every question and subject, as they come first."""
        found: dict[tuple[str, str], list[Figure]] = {}
        for row in self:
            if row.question:
                # a row without a question is of a board that could not be had
                found.setdefault((row.question, row.subject), []).append(row.value)
        rows = []
        for (question, subject), every in found.items():
            # a route that does not exist has no cost to average
            known = [value for value in every if value is not None]
            missing = len(every) - len(known)
            if known:
                of = min(known), median(known), mean(known), max(known)
                rows.append(Summary(question, subject, len(known), missing, *of))
            elif subject or not any(other == question for other, part in found if part):
                rows.append(Summary(question, subject, 0, missing, None, None, None, None))
        return tuple(rows)

    def csv(self) -> str:
        """The rows as CSV (RFC 4180), with a line of column names.

        A text that a spreadsheet would take for a formula has a ``'`` before it.
        """
        out = io.StringIO()
        writer = csv.writer(out)
        writer.writerow(COLUMNS)
        writer.writerows(["" if part is None else _safe(part) for part in row] for row in self)
        return out.getvalue()

    def plain(self) -> dict[str, Any]:
        """The rows and their summary as plain lists, for JSON."""
        return {
            "rows": [row._asdict() for row in self],
            "summary": [row._asdict() for row in self.summary],
        }


def survey(
    boards: Mapping[str, Source],
    questions: Iterable[str] | Mapping[str, Question] = tuple(QUESTIONS),
    *,
    executor: Executor | None = None,
    log: str | os.PathLike[str] | None = None,
    progress: Callable[[str, int, int], None] | None = None,
) -> Survey:
    """Ask the same questions of many boards.

    A board that cannot be had, or a question that fails on one, is a row with its error; the rest
    goes on. The number of workers and their order do not change the survey.

    Parameters
    ----------
    boards
        For every name a board, or a function that gives it when it is its turn. For processes, one
        that can be pickled, such as ``functools.partial(us.load, path)``.
    questions
        Names of questions: ``"size"``, ``"reach"`` (cells each unit can end its turn in),
        ``"route"`` (points from side to side), ``"marks"`` (points between cells whose text
        property "mark" is not empty), ``"islands"``, ``"fairness"`` (ground in three
        turns, the least of any side to the most), ``"chokes"`` (cells without which an island
        falls apart), ``"check"`` (faults and hints). Or your own by name: functions of the board
        that give a number, or numbers by subject.
    executor
        Where boards are asked: any executor of `concurrent.futures`, such as a pool of threads or
        processes, or a cluster's. By default here, one after the other.
    log
        A file to which the rows of each board are added when they are there. Boards that it holds
        already are not asked again, so that a survey that was cut off goes on where it was; with
        the same questions only.
    progress
        Called after each board: its name, how many are done, how many there are.

    Returns
    -------
    Survey

    Raises
    ------
    NameUnknownError
        An unknown question.
    InputError
        Boards or questions that are not as above; what is no executor, or no function; a log of
        another survey, or that cannot be read.

    Examples
    --------
    >>> import understep as us
    >>> lands = {f"delta {seed}": us.worlds.delta(seed, 40, 30) for seed in range(3)}
    >>> found = us.study.survey(lands, ["size", "islands"])
    >>> found[0]
    SurveyRow(board='delta 0', question='size', subject='cells', value=1200, error='')
    >>> own = us.study.survey(lands, {"deep": lambda board: (board.terrain_codes() == 5).sum()})
    >>> own.summary[0].boards, own.errors
    (3, ())
    """
    rule = "must be a mapping of names to boards"
    expect("boards", boards, Mapping, rule)
    items("boards", boards, rule, str)
    asked = _asked(questions)
    if executor is not None and not callable(getattr(executor, "submit", None)):
        raise InputError("executor", "must be an executor of concurrent.futures", executor)
    if progress is not None and not callable(progress):
        raise InputError("progress", "must be a function", progress)
    done = _Log(log, list(asked)) if log is not None else None
    rows: dict[str, list[SurveyRow]] = {} if done is None else dict(done.rows)
    # in the order of the boards, not of the log
    rows = {name: rows[name] for name in boards if name in rows}
    left = [name for name in boards if name not in rows]

    def take(name: str, found: list[SurveyRow]) -> None:
        rows[name] = found
        if done is not None:
            done.add(name, found)
        if progress is not None:
            progress(name, len(rows), len(boards))

    if executor is None:
        for name in left:
            take(name, ask(name, boards[name], asked))
    else:
        _spread(executor, left, boards, asked, take)
    return Survey(row for name in boards for row in rows[name])


def _asked(questions: Iterable[str] | Mapping[str, Question]) -> dict[str, Question]:
    rule = "must be names of questions, or map names to functions of a board"
    if isinstance(questions, Mapping):
        items("questions", questions, rule, str)
        items("questions", questions.values(), rule, Callable)  # type: ignore[arg-type]
        return dict(questions)
    names = items("questions", questions, rule)
    return {named("questions", "question", name, QUESTIONS): QUESTIONS[name] for name in names}


def _spread(
    executor: Executor,
    names: list[str],
    boards: Mapping[str, Source],
    asked: dict[str, Question],
    take: Callable[[str, list[SurveyRow]], None],
) -> None:
    """Hand boards to an executor, some ahead, and take what comes back."""
    todo, under_way = iter(names), dict[Future[list[SurveyRow]], str]()
    while True:
        for name in todo:
            under_way[executor.submit(ask, name, boards[name], asked)] = name
            # boards that are made on the way would fill the memory
            if len(under_way) >= AHEAD:
                break
        if not under_way:
            return
        for future in wait(under_way, return_when=FIRST_COMPLETED).done:
            name, error = under_way.pop(future), future.exception()
            take(name, [_failed(name, "", error)] if error is not None else future.result())


def ask(name: str, source: Source, asked: Mapping[str, Question]) -> list[SurveyRow]:
    """All answers of one board."""
    try:
        board = source if isinstance(source, Board) else source()
        if not isinstance(board, Board):
            raise InputError("boards", f"{name!r} gives no board", board)
    except Exception as error:
        return [_failed(name, "", error)]
    rows = []
    for question, answer in asked.items():
        try:
            found = answer(board)
            # most questions have one answer for a board
            values = found if isinstance(found, Mapping) else {"": found}
            rows += [
                SurveyRow(name, question, str(of), _plain(value)) for of, value in values.items()
            ]
        except Exception as error:
            rows.append(_failed(name, question, error))
    return rows


def _plain(value: Any) -> Figure:
    """A finite number as Python has it, NumPy's too."""
    # JSON and CSV know no NumPy
    value = value.item() if hasattr(value, "item") else value
    if value is not None and not (isinstance(value, int | float) and abs(value) < math.inf):
        raise InputError("questions", "must be answered by finite numbers", value)
    return value


def _safe(part: str | int | float) -> str | int | float:
    """A field that no spreadsheet takes for a formula."""
    return f"'{part}" if isinstance(part, str) and part[:1] in FORMULA else part


def _failed(name: str, question: str, error: BaseException) -> SurveyRow:
    return SurveyRow(name, question, "", None, f"{type(error).__name__}: {error}")


class _Log:
    """The file that keeps the rows of boards that are done: JSON, a line each."""

    def __init__(self, path: str | os.PathLike[str], questions: list[str]) -> None:
        self._path = path_of("log", path)
        self.rows: dict[str, list[SurveyRow]] = {}
        head = json.dumps({"questions": questions})
        try:
            text = self._path.read_bytes().decode("utf-8") if self._path.exists() else ""
        except UnicodeDecodeError as error:
            raise InputError("log", f"byte {error.start} is not UTF-8", str(path)) from None
        lines = text.split("\n")
        whole, torn = lines[:-1], lines[-1]  # a line that was cut off is asked again
        if whole and whole[0] != head:
            raise InputError("log", f"is of other questions: {whole[0][:80]}", str(path))
        for number, line in enumerate(whole[1:], 2):
            try:
                name, rows = json.loads(line)
                self.rows[str(name)] = [_answer(row, str(name), questions) for row in rows]
            except (ValueError, TypeError, InputError, RecursionError):
                raise InputError("log", f"line {number} cannot be read", str(path)) from None
        # the next line must not be appended to half of one
        if torn or not whole:
            kept = "".join(f"{line}\n" for line in whole or [head])
            self._path.write_bytes(kept.encode("utf-8"))

    def add(self, name: str, rows: list[SurveyRow]) -> None:
        """Add a board."""
        with self._path.open("a", encoding="utf-8", newline="\n") as file:
            file.write(json.dumps([name, rows]) + "\n")


def _answer(row: list[Any], name: str, questions: list[str]) -> SurveyRow:
    """A row of a log, if it is one of this board and these questions."""
    found = SurveyRow(*row)
    texts = found.board, found.question, found.subject, found.error
    if not all(isinstance(text, str) for text in texts):
        raise ValueError(row)
    # a log that was edited, or joined from two, would give wrong sums
    if found.board != name or found.question not in (*questions, ""):
        raise ValueError(row)
    return found._replace(value=_plain(found.value))
