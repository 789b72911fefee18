"""The other views: ratio, spread, standings; and the choice among all of them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

import msgspec

from ...errors import LogarithmError, there
from ...notation import numbers, words
from ...notation.places import Place
from ...notation.sizes import plain
from ...results.findings import Cost, Costs, Findings
from ...results.pairs import Standing
from ..documents.findings.headlines import headline, worth_marking
from ..documents.findings.special.crowd import first_look
from ..documents.findings.special.maps import beside
from ..documents.findings.tables import places
from ..view import View
from . import canvas, ticks
from .canvas import FAINT, INK, LABEL, LETTER, PAPER, Size
from .charts.change import draw_change
from .charts.map import draw_map
from .charts.mix import draw_mix
from .charts.versions import draw_versions
from .charts.workload import draw_workload
from .growth import draw_growth, make_room, name_curves
from .labels import Mark, write_marks

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

BOXED_LEAST = 5  # trials of which quartiles say something
NAMES_MOST = 6  # names in a band; more are named above the panels


def save(
    findings: Findings,
    path: Path,
    view: str | None = None,
    linear: bool = False,
    size: Size | None = None,
    dark: bool = False,
) -> list[Path]:
    """Draw a view into a PNG, SVG or PDF, by the ending of the name; more than nine panels into further files.

    Args:
        findings: what is drawn.
        path: the file; further ones have a number at the end of their names.
        view: one of `View`; what is usual if none is named.
        linear: linear axes, not logarithmic ones.
        size: pixels, wide and high; 1280 by 800 if none is given.
        dark: on dark paper.

    Returns:
        the files that were written.

    Raises:
        LogarithmError: where the ending is none of these, there is nothing to draw, or the file cannot be written.
    """
    canvas.check_kind(path)
    written = []
    for number, part in enumerate(sheets(findings), start=1):
        file = path if number == 1 else path.with_name(f"{path.stem}-{number}{path.suffix}")
        canvas.save_figure(draw(part, view, linear, size, dark), file)
        written.append(file)
    return written


def sheets(findings: Findings) -> list[Findings]:
    """The findings in parts of at most nine panels, by family."""
    panels: dict[str, set[Place]] = {}
    for each in findings.costs:
        panels.setdefault(each.family, set()).add(each.place)
    parts: list[list[str]] = [[]]
    many = 0
    for family, places_there in panels.items():
        if parts[-1] and many + len(places_there) > canvas.PANELS_MOST:
            parts.append([])
            many = 0
        parts[-1].append(family)
        many += len(places_there)
    return [findings] if len(parts) == 1 else [findings.only(part) for part in parts]


def usual_view(findings: Findings) -> View:
    """The view that is drawn where none is named: growth, and of two sizes the map, where there is one."""
    return View.MAP if findings.maps else View.GROWTH


def draw(
    findings: Findings, view: str | None = None, linear: bool = False, size: Size | None = None, dark: bool = False
) -> Figure:
    """A view by its name, one of `View`, or what is usual.

    Raises:
        LogarithmError: where there is nothing to draw in it.
    """
    view = usual_view(findings) if view is None else view
    if view not in list(View):
        raise LogarithmError(f"there is no view '{view}': {there([*View])}")
    if not findings.costs:
        raise LogarithmError("there is nothing to draw: nothing was measured")
    if findings.study.names and view not in (View.MAP, View.WORKLOAD, View.VERSIONS, View.MIX):
        findings = beside(findings)
    drawn = _DRAWN[View(view)](findings if view == "growth" else first_look(findings)[0], linear, size)
    return canvas.recoloured(drawn) if dark else drawn


def draw_into(axes: Axes, findings: Findings, view: str | None = None, linear: bool = False) -> Figure:
    """The first panel of a view, drawn into axes of somebody's own figure, which is returned.

    Raises:
        LogarithmError: where there is nothing to draw in it.
    """
    first = next(iter(places(findings.costs)), None)
    kept = {
        name: [row for row in getattr(findings, name) if row.place == first]
        for name in ("costs", "crossovers", "standings", "samples", "growth", "maps", "boundaries", "leads")
    }
    with canvas.into(axes):
        return draw(msgspec.structs.replace(findings, **kept), view, linear)


def draw_work(findings: Findings, linear: bool = False, size: Size | None = None) -> Figure:
    """What a call does, counted, where it was counted beside time."""
    costs = [
        msgspec.structs.replace(
            each,
            metric="work",
            fitted=[],
            points=[Cost(size=plain(n), typical=count, low=count, high=count, rounds=1) for n, count in each.work],
        )
        for each in findings.costs
        if each.work
    ]
    if not costs:
        raise LogarithmError("there is no work to draw: it is counted of Python functions where their time is measured")
    return draw_growth(msgspec.structs.replace(findings, costs=costs, crossovers=[], growth=[]), linear, size, "work")


def draw_ratio(findings: Findings, linear: bool = False, size: Size | None = None) -> Figure:
    """How many times as fast as the baseline each contender is, with a band for 95 %."""
    style = canvas.styles(findings.study.contenders)
    reference = findings.study.reference
    groups = {
        where: group
        for where, group in places(findings.costs).items()
        if any(point.ratio for each in group for point in each.points)
    }
    if not groups:
        raise LogarithmError("there are no ratios to draw: that takes two contenders measured at the same sizes")

    marks: list[Mark] = []

    def panel_of(panel: Axes, where: Place, group: list[Costs]) -> None:
        if all(len(each.points) == 1 for each in group):
            _ratio_bars(panel, [each for each in group if each.contender != reference], style, reference)
            return
        if not linear:
            panel.set_yscale("log")
        ticks.set_ticks(panel.yaxis, ticks.of_ratio)
        canvas.size_axis(panel, findings, [float(p.size) for each in group for p in each.points], linear)
        panel.grid(True, which="major", color=FAINT, linewidth=0.5, alpha=0.6)
        panel.set_ylabel(canvas.plain(f"times as fast as {canvas.short(reference)}"), color=INK, fontsize=LABEL)
        panel.axhline(1, color=INK, linewidth=1.2)
        for each in group:
            rows = [(point.size, point.ratio) for point in each.points if point.ratio is not None]
            if not rows:
                continue
            own = style[each.contender]
            sizes, values = [size for size, _ in rows], [ratio.value for _, ratio in rows]
            at, curve, low, high = zip(*each.band, strict=True) if each.band else (sizes, values, values, values)
            panel.fill_between(at, low, high, color=own["color"], alpha=0.2, linewidth=0)
            panel.vlines(sizes, [r.low for _, r in rows], [r.high for _, r in rows], own["color"], linewidth=0.9)
            panel.plot(sizes, values, own["marker"], color=own["color"], markersize=4.5, markerfacecolor=PAPER)
            panel.plot(
                at,
                curve,
                color=own["color"],
                linestyle=own["linestyle"],
                linewidth=1.5,
                label=words.name(each.contender),
                zorder=1.5,
            )
        for crossover in worth_marking(findings, where, reference):
            panel.plot([crossover.size], [1], marker="o", markersize=11, color=INK, fillstyle="none")
            marks.append(Mark(panel, crossover.size, 1.0, numbers.crossing(crossover.size)))
        if len(groups) == 1:
            make_room(panel)

    told = "points: typical ratio of paired trials, with 95 %; bands: with neighbouring sizes; rings: crossovers"
    if all(len(each.points) == 1 for each in findings.costs):
        told = "bars: typical ratio of paired trials, with 95 %"
    title = headline(findings, "ratio")
    foot = canvas.foot(findings, told)
    figure = canvas.sheet(findings, groups, panel_of, foot, title, shares=True, size=size)
    if all(len(each.points) == 1 for each in findings.costs):
        return figure
    name_curves(figure, _others(groups, reference), style)
    write_marks(figure, marks)
    return figure


def _ratio_bars(panel: Axes, group: list[Costs], style: dict[str, canvas.Style], reference: str) -> None:
    """One size only: how many times as fast each is, with its interval."""
    found = [(each.contender, ratio) for each in group if (ratio := each.points[0].ratio) is not None]
    names = [canvas.plain(canvas.short(name)) for name, _ in found]
    errors = [[ratio.value - ratio.low for _, ratio in found], [ratio.high - ratio.value for _, ratio in found]]
    colours = [style[name]["color"] for name, _ in found]
    panel.barh(names, [ratio.value for _, ratio in found], xerr=errors, color=colours, height=0.6, ecolor=INK)
    panel.axvline(1, color=INK, linewidth=1.2)
    panel.invert_yaxis()
    panel.set_xlabel(canvas.plain(f"times as fast as {canvas.short(reference)}"), color=INK, fontsize=LABEL)
    ticks.set_ticks(panel.xaxis, ticks.of_ratio)


def _others(groups: dict[Place, list[Costs]], reference: str) -> dict[Place, list[Costs]]:
    """Everyone but the reference, who is the line at 1."""
    return {where: [each for each in group if each.contender != reference] for where, group in groups.items()}


def draw_spread(findings: Findings, linear: bool = False, size: Size | None = None) -> Figure:
    """The trials at one size: each a point, with quartiles and median, so that noise is seen."""
    style = canvas.styles(findings.study.contenders)
    samples = {where: group for where, group in places(findings.samples).items() if group}
    if not samples:
        raise LogarithmError("there are no trials at that size: name one that was measured with --at")
    groups = {where: group for where, group in places(findings.costs).items() if where in samples}

    def panel_of(panel: Axes, where: Place, _: list[Costs]) -> None:
        group = samples[where]
        for row, each in enumerate(group):
            own = style[each.contender]
            # The golden ratio spreads points evenly without repeating itself.
            jitter = [row + 0.5 * ((0.618034 * number) % 1 - 0.5) for number in range(len(each.values))]
            panel.plot(
                each.values, jitter, own["marker"], color=own["color"], alpha=0.65, markersize=4, linestyle="none"
            )
            if len(each.values) < BOXED_LEAST:  # of so few trials a box says nothing
                middle = sorted(each.values)[len(each.values) // 2]
                panel.plot([middle, middle], [row - 0.3, row + 0.3], color=INK, linewidth=2)
                continue
            panel.boxplot(
                [each.values],
                positions=[row],
                orientation="horizontal",
                widths=0.62,
                showfliers=False,
                medianprops={"color": INK, "linewidth": 2},
                boxprops={"color": INK},
                whiskerprops={"color": INK},
                capprops={"color": INK},
            )
        names = [canvas.plain(canvas.short(each.contender)) for each in group]
        panel.set_yticks(range(len(group)), names)
        panel.set_ylim(len(group) - 0.4, -0.6)
        values = [value for each in group for value in each.values]
        if not linear and min(values) > 0 and max(values) > 20 * min(values):
            panel.set_xscale("log")
        canvas.cost_axis(panel.xaxis, where[2])
        panel.set_xlabel(canvas.cost_label(where[2]), color=INK, fontsize=LABEL)
        panel.grid(True, axis="x", color=FAINT, linewidth=0.5, alpha=0.6)
        axis = words.axis(findings.study.axis)
        title = f"{panel.get_title(loc='left')}, {axis} = {numbers.size(group[0].size)}"
        panel.set_title(title, loc="left", fontsize=canvas.PANEL_TITLE, fontweight="bold", color=INK)

    told = "points: single trials; boxes: quartiles and median; whiskers: 1.5 times the box"
    return canvas.sheet(
        findings, groups, panel_of, canvas.foot(findings, told), headline(findings, "spread"), size=size
    )


def draw_standings(findings: Findings, linear: bool = False, size: Size | None = None) -> Figure:
    """Who leads over which sizes: a band for each family."""
    style = canvas.styles(findings.study.contenders)
    ranges = places(findings.standings)
    groups = {where: group for where, group in places(findings.costs).items() if where in ranges}
    if not groups:
        raise LogarithmError(
            "there are no standings to draw: that takes ranked contenders, and three trials of each in two processes"
        )

    # Panels are compared: all have one axis.
    sizes = [float(point.size) for group in groups.values() for each in group for point in each.points]
    unnamed: list[str] = []

    def panel_of(panel: Axes, where: Place, _: list[Costs]) -> None:
        canvas.size_axis(panel, findings, sizes, linear)
        panel.set_xlim(*ticks.bounds(sizes))
        panel.set_yticks([])
        panel.spines["left"].set_visible(False)
        own = ranges[where]
        # A leading lasts until the next begins, so that there are no gaps between whole sizes.
        starts = [float(each.start) for each in own]
        ends = [*starts[1:], float(own[-1].end)]
        # Of a single size the band is as wide as the panel.
        left, right = panel.get_xlim()
        starts[0] = left if starts[0] <= min(sizes) else starts[0]
        ends[-1] = right if ends[-1] >= max(sizes) else ends[-1]
        for each, start, end in zip(own, starts, ends, strict=True):
            low, high = (start, end) if start < end else _around(start, sizes)
            unnamed.extend(_band(panel, each, low, high, style))

    told = "plain: leads; hatched: tie, or not known who leads"
    title = headline(findings, "standings")
    figure = canvas.sheet(findings, groups, panel_of, canvas.foot(findings, told), title, wide=True, size=size)
    if unnamed and canvas.given() is None:
        canvas.legend(figure, list(dict.fromkeys(unnamed)), style)
    return figure


def _around(size: float, sizes: Sequence[float]) -> tuple[float, float]:
    """From half the way to the size before to half the way to the next: what is drawn of a range of one size."""
    before = max((each for each in sizes if each < size), default=size)
    after = min((each for each in sizes if each > size), default=size)
    return (before + size) / 2, (size + after) / 2


def _band(panel: Axes, leading: Standing, start: float, end: float, style: dict[str, canvas.Style]) -> list[str]:
    """Draw who leads over a range; names that have no room in it are returned."""
    names, is_shared = leading.names, not leading.is_alone
    height = 1 / len(names)
    for row, name in enumerate(names):
        panel.fill_between(
            [start, end],
            1 - (row + 1) * height,
            1 - row * height,
            facecolor=style[name]["color"],
            alpha=0.5 if is_shared else 0.9,
            hatch="///" if is_shared else None,
            edgecolor=PAPER,
            linewidth=1.0,
        )
    left, right = panel.transAxes.inverted().transform(panel.transData.transform([(start, 0), (end, 0)]))[:, 0]
    room = int((right - left) * canvas.WIDTH * canvas.DPI / LETTER)
    if room < max(len(canvas.short(name)) for name in names) + 1 or len(names) > NAMES_MOST:
        return list(names)
    middle = (left + right) / 2
    for row, name in enumerate(names):
        panel.text(
            middle,
            1 - (row + 0.5) * height,
            canvas.plain(canvas.short(name)),
            transform=panel.transAxes,
            ha="center",
            va="center",
            fontsize=10,
            fontweight="bold",
            color=INK if is_shared else PAPER,
            clip_on=True,
            path_effects=canvas.halo() if is_shared else None,
        )
    return []


_DRAWN: dict[View, Callable[[Findings, bool, Size | None], Figure]] = {
    View.GROWTH: draw_growth,
    View.WORK: draw_work,
    View.RATIO: draw_ratio,
    View.SPREAD: draw_spread,
    View.STANDINGS: draw_standings,
    View.MAP: draw_map,
    View.CHANGE: draw_change,
    View.WORKLOAD: draw_workload,
    View.VERSIONS: draw_versions,
    View.MIX: draw_mix,
}
