"""Charts: what a survey found, a strip for each question with a dot for each board."""

from __future__ import annotations

import os
from typing import TYPE_CHECKING, Any

import numpy as np

from understep.checks import expect
from understep.draw import _look as look
from understep.draw._canvas import finish_figure, new_figure
from understep.errors import InputError, printable
from understep.study._survey import Survey

if TYPE_CHECKING:
    from matplotlib.figure import Figure

MOST = 24  # strips that are still readable


def chart(
    survey: Survey,
    *,
    title: str = "",
    path: str | os.PathLike[str] | None = None,
    size: tuple[int, int] = (1280, 800),
) -> Figure:
    """Draw a survey: for each question and subject a strip from least to most.

    A dot stands for a board, the upright stroke for the one in the middle. After 24 strips the
    rest is only counted.

    Parameters
    ----------
    survey
        What `survey` found.
    title
        The line above.
    path
        Where to write it too: the ending (.png, .svg, .pdf) says how.
    size
        Width and height in pixels.

    Returns
    -------
    matplotlib.figure.Figure

    Raises
    ------
    InputError
        What is not a survey, or has no answers.
    MissingExtraError
        Matplotlib is not installed.

    Examples
    --------
    >>> import understep as us
    >>> lands = {f"delta {seed}": us.worlds.delta(seed, 40, 30) for seed in range(3)}
    >>> drawn = us.draw.chart(us.study.survey(lands, ["size", "check"]), title="Three lands")
    >>> [text.get_text() for text in drawn.axes[0].get_yticklabels()]
    ['size: cells', 'size: units', 'check: faults', 'check: hints']
    """
    if not isinstance(survey, Survey):
        raise InputError("survey", "must be what survey() gives", survey)
    expect("title", title, str, "must be a text")
    rows = [row for row in survey.summary if row.boards]
    if not rows:
        raise InputError("survey", "has no answers to draw", survey)
    # more strips than fit would cover each other
    shown = rows[:MOST]
    drawn = new_figure(size)
    axes = drawn.add_axes((0.24, 0.08, 0.68, 0.8))
    for place, row in enumerate(shown):
        least, most, middle = (float(part or 0) for part in (row.least, row.most, row.middle))
        answers = survey.values(row.question, row.subject).values()
        values = np.array([value for value in answers if value is not None] + [middle], float)
        spread = (values - least) / (most - least) if most > least else 0 * values + 0.5
        axes.plot([0, 1], [place] * 2, color=look.FAINT, lw=1, zorder=1)
        dots: dict[str, Any] = {"ms": 7, "mfc": look.PAPER, "mec": look.INK, "alpha": 0.6}
        axes.plot(spread[:-1], 0 * spread[:-1] + place, "o", zorder=2, **dots)
        across = spread[-1]
        axes.plot([across] * 2, [place - 0.22, place + 0.22], color=look.ROUTE, lw=2.4, zorder=3)
        for x, value, side in ((-0.02, least, "right"), (1.02, most, "left")):
            axes.text(x, place, f"{value:.4g}", ha=side, va="center", size=9, color=look.INK)
        words: dict[str, Any] = {"ha": "center", "va": "bottom", "size": 7.5, "color": look.ROUTE}
        axes.text(across, place - 0.25, f"{middle:.4g}", **words)
    names = [f"{row.question}: {row.subject}" if row.subject else row.question for row in shown]
    axes.set(ylim=(len(shown) - 0.4, -0.8), xlim=(-0.12, 1.12), facecolor=look.PAPER, xticks=[])
    axes.set_yticks(range(len(shown)), list(map(printable, names)), color=look.INK, size=9.5)
    axes.tick_params(left=False)
    axes.spines[:].set_visible(False)
    boards = len({row.board for row in survey})
    failed = len({row.board for row in survey.errors})
    told = f"{boards} boards" + (f", {failed} failed" if failed else "")
    told += f"; {len(rows) - MOST} more strips are not shown" if len(rows) > MOST else ""
    told += ". Dots: boards, from least to most. Strokes: the one in the middle."
    drawn.text(0.02, 0.03, told, size=10, color=look.INK)
    drawn.text(0.02, 0.94, title or "Survey", size=15, family="serif", color=look.INK)
    finish_figure(drawn, path)
    return drawn
