"""A picture for each step of a walk, for slides: the line that is executed beside the variables after it."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from ....results.tasks.walk import Walk
from ...document import BAD
from ...documents.walk import LOOKING, Choice, Shown, chosen, counted, end_of, tallied, title_of, tone_of
from ...trees import nodes_of
from .. import canvas
from ..canvas import COLOURS, FAINT, INK, SOFT
from .pieces import box, fit, paper, row_of_cells, tree, write

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

WIDTH, HEIGHT, SIDE = 921.6, 518.4, 24.0  # points: 1280 × 720 pixels
MIDDLE, TOP, BOTTOM = 430.0, 92.0, 470.0
CODE, TEXT, LINE = 9.5, 10.5, 15.0
SOURCE_LINES, CODE_MOST = 24, 62
TREE_HIGH, NEXT = 120.0, 26.0  # points: of a tree, and of a variable in a row
STEPS_MOST = 300


def save_steps(found: Walk, folder: Path, choice: Choice, dark: bool) -> int:
    """Draw each event that is shown into a file `step-001.png`, `step-002.png`, … of a folder; how many there are."""
    rows = chosen(found, Choice(choice.only, choice.begin, choice.end, fold=False))[:STEPS_MOST]
    folder.mkdir(parents=True, exist_ok=True)
    for number, row in enumerate(rows, start=1):
        drawn = draw_step(found, row, is_last=number == len(rows))
        canvas.save_figure(canvas.recoloured(drawn) if dark else drawn, folder / f"step-{number:03}.png")
    return len(rows)


def draw_step(found: Walk, row: Shown, is_last: bool = False) -> Figure:
    """One event: what happens, the source around its line, the variables, what was counted so far."""
    figure, panel = paper(WIDTH, HEIGHT)
    panel.text(SIDE, 26, canvas.plain(title_of(found)), fontsize=11, color=SOFT, va="center")
    place = f"event {row.number} of {len(found.events)}"
    panel.text(WIDTH - SIDE, 26, place, fontsize=11, color=SOFT, va="center", ha="right")
    tone = COLOURS[1] if tone_of(row.event) == BAD else INK
    write(panel, SIDE, 58, fit(row.event.what, 70), tone, 17)
    _source(panel, found, row)
    _variables(panel, row)
    counts = "   ".join(counted(row.event.tallies.get(name, 0), name) for name in tallied(found.events))
    write(panel, SIDE, HEIGHT - 22, fit(counts, 90), SOFT, 11)
    if is_last:
        write(panel, WIDTH - SIDE, HEIGHT - 22, fit(end_of(found), 50), tone, 11, "right")
    return figure


def _source(panel: Axes, found: Walk, row: Shown) -> None:
    """The lines around the one that is executed, that one with a bar."""
    at = row.event.line - found.first
    begin = max(0, min(at - SOURCE_LINES // 2, len(found.source) - SOURCE_LINES))
    for number, text in enumerate(found.source[begin : begin + SOURCE_LINES]):
        y = TOP + number * LINE
        is_now = begin + number == at
        if is_now:
            box(panel, SIDE, y, MIDDLE - SIDE - 20, LINE, COLOURS[1])
        write(panel, SIDE + 22, y, str(found.first + begin + number), SOFT, CODE - 1.5, "right")
        write(panel, SIDE + 30, y, fit(text, CODE_MOST), INK if is_now else SOFT, CODE)
    panel.plot([MIDDLE - 8, MIDDLE - 8], [TOP - 10, BOTTOM], color=FAINT, linewidth=0.8)


def _variables(panel: Axes, row: Shown) -> None:
    """The variables below each other, trees and heaps drawn as such, as many as there is room for."""
    y = TOP
    colour = COLOURS[0] if row.event.kind in LOOKING or row.event.kind == "begin" else COLOURS[1]
    for name, state in row.variables.items():
        nodes = nodes_of(state)
        if y + (TREE_HIGH if nodes else 0) > BOTTOM:
            write(panel, MIDDLE, y, "…", SOFT, TEXT)
            return
        touched = row.event.touched.get(name, [])
        write(panel, MIDDLE, y, fit(name, 12), SOFT, TEXT)
        left = MIDDLE + 92
        if state[0] != "tree" or not nodes:
            for inside, marks in _lines_of(state, touched):
                row_of_cells(panel, inside, marks, colour, (left, y), TEXT, WIDTH - SIDE)
                y += NEXT - 6 if state[0] == "rows" else NEXT
        if nodes:
            room = (left, y - 8, WIDTH - SIDE, y - 8 + TREE_HIGH)
            if state[0] == "heap":
                marked = {place: colour for place in range(len(state[1])) if place in touched}
                tree(panel, nodes, state[1].__getitem__, marked.get, room, TEXT)
            else:
                tree(panel, nodes, str, lambda _: None, room, TEXT)
            y += TREE_HIGH + 4


def _lines_of(state: list[Any], touched: list[Any]) -> list[tuple[list[Any], list[Any]]]:
    """A state as rows of cells, each with the places in it that were touched: a grid has several."""
    if state[0] != "rows":
        return [(state, touched)]
    places = [each for each in touched if isinstance(each, list)]
    return [(["cells", line], [c for r, c in places if r == row]) for row, line in enumerate(state[1])]
