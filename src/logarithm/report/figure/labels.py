"""Labels that stand in nobody's way: names at the ends of curves, sizes beside the rings of crossovers."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...errors import one_line
from . import canvas
from .canvas import FAINT, INK, LABEL, LETTER, SMALL

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure
    from matplotlib.lines import Line2D
    from matplotlib.text import Text
    from matplotlib.transforms import Bbox

Floats = NDArray[np.float64]
COLUMN = 110  # pixels: labels whose curves end nearer than this stand in one column
ROOM = 0.36  # of a panel's width at most, at the right, in which the curves' names stand
PLACES_AROUND = [
    (right * far, up * far)
    for far in (11, 20, 32, 46)
    for right, up in ((1, -1), (-1, 1), (1, 1), (-1, -1), (1.2, 0), (-1.2, 0), (0, 1.2), (0, -1.2))
]
"""Where a label may stand, in points from its mark; what comes first is taken where nothing is better."""
# how bad that is, where a point of a curve behind it is 1
OUTSIDE, ON_LABEL, MISTAKEN, DISTANCE_COST = 60.0, 40.0, 30.0, 0.05
SURELY = 4.0  # pixels by which a label must be nearer to its own mark than to others
RIM = 5.0  # points that a ring is larger than what it holds
STEP = 4.0  # pixels between two points of a curve that are looked at


class Mark(NamedTuple):
    """What is to be written beside a place of a panel; a `ring` is to hold the heights of both its curves."""

    panel: Axes
    x: float
    y: float
    text: str
    ring: Line2D | None = None
    heights: tuple[float, float] | None = None


def write_marks(figure: Figure, marks: Sequence[Mark]) -> None:
    """Write each mark's text where it covers least of the curves, and no other text."""
    if not marks:
        return
    if canvas.given() is not None:  # nobody knows what else stands in a figure that is not ours
        for mark in marks:
            mark.panel.annotate(
                mark.text, (mark.x, mark.y), xytext=PLACES_AROUND[0], textcoords="offset points", color=INK
            )
        return
    canvas.settle(figure)
    for mark in marks:
        if mark.ring is not None and mark.heights is not None:
            low, high = (mark.panel.transData.transform((mark.x, height))[1] for height in mark.heights)
            between = abs(high - low) * 72 / figure.dpi
            mark.ring.set_markersize(max(float(mark.ring.get_markersize()), between + RIM))
    taken: list[Bbox] = [text.get_window_extent() for panel in figure.axes for text in panel.texts]
    panels = {mark.panel for mark in marks}
    curves = {panel: _pixels(panel) for panel in panels}
    inside = {panel: panel.get_window_extent() for panel in panels}
    middles = [mark.panel.transData.transform((mark.x, mark.y)) for mark in marks]
    for number, mark in enumerate(marks):
        others = [middles[at] for at, other in enumerate(marks) if at != number and other.panel is mark.panel]
        made = mark.panel.annotate(
            mark.text,
            (mark.x, mark.y),
            xytext=(0, 0),
            textcoords="offset points",
            ha="center",
            va="center",
            fontsize=SMALL,
            color=INK,
            path_effects=canvas.halo(),
            zorder=6,
        )
        box = made.get_window_extent()
        pixels = figure.dpi / 72  # a point
        wide, high = box.width / pixels / 2, box.height / pixels / 2
        best: tuple[float, tuple[float, float], Bbox] | None = None
        for right, up in PLACES_AROUND:
            # From the ring to the label's nearest edge, not to its middle.
            offset = (right + np.sign(right) * wide, up + np.sign(up) * high * 0.8)
            here = box.translated(offset[0] * pixels, offset[1] * pixels)
            badness = _badness(here, inside[mark.panel], curves[mark.panel], taken)
            badness += DISTANCE_COST * float(np.hypot(right, up))
            badness += MISTAKEN * _is_nearer_to_another(here, middles[number], others)
            if best is None or badness < best[0]:
                best = badness, offset, here
        assert best is not None
        made.set_position(best[1])
        taken.append(best[2])


