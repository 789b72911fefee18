"""The mix view: what a mix costs over the share of one of its operations, and who leads at which share."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from ....errors import LogarithmError
from ....notation import words
from ....results.findings import Findings
from ....results.operations import Shares
from ...documents.findings.sentences import spot_of
from ...documents.findings.special.operations import said, share
from ...documents.findings.special.versions import at_ends
from .. import canvas
from ..canvas import INK, LABEL, SMALL, SOFT, Size

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

HIGH = 8.0
PLACES = 200  # along a curve


def draw_mix(findings: Findings, linear: bool = False, size: Size | None = None) -> Figure:
    """A panel for each mix and family: cost for one operation over the share of the rarest one.

    Raises:
        LogarithmError: where there is no mix of operations that two contenders have.
    """
    shown = at_ends(findings.shares)
    if not shown:
        raise LogarithmError("there is no mix to draw: name one of two operations with study.mix")
    figure = canvas.paper(HIGH, size)
    columns = 1 if len(shown) < 3 else 2
    panels = figure.subplots(-(-len(shown) // columns), columns, squeeze=False)
    style = canvas.styles(findings.study.contenders)
    for panel, found in zip(panels.flat, shown, strict=False):
        _panel(panel, found, findings, style, linear)
    for panel in panels.flat[len(shown) :]:
        panel.set_visible(False)
    title = next(iter(said(shown[0], findings)))
    canvas.entitle(figure, title)
    foot = canvas.foot(findings, "curves: priced from single operations, with 95 %; marks: the mix as it was measured")
    figure.supxlabel(canvas.plain(foot), x=0.01, ha="left", fontsize=SMALL, color=SOFT)
    names = dict.fromkeys(name for found in shown for name in found.costs)
    canvas.legend(figure, list(names), style)
    return figure


def _panel(panel: Axes, found: Shares, findings: Findings, style: dict[str, canvas.Style], linear: bool) -> None:
    canvas.frame(panel)
    panel.set_yscale("linear" if linear else "log")
    canvas.cost_axis(panel.yaxis, "time")
    at = np.linspace(0.0, 1.0, PLACES)
    for name, (others, own) in found.costs.items():
        low, value, high = (
            (1 - at) * getattr(others, end) + at * getattr(own, end) for end in ("low", "value", "high")
        )
        panel.fill_between(100 * at, low, high, color=style[name]["color"], alpha=0.15, lw=0)
        panel.plot(100 * at, value, **{**style[name], "marker": ""}, linewidth=1.8)
        took = [
            each.measured
            for each in findings.mixes
            if (each.contender, each.family, each.mix, each.metric) == (name, found.family, found.mix, "time")
            and (each.size, each.second) == (found.size, found.second)
        ]
        for each in took:
            if each is not None:
                panel.plot([100 * found.share], [each], **{**style[name], "linestyle": ""}, markersize=8)
    panel.axvline(100 * found.share, color=SOFT, linewidth=1.0, linestyle=":")
    for switch in found.switches:
        where = switch.share.value
        others, own = found.costs[switch.after]
        cost = (1 - where) * others.value + where * own.value
        panel.plot([100 * where], [cost], "o", markersize=14, markerfacecolor="none", markeredgecolor=INK)
        canvas.beside_point(panel, share(where), (100 * where, cost))
    where_said = f"{words.name(found.family)}, {words.said(found.mix)}, {spot_of(findings, found.size, found.second)}"
    panel.set_title(canvas.plain(where_said), loc="left", fontsize=canvas.PANEL_TITLE, fontweight="bold", color=INK)
    panel.set_xlim(0, 100)
    panel.set_xlabel(canvas.plain(f"share of {words.said(found.operation)}, %"), color=INK, fontsize=LABEL)
    panel.set_ylabel("for one operation", color=INK, fontsize=LABEL)
