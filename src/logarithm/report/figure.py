"""Figures: the growth view, a panel for each family, curves labelled at their ends."""

from __future__ import annotations

import itertools
from itertools import cycle, islice
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..analysis.findings import Costs, Findings
from ..errors import LogarithmError
from . import units

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure
    from matplotlib.patheffects import AbstractPathEffect

KINDS = ("png", "svg", "pdf")
PANEL_WIDTH, PANEL_HEIGHT, COLUMNS = 6.0, 4.6, 3
WIDTH, HEIGHT = 12.8, 8.0

# Hues that people with any common colour vision tell apart, dark enough for white paper; and because print is
# often grey, each curve also has its own marker and its own dashes.
COLOURS = ("#1b5e8a", "#c8552b", "#2d7d5a", "#8a4f9e", "#b08900", "#3f3f46", "#d1477a", "#0f8b8d")
MARKERS = ("o", "s", "^", "D", "v", "P", "X", "*")
DASHES = ("-", (0, (6, 2)), (0, (2, 1.4)), (0, (7, 2, 1.5, 2)), (0, (4, 1.5, 1, 1.5, 1, 1.5)))
Style = dict[str, Any]

COLUMN = 110  # pixels: labels whose curves end nearer than this stand in one column

CLOSE = 2.0  # crossings whose sizes differ by less than this factor would have labels that overlap
INK, FAINT = "#22262b", "#c9ced6"


def save_growth(findings: Findings, path: Path) -> None:
    """Draw the growth view into a PNG, SVG or PDF, by the ending of the name.

    Raises:
        LogarithmError: where the ending is none of these, or the file cannot be written.

    """
    kind = path.suffix.lower().lstrip(".")
    if kind not in KINDS:
        raise LogarithmError(f"{path}: a figure is a PNG, SVG or PDF, so its name ends in .png, .svg or .pdf")
    if not findings.costs:
        raise LogarithmError("there is nothing to draw: no trial came to an end")
    drawn = draw_growth(findings)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        drawn.savefig(path, dpi=100 if kind == "png" else None)
    except OSError as error:
        raise LogarithmError(f"{path} cannot be written: {error.strerror or error}") from None


