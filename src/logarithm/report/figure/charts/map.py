"""The map view: who leads where of two sizes, with boundaries, how far ahead the leader is, and where was measured."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from ....errors import LogarithmError
from ....notation.places import Place
from ....results.findings import Costs, Findings
from ....results.maps import Boundary, MapFinding
from ...documents.findings.headlines import headline
from ...documents.findings.tables import places
from .. import canvas, ticks
from ..canvas import INK, LABEL, PAPER, SMALL, Size
from ..labels import remove_covering

if TYPE_CHECKING:
    from contextlib import AbstractContextManager

    from matplotlib.axes import Axes
    from matplotlib.figure import Figure
    from matplotlib.text import Text

PATTERNS = ("", "...", "\\\\\\", "ooo", "+++", "---", "xxx")
"""What tells regions apart without colours, in the order of contenders."""
AHEAD = (2.0, 4.0)
ROOM_LEAST = 0.9  # lines of the grid from a name to the border of its region
Grid = NDArray[np.float64]


def draw_map(findings: Findings, linear: bool = False, size: Size | None = None) -> Figure:
    """The map of each family.

    Raises:
        LogarithmError: where there is one size only, or nobody to compare.
    """
    if not findings.maps:
        raise LogarithmError(
            "there is no map to draw: that takes a study of two sizes, and two ranked contenders measured in both"
        )
    own = {each.place: each for each in findings.maps}
    groups = {where: group for where, group in places(findings.costs).items() if where in own}
    style = canvas.styles(findings.study.contenders)
    pattern = {name: PATTERNS[at % len(PATTERNS)] for at, name in enumerate(findings.study.contenders)}
    factors: list[Text] = []

    def panel_of(panel: Axes, where: Place, _: list[Costs]) -> None:
        found = own[where]
        _axes(panel, found, linear)
        _regions(panel, found, style, pattern)
        factors.extend(_ahead(panel, found))
        for edge in findings.boundaries:
            if edge.place == where and edge.matters:
                _boundary(panel, edge, found)
        spots = [lead for lead in findings.leads if lead.place == where]
        panel.plot(
            [lead.first for lead in spots],
            [lead.second for lead in spots],
            ".",
            color=INK,
            markersize=3.5,
            linestyle="none",
            zorder=4,
        )
        _names(panel, found)

    told = "lines: boundaries, with 95 %; dotted: the next one costs 2 × and 4 ×; points: measured; pale: not known"
    title = headline(findings, "map")
    figure = canvas.sheet(findings, groups, panel_of, canvas.foot(findings, told), title, size=size)
    remove_covering(figure, factors)
    return figure


def _axes(panel: Axes, found: MapFinding, linear: bool) -> None:
    for axis, sizes, scale, name in (
        (panel.xaxis, found.first, panel.set_xscale, found.names[0]),
        (panel.yaxis, found.second, panel.set_yscale, found.names[1]),
    ):
        if not linear and _is_geometric(sizes):
            scale("log")
        ticks.set_ticks(axis, ticks.of_size, whole=all(float(size).is_integer() for size in sizes))
        axis.set_label_text(canvas.plain(name), color=INK, fontsize=LABEL)
    panel.set_xlim(found.first[0], found.first[-1])
    panel.set_ylim(found.second[0], found.second[-1])


def _is_geometric(sizes: list[float]) -> bool:
    """Whether the lines of a grid rise by a factor."""
    if sizes[0] <= 0 or len(sizes) < 3:
        return False
    first, last = sizes[1] / sizes[0], sizes[-1] / sizes[-2]
    return abs(first - last) < 0.01 * (first - 1) + 1e-4


def ahead_of_others(found: MapFinding) -> list[Grid]:
    """For each contender, the logarithm of the cheapest other cost over its own: above 0 where it is the cheapest.

    Shapes (second, first), as figures have them; NaN where it was not measured.
    """
    logs = np.log(
        np.array([[[np.nan if cell is None else cell for cell in row] for row in own] for own in found.costs])
    )
    made = []
    for at, own in enumerate(logs):
        others = np.where(np.isnan(logs), np.inf, logs)
        others[at] = np.inf
        least = others.min(axis=0)
        made.append(np.clip(np.where(np.isinf(least) & np.isfinite(own), 1.0, least - own), -5, 5).T)
    return made


def _regions(panel: Axes, found: MapFinding, style: dict[str, canvas.Style], pattern: dict[str, str]) -> None:
    sure = np.array([[0.0 if cell is None else cell for cell in row] for row in found.sure]).T
    tie = np.array(found.tied, dtype=float).T
    for name, ahead in zip(found.contenders, ahead_of_others(found), strict=True):
        if not (np.nan_to_num(ahead, nan=-1) > 0).any():
            continue
        where = found.first, found.second, np.ma.masked_invalid(ahead)
        panel.contourf(*where, levels=[0, 10], colors=[style[name]["color"]], alpha=0.55, zorder=1)
        if pattern[name]:
            with _thin_hatches():
                panel.contourf(*where, levels=[0, 10], colors="none", hatches=[pattern[name]], zorder=1.2)
    measured = np.ma.masked_where(np.array(found.leader).T < 0, sure)
    if measured.count() and measured.min() < 1:
        panel.contourf(found.first, found.second, measured, levels=[-1, 1], colors=[PAPER], alpha=0.5, zorder=1.4)
    if tie.any():
        with _thin_hatches():
            panel.contourf(found.first, found.second, tie, levels=[0.5, 2], colors="none", hatches=["////"], zorder=1.5)


def _thin_hatches() -> AbstractContextManager[None]:
    import matplotlib as mpl

    return mpl.rc_context({"hatch.color": PAPER, "hatch.linewidth": 0.9})


def _ahead(panel: Axes, found: MapFinding) -> list[Text]:
    """Lines where the next one costs so many times as much. Returns what is written on them."""
    factor = np.array([[np.nan if cell is None else cell for cell in row] for row in found.factor]).T
    known = np.ma.masked_invalid(np.log(factor))
    levels = [level for level in AHEAD if np.nanmin(known) < np.log(level) < np.nanmax(known)] if known.count() else []
    if not levels:
        return []
    lines = panel.contour(
        found.first,
        found.second,
        known,
        levels=[float(np.log(level)) for level in levels],
        colors=[INK],
        linewidths=0.9,
        linestyles="dotted",
        zorder=2,
    )
    said = {float(np.log(level)): f"{level:g} ×" for level in levels}
    return list(panel.clabel(lines, fmt=said, fontsize=SMALL, colors=INK))


def _boundary(panel: Axes, edge: Boundary, found: MapFinding) -> None:
    across = next(name for name in found.names if name != edge.along)
    x = [row[across] for row in edge.curve]
    at, low, high = ([row[name] for row in edge.curve] for name in (edge.along, "low", "high"))
    if edge.along == found.names[1]:
        panel.fill_between(x, low, high, color=INK, alpha=0.22, linewidth=0, zorder=2.5)
        panel.plot(x, at, color=INK, linewidth=2.0, zorder=3)
    else:
        panel.fill_betweenx(x, low, high, color=INK, alpha=0.22, linewidth=0, zorder=2.5)
        panel.plot(at, x, color=INK, linewidth=2.0, zorder=3)


def _names(panel: Axes, found: MapFinding) -> None:
    """Each leader's name, where its region is widest."""
    leader = np.array(found.leader)
    for number, name in enumerate(found.contenders):
        own = leader == number
        if not own.any():
            continue
        inside = np.argwhere(own)
        # The border of the map counts as one, so that names stand away from it.
        rest = np.argwhere(np.pad(~own, 1, constant_values=True)) - 1
        apart = ((inside[:, None, :] - rest[None, :, :]) * np.array([0.6, 1.0])) ** 2
        widest = np.sqrt(apart.sum(axis=2).min(axis=1))
        if widest.max() < ROOM_LEAST:
            continue
        # Where several places will do, that in the middle.
        best = np.flatnonzero(widest > widest.max() - 0.3)
        i, j = inside[int(best[len(best) // 2])]
        upright = {0: "bottom", len(found.second) - 1: "top"}
        panel.text(
            found.first[i],
            found.second[j],
            canvas.plain(canvas.short(name)),
            ha="center",
            va=upright.get(int(j), "center"),
            fontsize=LABEL,
            fontweight="bold",
            color=INK,
            path_effects=canvas.halo(),
            clip_on=True,
            zorder=5,
        )
