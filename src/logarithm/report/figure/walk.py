"""A walk as a figure: what a contender does on one small instance, event by event."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ...measuring.shared.messages import Walked
from ..text.walk import tallied
from . import canvas
from .canvas import COLOURS, INK, PAPER, SOFT
from .growth import apart

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

LETTERS_MOST = 700  # cells that get their value written into them


def save_walk(title: str, found: Walked, path: Path) -> None:
    """Draw a walk: the list from top to bottom, step by step from left to right, and its tallies below."""
    canvas.check_kind(path)
    canvas.save_figure(draw_walk(title, found), path)


def draw_walk(title: str, found: Walked) -> Figure:
    """The states of the list as columns of coloured cells, the places touched outlined, and the tallies as steps."""
    from matplotlib.figure import Figure
    from matplotlib.layout_engine import ConstrainedLayoutEngine
    from matplotlib.patches import Rectangle

    events = [event for event in found.events if event.state]
    states = [found.begin, *(event.state for event in events)]
    figure = Figure(figsize=(canvas.WIDTH, canvas.HEIGHT), layout=ConstrainedLayoutEngine(w_pad=0.12, h_pad=0.12))
    above, below = figure.subplots(2, 1, sharex=True, height_ratios=[2.2, 1])
    ranks = {
        value: rank for rank, value in enumerate(sorted({str(v): v for s in states for v in s}.values(), key=_key))
    }
    longest = max((len(state) for state in states), default=0)
    many = len(states) * longest
    for column, state in enumerate(states):
        for row, value in enumerate(state):
            shade = 0.15 + 0.75 * ranks.get(value, 0) / max(len(ranks) - 1, 1)
            above.add_patch(
                Rectangle((column - 0.5, row - 0.5), 1, 1, facecolor=_tint(shade), edgecolor=PAPER, linewidth=0.4)
            )
            if many <= LETTERS_MOST:
                ink = PAPER if shade > 0.55 else INK
                above.text(column, row, str(value), ha="center", va="center", fontsize=8, color=ink)
    for column, event in enumerate(events, start=1):
        for row in _touched(event.what):
            if not event.in_part:
                colour = COLOURS[1] if event.what.startswith(("write", "swap", "append")) else INK
                above.add_patch(Rectangle((column - 0.5, row - 0.5), 1, 1, fill=False, edgecolor=colour, linewidth=1.8))
        if column > 1 and event.number != events[column - 2].number:
            above.axvline(column - 0.5, color=SOFT, linewidth=1.2, linestyle=(0, (4, 2)))
    above.set_xlim(-0.5, max(len(states) - 0.5, 0.5))
    above.set_ylim(longest - 0.5, -0.5)
    above.set_ylabel("place", color=INK)
    ends = []
    for name, style in canvas.styles(tallied(found.events)).items():
        counts = [0, *(event.tallies.get(name, 0) for event in events)]
        below.step(range(len(counts)), counts, where="post", color=style["color"], linestyle=style["linestyle"])
        ends.append((counts[-1], len(counts) - 1, name, style["color"]))
        # Keeps room for the names, which can only be kept apart once the layout is known.
        below.annotate(f" {name} {counts[-1]}", (len(counts) - 1, counts[-1]), fontsize=9.5, fontweight="bold", alpha=0)
    below.set_ylabel("so far", color=INK)
    below.set_xlabel("event", color=INK)
    for panel in (above, below):
        for side, spine in panel.spines.items():
            spine.set_color(INK)
            spine.set_visible(side in ("left", "bottom"))
    figure.suptitle(canvas.plain(title), x=0.01, ha="left", fontsize=14, color=INK)
    told = "a column: the list after an event; outlined: the place touched, in red where written; dashes: a new pass"
    figure.supxlabel(told, x=0.01, ha="left", fontsize=8.5, color=SOFT)
    canvas.settle(figure)
    _name_ends(below, sorted(ends))
    return figure


def _name_ends(panel: Axes, ends: Sequence[tuple[int, int, str, str]]) -> None:
    """Write the name and the last count of each tally at the end of its line, no two on each other."""
    heights = [float(panel.transData.transform((x, count))[1]) for count, x, _, _ in ends]
    box = panel.get_window_extent()
    placed = apart(heights, [0.0] * len(heights), 12.5 * panel.figure.dpi / 72, (box.y0, box.y1))
    for (count, x, name, colour), before, after in zip(ends, heights, placed, strict=True):
        panel.annotate(
            f" {name} {count}",
            (x, count),
            xytext=(0, (after - before) * 72 / panel.figure.dpi),
            textcoords="offset points",
            va="center",
            fontsize=9.5,
            fontweight="bold",
            color=colour,
            annotation_clip=False,
        )


def _key(value: Any) -> tuple[int, Any]:
    return (0, value) if isinstance(value, (int, float)) else (1, str(value))


def _touched(what: str) -> list[int]:
    """The places that an event names."""
    words = what.split(":")[0].split()
    return [int(word) for word in words if word.isdigit()] if words[0] in ("read", "write", "swap", "append") else []


def _tint(shade: float) -> tuple[float, float, float]:
    """A blue between nearly white and dark."""
    light, dark = (0.93, 0.96, 0.98), (0.08, 0.30, 0.46)
    red, green, blue = (one + (other - one) * shade for one, other in zip(light, dark, strict=True))
    return red, green, blue