def draw_growth(findings: Findings) -> Figure:
    """The growth view: points, quartiles, fitted curves and crossovers, on logarithmic axes."""
    import matplotlib as mpl
    from matplotlib.figure import Figure
    from matplotlib.layout_engine import ConstrainedLayoutEngine

    mpl.rcParams["svg.fonttype"] = "none"
    places = list(dict.fromkeys((each.family, each.stage, each.metric) for each in findings.costs))
    columns = min(COLUMNS, len(places))
    rows = -(-len(places) // columns)
    size = (max(WIDTH, 4.3 * columns), HEIGHT if rows < 3 else PANEL_HEIGHT * rows)
    figure = Figure(figsize=size, layout=ConstrainedLayoutEngine(w_pad=0.12, h_pad=0.12))
    styles = _styles(findings.study.contenders)
    panels = figure.subplots(rows, columns, squeeze=False, sharey=True)
    for index, panel in enumerate(panels.flat):
        if index >= len(places):
            panel.set_visible(False)
            continue
        family, stage, metric = places[index]
        group = [each for each in findings.costs if (each.family, each.stage, each.metric) == places[index]]
        _panel(panel, findings, group, styles)
        title = units.name(family) + (f", {stage}" if stage else "")
        panel.set_title(title, loc="left", fontsize=12, fontweight="bold", color=INK)
        if index % columns == 0:
            panel.set_ylabel("time of one call" if metric == "time" else metric, color=INK)
        panel.set_xlabel("size n" if findings.study.axis == "size" else findings.study.axis, color=INK)
    heading = units.name(findings.study.name)
    if findings.study.question:
        heading += f" · {findings.study.question}"
    figure.suptitle(heading, x=0.01, ha="left", fontsize=14, color=INK)
    figure.supxlabel(_foot(findings), x=0.01, ha="left", fontsize=8.5, color="#5c6470")
    # Ends can only be kept apart once the layout says where they are.
    figure.draw_without_rendering()
    for panel in panels.flat:
        if panel.get_visible():
            _label_ends(panel)
    return figure


def _styles(names: list[str]) -> dict[str, Style]:
    return {
        name: {"color": colour, "marker": marker, "linestyle": dashes}
        for name, colour, marker, dashes in zip(
            names, cycle(COLOURS), cycle(MARKERS), islice(cycle(DASHES), len(names)), strict=False
        )
    }


def _panel(panel: Axes, findings: Findings, group: list[Costs], styles: dict[str, Style]) -> None:
    from matplotlib.ticker import FuncFormatter, LogLocator, NullFormatter

    is_size = findings.study.axis == "size"
    panel.set_yscale("log")
    if is_size:
        panel.set_xscale("log")
    metric = group[0].metric
    panel.yaxis.set_major_formatter(FuncFormatter(lambda value, _: _tick(value, metric)))
    panel.yaxis.set_minor_formatter(NullFormatter())
    if is_size:
        sizes = [point.size for costs in group for point in costs.points]
        wide = max(sizes) / min(sizes) > 50
        panel.xaxis.set_major_locator(LogLocator(base=10, subs=(1.0,) if wide else (1.0, 2.0, 5.0)))
        panel.xaxis.set_major_formatter(FuncFormatter(lambda value, _: units.size(value)))
        panel.xaxis.set_minor_formatter(NullFormatter())
    for side in ("top", "right"):
        panel.spines[side].set_visible(False)
    panel.grid(True, which="major", color=FAINT, linewidth=0.5, alpha=0.6)
    panel.tick_params(colors=INK, labelsize=9)
    for costs in group:
        style = styles[costs.contender]
        x = [point.size for point in costs.points]
        y = [point.typical for point in costs.points]
        below = [max(point.typical - point.low, 0.0) for point in costs.points]
        above = [max(point.high - point.typical, 0.0) for point in costs.points]
        panel.errorbar(
            x,
            y,
            yerr=(below, above),
            fmt=style["marker"],
            color=style["color"],
            markersize=4.5,
            markerfacecolor="white",
            markeredgewidth=1.2,
            elinewidth=1.0,
            linestyle="none",
        )
        curve = costs.fitted or [[point.size, point.typical] for point in costs.points]
        panel.plot(
            [size for size, _ in curve],
            [cost for _, cost in curve],
            color=style["color"],
            linestyle=style["linestyle"],
            linewidth=1.5,
            label=units.name(costs.contender),
            zorder=1.5,
        )
    _crossings(panel, findings, group)
    low, high = panel.get_xlim()
    # Room at the right, in which the curves' names stand.
    panel.set_xlim(low, high * (high / low) ** 0.3 if is_size else high + (high - low) * 0.3)


def _crossings(panel: Axes, findings: Findings, group: list[Costs]) -> None:
    """Mark crossovers with a ring on the curves and their size beside it; those of leaders with a band too."""
    place = (group[0].family, group[0].stage, group[0].metric)
    leaders = {each.leader for each in findings.standings if (each.family, each.stage, each.metric) == place}
    found = [each for each in findings.crossovers if (each.family, each.stage, each.metric) == place]
    here = [each for each in found if each.basis == "measured"]
    last = 0.0
    for crossover in sorted(here, key=lambda each: each.size):
        y = _between(next(each for each in group if each.contender == crossover.after), crossover.size)
        panel.plot([crossover.size], [y], marker="o", markersize=11, color=INK, fillstyle="none", markeredgewidth=1.1)
        if crossover.before in leaders and crossover.after in leaders:
            panel.axvspan(crossover.low, crossover.high or crossover.size, color=INK, alpha=0.07, linewidth=0)
        # A second crossing close by has its label on the other side of the curves.
        above = last > 0 and crossover.size < last * CLOSE
        last = 0.0 if above else crossover.size
        panel.annotate(
            f"n = {units.crossing(crossover.size)}" if findings.study.axis == "size" else f"{crossover.size:.3g}",
            (crossover.size, y),
            xytext=(-9, 11) if above else (9, -13),
            ha="right" if above else "left",
            textcoords="offset points",
            fontsize=8.5,
            color=INK,
            path_effects=_halo(),
        )


def _halo() -> list[AbstractPathEffect]:
    """White around letters, so that they can be read where they stand on a curve."""
    from matplotlib.patheffects import withStroke

    return [withStroke(linewidth=3, foreground="white")]


def _between(costs: Costs, size: float) -> float:
    """The fitted (or measured) cost nearest to a size, where a mark belongs."""
    curve = costs.fitted or [[point.size, point.typical] for point in costs.points]
    return min(curve, key=lambda point: abs(point[0] - size))[1]


def _label_ends(panel: Axes) -> None:
    """Write each curve's name at its end; names that would overlap are moved apart, with a line to their curve."""
    lines = [line for line in panel.get_lines() if not str(line.get_label()).startswith("_")]
    height = 12.5 * panel.figure.dpi / 72
    ends = []
    for line in lines:
        x, y = float(line.get_xdata()[-1]), float(line.get_ydata()[-1])  # type: ignore[index, arg-type]
        pixel = panel.transData.transform((x, y))
        ends.append((pixel[1], pixel[0], line))
    ends.sort(key=lambda end: end[0])
    box = panel.get_window_extent()
    placed = _apart([end[0] for end in ends], [end[1] for end in ends], height, (box.y0, box.y1))
    scale = 72 / panel.figure.dpi
    for (y, _, line), target in zip(ends, placed, strict=True):
        label = panel.annotate(
            str(line.get_label()),
            (float(line.get_xdata()[-1]), float(line.get_ydata()[-1])),  # type: ignore[index, arg-type]
            xytext=(9, (target - y) * scale),
            textcoords="offset points",
            va="center",
            fontsize=9.5,
            color=line.get_color(),
            fontweight="bold",
            annotation_clip=False,
            path_effects=_halo(),
            arrowprops={"arrowstyle": "-", "color": FAINT, "linewidth": 0.7, "shrinkA": 0, "shrinkB": 3}
            if abs(target - y) > 2
            else None,
        )
        label.set_in_layout(False)


def _apart(y: list[float], x: list[float], height: float, within: tuple[float, float]) -> list[float]:
    """Heights for labels that want to stand at (x, y), rising: no two in one column nearer than `height`.

    Neighbours push each other apart by equal amounts, as often as it takes; nobody leaves the panel.
    """
    placed = list(y)
    for _ in range(200):
        moved = False
        for low, high in itertools.pairwise(range(len(placed))):
            short = height - (placed[high] - placed[low])
            if short > 0.01 and abs(x[high] - x[low]) < COLUMN:
                placed[low] -= short / 2
                placed[high] += short / 2
                moved = True
        for index in range(len(placed)):
            placed[index] = min(max(placed[index], within[0] + height / 2), within[1] - height / 2)
        if not moved:
            break
    return placed


def _tick(value: float, metric: str) -> str:
    """A tick with its unit: "10 µs"."""
    for size, name in units.TIME if metric == "time" else ((1.0, ""),):
        if value >= size * 0.9999 or (metric == "time" and name == "ns"):
            return f"{value / size:.3g} {name}".rstrip()
    return f"{value:.3g}"


def _foot(findings: Findings) -> str:
    machine = findings.machine
    facts = [str(machine[key]) for key in ("processor", "system", "python") if machine.get(key)]
    run = findings.run
    how = f"{run.heats} heats in {run.lives} {'life' if run.lives == 1 else 'lives'}" if run.heats else ""
    weather = f"machine {run.weather}" if run.weather else ""
    told = "points: median and quartiles; curves: fitted growth; rings: crossovers"
    return " · ".join(part for part in (told, how, weather, *facts) if part)
