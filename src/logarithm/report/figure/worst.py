"""Worst cases drawn: for each contender a band from the best to the worst found, with what is typical in it."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from matplotlib.figure import Figure
from matplotlib.ticker import NullFormatter

from ...logbook.records import Searched
from ...notation import numbers, words
from ...notation.orders import pretty
from ...results.findings import Costs
from ...results.worst import BEST, TYPICAL, WORST, Search
from . import canvas

ACROSS = 3
NAMED = {TYPICAL: "typical", BEST: "best found", WORST: "worst found"}
COLOURS = ("#0b5d7a", "#c2571a")


def save_worst(found: Search, out: Path) -> None:
    """Draw all cases into a file: PNG, SVG or PDF by its name."""
    canvas.check_kind(out)
    canvas.save_figure(draw_worst(found), out)


def draw_worst(found: Search) -> Figure:
    """A figure with a panel for each case."""
    cases = found.cases
    across = min(ACROSS, len(cases))
    down = -(-len(cases) // across)
    figure = Figure(figsize=(4.2 * across + 0.4, 3.6 * down + 0.5), dpi=110, layout="constrained")
    axes = figure.subplots(down, across, squeeze=False, sharex=True, sharey=True)
    for panel, case in zip(axes.flat, cases, strict=False):
        _panel(panel, case, found)
    for panel in axes.flat[len(cases) :]:
        panel.set_axis_off()
    what = {"work": "steps and what is done inside them", "memory": "bytes"}.get(found.metric, found.metric)
    figure.supxlabel("n")
    figure.supylabel(f"{what} of a call")
    figure.suptitle(_title(found), fontsize=13, fontweight="bold")
    return figure


def _title(found: Search) -> str:
    """The answer: the contenders whose worst case grows faster than what is typical."""
    worse = []
    for case in found.cases:
        typical, worst = found.growth(case, TYPICAL), found.growth(case, WORST)
        if typical is not None and worst is not None and worst.order and worst.order != typical.order:
            worse.append(f"{words.said(case.contender)} up to {pretty(worst.order)}")
    return "Worst found: " + (", ".join(worse[:4]) if worse else "nothing that grows faster than what is typical")


def _panel(panel: object, case: Searched, search: Search) -> None:
    from matplotlib.axes import Axes

    assert isinstance(panel, Axes)
    found = {kind: _points(case, kind, search) for kind in (BEST, TYPICAL, WORST)}
    (low_x, low), (high_x, high) = found[BEST], found[WORST]
    if len(high_x) and len(low_x) == len(high_x):
        panel.fill_between(high_x, low, high, color=COLOURS[0], alpha=0.15, linewidth=0)
    for kind, style in ((BEST, ":"), (TYPICAL, "-"), (WORST, "--")):
        at, counts = found[kind]
        if not len(at):
            continue
        colour = COLOURS[1] if kind == WORST else COLOURS[0]
        growth = search.growth(case, kind)
        order = f": {pretty(growth.order)}" if growth is not None and growth.order else ""
        panel.plot(
            at, counts, style, color=colour, marker="o", markersize=3.5, linewidth=1.6, label=f"{NAMED[kind]}{order}"
        )
    # In the order in which the lines lie above each other, and never on them.
    handles, labels = panel.get_legend_handles_labels()
    panel.legend(handles[::-1], labels[::-1], loc="upper left", frameon=False, fontsize=9, handlelength=2.6)
    panel.set_xscale("log", base=2)
    panel.set_yscale("log")
    panel.xaxis.set_major_formatter(lambda value, _: numbers.size(value))
    panel.xaxis.set_minor_formatter(NullFormatter())
    several = f" on {words.name(case.family)}" if not search.is_one_family else ""
    panel.set_title(f"{words.name(case.contender)}{several}{f', {case.stage}' if case.stage else ''}", fontsize=11)
    panel.grid(True, which="major", color="#dddddd", linewidth=0.6)
    for side in ("top", "right"):
        panel.spines[side].set_visible(False)


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
