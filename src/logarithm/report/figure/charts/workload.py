"""The workload view: how often each size is called, and what the calls cost up to each size, contender by contender."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from ....errors import LogarithmError
from ....notation import numbers, words
from ....results.findings import Findings
from ....results.workload import Weighing, WorkloadTotal
from ... import units
from .. import canvas
from ..canvas import INK, LABEL, SMALL, SOFT, Size

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

BARS = 40  # of the calls by size, at most
HIGH = 8.0


def draw_workload(findings: Findings, linear: bool = False, size: Size | None = None) -> Figure:
    """Calls over size above, costs added up over size below.

    Raises:
        LogarithmError: where no workload is weighed.
    """
    found = findings.weighing
    if found is None or not found.best:
        raise LogarithmError("there is no workload to draw: name its calls with --workload FILE")
    figure = canvas.paper(HIGH, size)
    above, below = figure.subplots(2, 1, sharex=True, height_ratios=(1, 2))
    for panel in (above, below):
        canvas.frame(panel)
        canvas.size_axis(panel, findings, [row[0] for row in found.sizes], linear)
    above.set_xlabel("")
    _calls(above, found, linear)
    style = canvas.styles(findings.study.contenders)
    names = _costs(below, findings.workload, found, style)
    calls = f"{numbers.whole(findings.workload[0].calls)} calls of {found.source}"
    title = f"{words.said(found.best[0])} costs least over {calls}"
    canvas.entitle(figure, title)
    told = canvas.foot(findings, "above: how often each size is called; below: what all calls up to a size cost")
    figure.supxlabel(canvas.plain(told), x=0.01, ha="left", fontsize=SMALL, color=SOFT)
    canvas.legend(figure, names, style)
    return figure


def _calls(panel: Axes, found: Weighing, linear: bool) -> None:
    """How many calls there are in each of some ranges of sizes."""
    sizes = [size for size, _ in found.sizes]
    low, high = min(sizes), max(sizes)
    is_log = not linear and low > 0 and high > low
    many = min(BARS, len(sizes))
    edges = [low * (high / low) ** (at / many) if is_log else low + (high - low) * at / many for at in range(many + 1)]
    counts = [0.0] * many
    for size, count in found.sizes:
        place = math.log(size / low) / math.log(high / low) if is_log else (size - low) / max(high - low, 1e-300)
        counts[min(int(place * many), many - 1)] += count
    panel.stairs(counts, edges, fill=True, color=SOFT, alpha=0.6)
    panel.set_ylabel("calls", color=INK, fontsize=LABEL)


def _costs(panel: Axes, totals: list[WorkloadTotal], found: Weighing, style: dict[str, canvas.Style]) -> list[str]:
    """Costs added up, for each contender that has a total. Returns their names."""
    unit = units.unit_for([each.total for each in totals if each.total], "time")
    names = []
    for each in totals:
        rows = found.accumulated.get(each.contender)
        if not rows or each.total is None:
            continue
        names.append(each.contender)
        own = {**style[each.contender], "marker": ""}
        panel.plot([size for size, _ in rows], [cost / unit.size for _, cost in rows], **own, linewidth=1.8)
    panel.set_ylabel(f"all calls up to a size, {unit.name}", color=INK, fontsize=LABEL)
    return names
