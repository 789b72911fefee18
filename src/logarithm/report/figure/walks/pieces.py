"""What the figures of walks are made of: a panel measured in points, texts, cells in a row, nodes of a tree."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any

from ....counting.walk.pictures import in_words
from ...trees import Node
from .. import canvas
from ..canvas import FAINT, INK, PAPER, SOFT

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

TALL, WIDE = canvas.HEIGHT * 72, canvas.WIDTH * 72  # points: the least size of a figure
LETTER = 0.6025  # the width of a letter, as a share of the size of the text
CELL_MOST, CELL = 10, "#eaf1f6"
Mark = Callable[[Any], str | None]
"""For the label of a node the colour that it is outlined in; None where it is not marked."""


def paper(width: float, height: float) -> tuple[Figure, Axes]:
    """A figure of so many points, with a panel that is measured in points from its upper left corner."""
    from ..drawing import Drawing

    figure = Drawing(figsize=(width / 72, height / 72), facecolor=PAPER)
    panel = figure.add_axes((0, 0, 1, 1))
    panel.set_xlim(0, width)
    panel.set_ylim(height, 0)
    panel.axis("off")
    return figure, panel


def write(panel: Axes, x: float, y: float, text: str, colour: str, size: float, ha: Any = "left") -> None:
    """A text whose letters are all of one width."""
    panel.text(x, y, canvas.plain(text), fontsize=size, color=colour, ha=ha, va="center", family="DejaVu Sans Mono")


def fit(text: str, most: int) -> str:
    """A text of at most so many letters."""
    return text if len(text) <= most else text[: most - 1] + "…"


def box(panel: Axes, x: float, y: float, wide: float, high: float, mark: str | None) -> None:
    """A cell from `x` on, around the height `y`."""
    from matplotlib.patches import Rectangle

    made = Rectangle((x, y - high / 2), wide, high, facecolor=CELL, edgecolor=PAPER, linewidth=0.6)
    panel.add_patch(made)
    if mark is not None:
        made.set(edgecolor=mark, linewidth=1.5, zorder=3)


def row_of_cells(
    panel: Axes,
    state: list[Any],
    touched: Sequence[Any],
    colour: str,
    place: tuple[float, float],
    size: float,
    right: float,
) -> None:
    """A container as a row of cells; of a grid only the row that was touched, where it is large.

    Args:
        panel: measured in points.
        state: of the container.
        touched: its places that are outlined, in `colour`.
        place: where the row begins, and its middle.
        size: of the text, in points.
        right: where the row ends at the latest.
    """
    x, y = place
    high = 1.6 * size
    cells, marked, between = line_of(state, touched)
    for number, (cell, is_marked) in enumerate(zip(cells, marked, strict=True)):
        shown = fit(cell, CELL_MOST) if len(cells) > 1 else cell
        wide = max(len(shown) * LETTER * size + 5, high)
        if x + wide > right:
            write(panel, x + 1, y, "…", SOFT, size)
            return
        if cell == "/":
            x += 5
            continue
        box(panel, x, y, wide, high - 2, colour if is_marked else None)
        write(panel, x + wide / 2, y, shown, colour if is_marked else INK, size, "center")
        x += wide + (1.5 if not between or number + 1 == len(cells) else 0)
        if between and number + 1 < len(cells):
            write(panel, x + 1, y, "→", SOFT, size)
            x += size + 1


def width_of(state: list[Any], size: float) -> float:
    """How wide a container is as a row of cells, in points."""
    cells, _, between = line_of(state, [])
    letters = [len(fit(cell, CELL_MOST) if len(cells) > 1 else cell) for cell in cells]
    return sum(max(many * LETTER * size + 5, 1.6 * size) + (size + 1 if between else 1.5) for many in letters)


def line_of(state: list[Any], touched: Sequence[Any]) -> tuple[list[str], list[bool], bool]:
    """The cells of a state in a line, which of them were touched, and whether arrows stand between them."""
    kind, inside = state
    if kind == "rows":
        places = {tuple(each) for each in touched if isinstance(each, list)}
        wanted = sorted({place[0] for place in places}) or range(len(inside))
        if sum(map(len, inside)) <= 12:
            wanted = range(len(inside))
        cells: list[str] = []
        marked: list[bool] = []
        for number, r in enumerate(wanted):
            cells += (["/"] if number else []) + list(inside[r])
            marked += ([False] if number else []) + [(r, c) in places for c in range(len(inside[r]))]
        return cells, marked, False
    if kind == "pairs":
        return [f"{key}: {value}" for key, value in inside], [key in touched for key, _ in inside], False
    if kind in ("cells", "heap", "letters", "chain"):
        return list(inside), [at in touched or cell in touched for at, cell in enumerate(inside)], kind == "chain"
    return [in_words(state)], [False], False


def tree(
    panel: Axes,
    nodes: Sequence[Node],
    named: Callable[[Any], str],
    mark: Mark,
    room: tuple[float, float, float, float],
    size: float,
) -> None:
    """The nodes of a tree, in a room: left, upper, right and lower edge in points.

    Args:
        panel: measured in points.
        nodes: as they are laid out.
        named: for a label what is written in the node.
        mark: for a label the colour of its outline.
        room: where the tree goes.
        size: of the text, in points, where there is room for it.
    """
    left, upper, right, lower = room
    widest = max(len(named(node.label)) for node in nodes)
    across, down = max(node.x for node in nodes) + 1, max(node.depth for node in nodes) + 1
    step = min((right - left) / across, widest * LETTER * size + 22)
    fall = min((lower - upper) / down, 4.2 * size)
    size = min(size, max(4.0, (step - 6) / (widest * LETTER)))

    def at(node: Node) -> tuple[float, float]:
        return left + (node.x + 0.5) * step, upper + (node.depth + 0.5) * fall

    for node in nodes:
        if node.parent is not None:
            (x, y), (above_x, above_y) = at(node), at(nodes[node.parent])
            panel.plot([above_x, x], [above_y, y], color=FAINT, linewidth=1.1, zorder=1)
    for node in nodes:
        x, y = at(node)
        shown, colour = named(node.label), mark(node.label)
        wide = max(len(shown) * LETTER * size + 8, 1.9 * size)
        box(panel, x - wide / 2, y, wide, 1.9 * size, colour)
        write(panel, x, y, shown, colour or INK, size, "center")
