"""The history view: what each contender cost at each commit that was measured, at one size."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ....errors import LogarithmError, one_line
from ....notation import numbers, words
from ....notation.places import Place
from ....notation.words import place
from ....results.tasks.history import CostAt, History, label_of
from ...documents.findings.tables import places
from .. import canvas
from ..canvas import INK, LABEL, PAPER, SMALL, SOFT, Size

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

SUBJECT_MOST, HIGH = 26, 8.0


def draw_history(found: History, size: Size | None = None, dark: bool = False) -> Figure:
    """A panel for each family, commits from left to right, steps marked with their factors.

    Raises:
        LogarithmError: where nothing was measured.
    """
    groups = places(found.costs)
    if not groups:
        raise LogarithmError("there is nothing to draw: no commit was measured")
    figure = canvas.paper(HIGH, size)
    panels = figure.subplots(len(groups), 1, squeeze=False, sharex="all")
    commits = list(dict.fromkeys((each.commit, each.subject) for each in found.costs))
    names = list(dict.fromkeys(each.contender for each in found.costs))
    style = canvas.styles(names)
    for panel, (where, group) in zip(panels.flat, groups.items(), strict=True):
        canvas.frame(panel)
        panel.set_yscale("log")
        canvas.cost_axis(panel.yaxis, where[2])
        panel.set_title(
            canvas.plain(place(where)), loc="left", fontsize=canvas.PANEL_TITLE, fontweight="bold", color=INK
        )
        panel.set_ylabel(f"cost at n = {numbers.size(group[0].size)}", color=INK, fontsize=LABEL)
        for name in names:
            _line(panel, [each for each in group if each.contender == name], [sha for sha, _ in commits], style[name])
        _steps(panel, found, where, group, [sha for sha, _ in commits])
    panels.flat[-1].set_xlim(-0.4, len(commits) - 0.4)
    labels = [canvas.plain(f"{label_of(sha)}\n{one_line(subject, SUBJECT_MOST)}") for sha, subject in commits]
    panels.flat[-1].set_xticks(range(len(labels)), labels, rotation=18, ha="right", fontsize=SMALL)
    told = f"{found.commits} commits, {found.measured} measured; points: median and quartiles"
    canvas.entitle(figure, _title(found))
    figure.supxlabel(canvas.plain(f"{words.name(found.study)} · {told}"), x=0.01, ha="left", fontsize=SMALL, color=SOFT)
    canvas.legend(figure, names, style)
    return canvas.recoloured(figure) if dark else figure


def _line(panel: object, own: list[CostAt], commits: list[str], style: canvas.Style) -> None:
    at = [commits.index(each.commit) for each in own]
    panel.vlines(at, [each.low for each in own], [each.high for each in own], style["color"], linewidth=1)  # type: ignore[attr-defined]
    # Where its code is the same from some commit on, it is not measured again, and goes on as it was.
    costs, drawn = [each.typical for each in own], {"markerfacecolor": PAPER, "markersize": 6}
    until, last = [*at, *[len(commits) - 1] * bool(at)], [*costs, *costs[-1:]]
    panel.plot(until, last, **style, **drawn, drawstyle="steps-post", markevery=range(len(at)))  # type: ignore[attr-defined]


def _steps(panel: Axes, found: History, where: Place, group: list[CostAt], commits: list[str]) -> None:
    """The factor of each step, beside the point that it leads to."""
    for step in found.steps:
        to = next((each for each in group if (each.commit, each.contender) == (step.commit, step.contender)), None)
        if step.place == where and to is not None:
            canvas.beside_point(panel, numbers.changed(step.factor), (commits.index(step.commit), to.typical))


def _title(found: History) -> str:
    if not found.steps:
        return f"no commit of {found.revisions} changed a cost"
    first = max(found.steps, key=lambda each: max(each.factor, 1 / each.factor))
    return f"{words.said(first.contender)} is {numbers.changed(first.factor)} since “{one_line(first.subject, 40)}”"
