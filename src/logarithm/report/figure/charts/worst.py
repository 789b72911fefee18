"""Worst cases drawn: for each contender a band from the best to the worst found, with what is typical in it."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from ....logbook.records import Searched
from ....notation import words
from ....notation.orders import pretty
from ....results.findings import Costs
from ....results.tasks.worst import BEST, TYPICAL, WORST, Search
from .. import canvas, ticks
from ..canvas import INK, LABEL, PAPER, SMALL, SOFT, TICK

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

NAMED = {TYPICAL: "typical", BEST: "best found", WORST: "worst found"}
LINES = {
    BEST: (canvas.COLOURS[2], "^", ":"),
    TYPICAL: (canvas.COLOURS[0], "o", "-"),
    WORST: (canvas.COLOURS[1], "s", "--"),
}
"""The colour, marker and dashes of each."""


def save_worst(found: Search, out: Path, size: canvas.Size | None = None, dark: bool = False) -> None:
    """Draw all cases into a file: PNG, SVG or PDF by its name."""
    canvas.check_kind(out)
    canvas.save_figure(draw_worst(found, size, dark), out)


def draw_worst(found: Search, size: canvas.Size | None = None, dark: bool = False) -> Figure:
    """A figure with a panel for each case, all with the same axes."""
    cases = found.cases
    across = min(canvas.COLUMNS, len(cases))
    down = -(-len(cases) // across)
    figure = canvas.paper(canvas.HEIGHT, size)
    axes = figure.subplots(down, across, squeeze=False, sharex=True, sharey=True)
    for panel, case in zip(axes.flat, cases, strict=False):
        _panel(panel, case, found)
    for panel in axes.flat[len(cases) :]:
        panel.set_axis_off()
    what = "bytes" if found.metric == "memory" else found.metric
    for panel in axes[:, 0]:
        panel.set_ylabel(f"{what} of a call", color=INK, fontsize=LABEL)
    canvas.entitle(figure, _title(found))
    told = "bands: from the best to the worst found; points: the largest of some instances"
    told += "; work: steps, and what is done inside them" if found.metric == "work" else ""
    foot = canvas.foot(found.findings, told)
    figure.supxlabel(canvas.plain(foot), x=0.01, ha="left", fontsize=SMALL, color=SOFT)
    return canvas.recoloured(figure) if dark else figure


def _title(found: Search) -> str:
    """The answer: the contenders whose worst case grows faster than what is typical."""
    worse = []
    for case in found.cases:
        typical, worst = found.growth(case, TYPICAL), found.growth(case, WORST)
        if typical is not None and worst is not None and worst.order and worst.order != typical.order:
            worse.append(f"{words.said(case.contender)} up to {pretty(worst.order)}")
    return "Worst found: " + (", ".join(worse[:4]) if worse else "nothing that grows faster than what is typical")


def _panel(panel: Axes, case: Searched, search: Search) -> None:
    canvas.frame(panel)
    found = {kind: _points(case, kind, search) for kind in (BEST, TYPICAL, WORST)}
    (low_x, low), (high_x, high) = found[BEST], found[WORST]
    if len(high_x) and len(low_x) == len(high_x):
        panel.fill_between(high_x, low, high, color=LINES[TYPICAL][0], alpha=0.12, linewidth=0)
    for kind, (colour, marker, dashes) in LINES.items():
        at, counts = found[kind]
        if not len(at):
            continue
        growth = search.growth(case, kind)
        order = f": {pretty(growth.order)}" if growth is not None and growth.order else ""
        label = f"{NAMED[kind]}{order}"
        drawn: canvas.Style = {
            "marker": marker,
            "linestyle": dashes,
            "markersize": 5,
            "markerfacecolor": PAPER,
            "linewidth": 1.6,
        }
        panel.plot(at, counts, color=colour, label=label, **drawn)
    # In the order in which the lines lie above each other, and never on them.
    handles, labels = panel.get_legend_handles_labels()
    panel.legend(handles[::-1], labels[::-1], loc="upper left", frameon=False, fontsize=TICK, labelcolor=INK)
    panel.set_xscale("log")
    panel.set_yscale("log")
    ticks.set_ticks(panel.xaxis, ticks.of_size, whole=True)
    canvas.cost_axis(panel.yaxis, search.metric)
    panel.set_xlabel("size n", color=INK, fontsize=LABEL)
    several = f" on {words.name(case.family)}" if not search.is_one_family else ""
    name = f"{words.name(case.contender)}{several}{f', {case.stage}' if case.stage else ''}"
    panel.set_title(canvas.plain(name), loc="left", fontsize=canvas.PANEL_TITLE, fontweight="bold", color=INK)


def _points(case: Searched, kind: str, search: Search) -> tuple[np.ndarray, np.ndarray]:
    roles, families = search.findings.study.roles, search.families(case)
    row: Costs | None = next(
        (
            each
            for each in search.findings.costs
            if (each.contender, each.stage) == (case.contender, case.stage)
            and each.family in families
            and roles.get(each.family) == kind
        ),
        None,
    )
    points = row.points if row is not None else []
    return np.array([float(each.size) for each in points]), np.array([max(each.typical, 0.5) for each in points])
