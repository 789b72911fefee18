"""The growth view: points, spread, fitted curves and crossovers, a panel for each family, names at the curves' ends."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator
from typing import TYPE_CHECKING

import msgspec
import numpy as np

from ...notation import numbers, words
from ...notation.orders import pretty
from ...notation.places import Place
from ...results.findings import Costs, Findings
from ..documents.findings.headlines import headline, worth_marking
from ..documents.findings.special.crowd import first_look
from ..documents.findings.tables import places
from . import canvas
from .canvas import FAINT, INK, LABEL, LETTER, PAPER, SMALL, SOFT, Size, Style
from .labels import ROOM, Mark, label_ends, write_marks

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

MARGIN = 26  # pixels on either side of a name, together
RING = 11.0  # points: the least ring of a crossover
KINK_HIGH = 0.055  # of a panel's height: a line on a kink


def draw_growth(everyone: Findings, linear: bool = False, size: Size | None = None, view: str = "growth") -> Figure:
    """The growth view; bars where there is but one size. A crowd is drawn as one, behind those who matter."""
    findings, left = first_look(everyone)
    named = list(dict.fromkeys(each.contender for each in findings.costs))
    style = canvas.styles(findings.study.contenders if not left else named)
    groups = places(findings.costs)
    fitted = {bool(each.fitted) for each in findings.costs if len(each.points) > 1}
    curves = "fitted growth" if fitted == {True} else "fitted growth, or lines from point to point"
    curves = "lines from point to point" if fitted == {False} else curves
    told = f"points: median and quartiles; curves: {curves}; rings: crossovers"
    if view == "work":
        told = "points: steps and counted operations of one call"
    told += f"; grey: {left} others" if left else ""
    if all(len(each.points) == 1 for each in findings.costs):
        told = "bars: median and quartiles"

    marks: list[Mark] = []

    def draw(panel: Axes, where: Place, group: list[Costs]) -> None:
        metric = where[2]
        panel.set_ylabel(canvas.cost_label(metric), color=INK, fontsize=LABEL)
        if all(len(each.points) == 1 for each in group):
            _bars(panel, group, style)
            return
        if not linear:
            panel.set_yscale("log")
        canvas.cost_axis(panel.yaxis, metric)
        sizes = [float(point.size) for each in group for point in each.points]
        canvas.size_axis(panel, findings, sizes, linear)
        panel.grid(True, which="major", color=FAINT, linewidth=0.5, alpha=0.6)
        above = [each for each in (group if linear else map(without_zeros, group)) if each.points]
        if left:
            _crowd(panel, [each for each in everyone.costs if each not in group], where)
        for each in above:
            _curve(panel, each, style[each.contender])
        _zeros(panel, [each for each in group if all(point.typical == 0 for point in each.points)])
        _kinks(panel, findings, where, group, style)
        marks.extend(_crossings(panel, findings, where, above))
        if len(groups) == 1:
            make_room(panel)

    title = headline(findings, view)
    figure = canvas.sheet(findings, groups, draw, canvas.foot(findings, told), title, shares=True, size=size)
    name_curves(figure, groups, style)
    write_marks(figure, marks)
    return figure


def name_curves(figure: Figure, groups: dict[Place, list[Costs]], style: dict[str, Style]) -> None:
    """Name curves at their ends where there is one panel, which has room for that; else once, above all panels."""
    axes = canvas.given()
    if axes is not None:
        axes.legend(frameon=False)
        return
    if len(groups) > 1:
        canvas.legend(figure, list(dict.fromkeys(each.contender for group in groups.values() for each in group)), style)
        return
    label_ends(figure)


def _crowd(panel: Axes, costs: list[Costs], where: Place) -> None:
    """All others of a place, as thin lines without names."""
    from matplotlib.collections import LineCollection

    own = [each for each in costs if each.place == where]
    paths = [[(float(point.size), point.typical) for point in each.points if point.typical > 0] for each in own]
    panel.add_collection(LineCollection(paths, colors=SOFT, linewidths=0.4, alpha=0.35, zorder=0.5))


def make_room(panel: Axes) -> None:
    """Leave room at the right, in which the curves' names stand."""
    low, high = panel.get_xlim()
    panel.spines["bottom"].set_bounds(low, high)
    room = room_of(panel)
    more = room / (1 - room)
    is_log = panel.get_xscale() == "log"
    panel.set_xlim(low, high * (high / low) ** more if is_log else high + (high - low) * more)


def room_of(panel: Axes) -> float:
    """The share of a panel's width that the names of its curves need, at most about a third."""
    names = [str(line.get_label()) for line in panel.get_lines() if not str(line.get_label()).startswith("_")]
    longest = max((len(canvas.plain(name)) for name in names), default=0)
    width = max(panel.get_window_extent().width, 200.0)
    return min(ROOM, (longest * LETTER + MARGIN) / width)


def _bars(panel: Axes, group: list[Costs], style: dict[str, Style]) -> None:
    """One size only, or levels that have no order: a bar for each contender."""
    names = [canvas.plain(canvas.short(each.contender)) for each in group]
    points = [each.points[0] for each in group]
    errors = [[point.typical - point.low for point in points], [point.high - point.typical for point in points]]
    colours = [style[each.contender]["color"] for each in group]
    panel.barh(names, [point.typical for point in points], xerr=errors, color=colours, height=0.6, ecolor=INK)
    panel.invert_yaxis()
    panel.set_ylabel("")
    panel.set_xlabel(canvas.cost_label(group[0].metric), color=INK, fontsize=LABEL)
    canvas.cost_axis(panel.xaxis, group[0].metric)