def remove_covering(figure: Figure, texts: Sequence[Text]) -> None:
    """Take away those of some texts that cover others of their panel; the foot of a figure says what lines are."""
    if canvas.given() is not None or not texts:
        return
    canvas.settle(figure)
    for text in texts:
        panel, own = text.axes, text.get_window_extent()
        others = [each for each in panel.texts if each is not text] if panel is not None else []
        if any(own.overlaps(each.get_window_extent()) for each in others):
            text.remove()


def _badness(box: Bbox, inside: Bbox, curves: Floats, taken: Sequence[Bbox]) -> float:
    """How much a label would cover there; `inside` is the box of its panel."""
    x, y = curves[:, 0], curves[:, 1]
    covered = int(((x > box.x0 - 2) & (x < box.x1 + 2) & (y > box.y0 - 1) & (y < box.y1 + 1)).sum())
    outside = box.x0 < inside.x0 or box.x1 > inside.x1 or box.y0 < inside.y0 or box.y1 > inside.y1
    return float(covered + OUTSIDE * outside + ON_LABEL * sum(box.overlaps(other) for other in taken))


def _is_nearer_to_another(box: Bbox, own: Floats, others: Sequence[Floats]) -> bool:
    """Whether a label would be taken for that of another mark; marks are at (x, y), in pixels."""

    def far(at: Floats) -> float:
        # To the nearest point of the label, not to its middle.
        return float(np.hypot(max(box.x0 - at[0], at[0] - box.x1, 0), max(box.y0 - at[1], at[1] - box.y1, 0)))

    return any(far(other) < far(own) + SURELY for other in others)


def _pixels(panel: Axes) -> Floats:
    """Points along all curves of a panel, in pixels, shape (k, 2)."""
    found = [np.empty((0, 2))]
    for line in panel.get_lines():
        along = line.get_transform().transform(np.asarray(line.get_xydata(), dtype=float))
        along = along[np.isfinite(along).all(axis=1)]
        found.append(along)
        if line.get_linestyle() in ("None", "none", ""):
            continue
        for one, other in itertools.pairwise(along):
            steps = min(int(np.hypot(*(other - one)) / STEP), 500)
            found.append(one + np.linspace(0, 1, steps + 1)[1:, None] * (other - one) if steps else along[:0])
    return np.concatenate(found)


def label_ends(figure: Figure) -> None:
    """Write each curve's name at its end; names that would overlap are moved apart, with a line to their curve."""
    canvas.settle(figure)  # ends can only be kept apart once the layout says where they are
    panel = figure.axes[0]
    lines = [line for line in panel.get_lines() if not str(line.get_label()).startswith("_")]
    height = 14.5 * panel.figure.dpi / 72
    ends = []
    for line in lines:
        x, y = float(line.get_xdata()[-1]), float(line.get_ydata()[-1])  # type: ignore[index, arg-type]
        pixel = panel.transData.transform((x, y))
        ends.append((pixel[1], pixel[0], line))
    ends.sort(key=lambda end: end[0])
    box = panel.get_window_extent()
    placed = apart([end[0] for end in ends], [end[1] for end in ends], height, (box.y0, box.y1))
    scale = 72 / panel.figure.dpi
    most = max(8, int(ROOM * box.width / LETTER) - 1)
    back = panel.transData.inverted()
    for (y, x, line), target in zip(ends, placed, strict=True):
        panel.annotate(
            canvas.plain(one_line(line.get_label(), most)),
            (float(line.get_xdata()[-1]), float(line.get_ydata()[-1])),  # type: ignore[index, arg-type]
            xytext=(9, (target - y) * scale),
            textcoords="offset points",
            va="center",
            fontsize=LABEL,
            color=line.get_color(),
            fontweight="bold",
            annotation_clip=False,
        )
        if abs(target - y) > 2:
            (one, other), (far, height) = back.transform([(x + 3 / scale, y), (x + 8 / scale, target)])
            panel.plot([one, far], [other, height], color=FAINT, linewidth=0.7, label="_", clip_on=False)


def apart(y: list[float], x: list[float], height: float, within: tuple[float, float]) -> list[float]:
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
