"""The change view: the cost now over the cost at a revision, by size, a panel for each family."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ....errors import LogarithmError
from ....notation import numbers, words
from ....notation.places import Place
from ....results.findings import Costs, Findings
from ...documents.findings.headlines import headline
from ...documents.findings.tables import places
from .. import canvas, ticks
from ..canvas import FAINT, INK, LABEL, PAPER, Size
from ..labels import Mark, write_marks

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure


def draw_change(findings: Findings, linear: bool = False, size: Size | None = None) -> Figure:
    """Cost now over cost then.

    Raises:
        LogarithmError: where nothing was measured at another revision.
    """
    changed = {where: group for where, group in places(findings.changes).items() if any(each.sizes for each in group)}
    if not changed:
        raise LogarithmError(
            "there are no changes to draw: measure with --against a revision whose code differs, and longer"
        )
    names = [f"{each.contender} since {each.before}" for group in changed.values() for each in group]
    style = canvas.styles(list(dict.fromkeys(names)))
    groups = {where: group for where, group in places(findings.costs).items() if where in changed}
    marks: list[Mark] = []

    def panel_of(panel: Axes, where: Place, _: list[Costs]) -> None:
        sizes = [float(at.size) for each in changed[where] for at in each.sizes]
        canvas.size_axis(panel, findings, sizes, linear)
        if not linear:
            panel.set_yscale("log")
        ticks.set_ticks(panel.yaxis, _said)
        panel.set_ylabel("cost now over then", color=INK, fontsize=LABEL)
        panel.grid(True, which="major", color=FAINT, linewidth=0.5, alpha=0.6)
        panel.axhline(1, color=INK, linewidth=1.2)
        for each in changed[where]:
            own = style[f"{each.contender} since {each.before}"]
            at, factor, low, high = zip(*((p.size, p.factor, p.low, p.high) for p in each.sizes), strict=True)
            panel.fill_between(at, low, high, color=own["color"], alpha=0.2, linewidth=0)
            panel.plot(at, factor, **own, markersize=5, markerfacecolor=PAPER, linewidth=1.6)
            for turn in each.turns:
                panel.plot([turn.value], [1], marker="o", markersize=11, color=INK, fillstyle="none")
                marks.append(Mark(panel, turn.value, 1.0, numbers.crossing(turn.value)))
        bottom, top = panel.get_ylim()
        panel.set_ylim(min(bottom, 0.45), max(top, 2.2))

    told = "below 1: faster than it was; bands: 95 %; rings: as fast as it was"
    title = headline(findings, "change")
    figure = canvas.sheet(findings, groups, panel_of, canvas.foot(findings, told), title, size=size)
    if canvas.given() is None:
        canvas.legend(figure, list(style), style)
    write_marks(figure, marks)
    return figure


def _said(value: float, _: int) -> str:
    """A tick as people say it: "4 × slower", "as fast", "2 × as fast"."""
    if abs(value - 1) < 1e-9:
        return "as fast"
    return words.name(numbers.changed(value))