def without_zeros(costs: Costs) -> Costs:
    """What a logarithmic axis can show: points above zero, and the curve between the first and the last of them."""
    points = [point for point in costs.points if point.typical > 0]
    if not points or len(points) == len(costs.points):
        return msgspec.structs.replace(costs, points=points)
    fitted = [[size, cost] for size, cost in costs.fitted if cost > 0 and points[0].size <= size <= points[-1].size]
    lifted = [msgspec.structs.replace(point, low=point.low or point.typical) for point in points]
    return msgspec.structs.replace(costs, points=lifted, fitted=fitted)


def _zeros(panel: Axes, group: list[Costs]) -> None:
    """Say of whom nothing was counted at any size."""
    if not group:
        return
    told = "zero at every size:\n" + "\n".join(canvas.plain(canvas.short(each.contender)) for each in group)
    panel.text(0.98, 0.03, told, transform=panel.transAxes, fontsize=SMALL, color=SOFT, ha="right", va="bottom")


def _curve(panel: Axes, costs: Costs, style: Style) -> None:
    x = [point.size for point in costs.points]
    own = style["color"]
    panel.vlines(x, [point.low for point in costs.points], [point.high for point in costs.points], own, linewidth=1.0)
    panel.plot(
        x,
        [point.typical for point in costs.points],
        style["marker"],
        color=own,
        markersize=4.5,
        markerfacecolor=PAPER,
        markeredgewidth=1.2,
    )
    curve = curve_of(costs)
    panel.plot(
        [size for size, _ in curve],
        [cost for _, cost in curve],
        color=style["color"],
        linestyle=style["linestyle"],
        linewidth=1.5,
        label=words.name(costs.contender),
        zorder=1.5,
    )


def curve_of(costs: Costs) -> list[list[float]]:
    """The curve of a contender over all its sizes: the fitted one, and beyond its ends what was measured."""
    points = [[float(point.size), point.typical] for point in costs.points]
    if not costs.fitted:
        return points
    low, high = costs.fitted[0][0], costs.fitted[-1][0]
    before = [point for point in points if point[0] < low * (1 - 1e-9)]
    return [*before, *costs.fitted, *(point for point in points if point[0] > high * (1 + 1e-9))]


def _kinks(panel: Axes, findings: Findings, where: Place, group: list[Costs], style: dict[str, Style]) -> None:
    """Shade the range below a kink in the colour of its curve, and say which law gives way to which."""
    present = {each.contender for each in group}
    lines = 0
    for growth in findings.growth:
        if growth.place != where or growth.contender not in present:
            continue
        for one, other in itertools.pairwise(growth.segments):
            if one.why != "kink":
                continue
            colour, low = style[growth.contender]["color"], 0.01 + KINK_HIGH * lines
            lines += 1
            panel.axvspan(one.start, one.end, ymin=low, ymax=low + 0.02, color=colour, alpha=0.35, linewidth=0)
            panel.annotate(
                f"{pretty(one.order)} → {'steeper' if one.order == other.order else pretty(other.order)}",
                (one.end, low + 0.005),
                xytext=(4, 0),
                textcoords="offset points",
                xycoords=("data", "axes fraction"),
                fontsize=SMALL,
                color=colour,
                path_effects=canvas.halo(),
            )


def _crossings(panel: Axes, findings: Findings, where: Place, group: list[Costs]) -> Iterator[Mark]:
    """Mark crossovers with a ring on both curves, those of leaders with a band too. Yields what is to be written."""
    leaders = {each.cheapest for each in findings.standings if each.place == where}
    curves = {each.contender: each for each in group}
    for crossover in worth_marking(findings, where):
        if not {crossover.before, crossover.after} <= set(curves):
            continue
        is_log = panel.get_yscale() == "log"
        heights = [cost_at(curves[name], crossover.size, is_log) for name in (crossover.before, crossover.after)]
        y = math.sqrt(heights[0] * heights[1]) if is_log else sum(heights) / 2
        (ring,) = panel.plot(
            [crossover.size], [y], marker="o", markersize=RING, color=INK, fillstyle="none", markeredgewidth=1.1
        )
        ring.set_label("_ring")
        if crossover.before in leaders and crossover.after in leaders:
            panel.axvspan(crossover.low, crossover.high, color=INK, alpha=0.07, linewidth=0)
        told = f"n = {numbers.crossing(crossover.size)}" if findings.study.axis == "size" else f"{crossover.size:.3g}"
        yield Mark(panel, crossover.size, y, told, ring, (heights[0], heights[1]))


def cost_at(costs: Costs, size: float, is_log: bool) -> float:
    """The height of a contender's curve at a size, along the lines between its points as they are drawn."""
    curve = curve_of(costs)
    x, y = np.array([each[0] for each in curve]), np.array([each[1] for each in curve])
    if is_log and x.min() > 0 and y.min() > 0:
        return float(np.exp(np.interp(np.log(size), np.log(x), np.log(y))))
    return float(np.interp(size, x, y))
