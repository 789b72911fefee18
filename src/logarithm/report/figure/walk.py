"""A walk as a figure: what a contender does on one small instance, event by event, in as many columns as it takes."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ...results.walk import Walk
from ..documents.walk import EVERYTHING, LOOKING, Choice, Shown, chosen, title_of, total_of
from . import canvas
from .canvas import COLOURS, FAINT, INK, PAPER, SOFT

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

EVENTS_SHOWN = 200
TEXT, LETTER, LINE = 8.0, 4.82, 13.0  # points: the size of a text, the width of a letter of it, the height of a row
NUMBER, WORDS, CELLS, GAP = 24.0, 165.0, 190.0, 26.0  # points: the parts of a column and what lies between columns
HEAD, FOOT, SIDE = 58.0, 30.0, 18.0
TALL, WIDE = canvas.HEIGHT * 72, canvas.WIDTH * 72
WORDS_MOST, CELL_MOST = 33, 10


def save_walk(found: Walk, path: Path, choice: Choice = EVERYTHING) -> None:
    """Draw a walk: an event a line, with what was worked on after it."""
    canvas.check_kind(path)
    canvas.save_figure(draw_walk(found, choice), path)


def draw_walk(found: Walk, choice: Choice = EVERYTHING) -> Figure:
    """The events as lines: number, words, and the container as cells, those touched outlined, written ones in red."""
    from matplotlib.figure import Figure

    rows = chosen(found, choice)
    shown = rows[:EVENTS_SHOWN]
    column = NUMBER + WORDS + CELLS + GAP
    fit = int((TALL - HEAD - FOOT) / LINE)
    columns = max(1, -(-len(shown) // fit))
    if columns > 3:  # rather taller than very wide
        columns, fit = 4, max(fit, -(-len(shown) // 4))
    width = max(WIDE, 2 * SIDE + columns * column)
    height = max(TALL, HEAD + FOOT + fit * LINE)
    figure = Figure(figsize=(width / 72, height / 72), facecolor=PAPER)
    panel = figure.add_axes((0, 0, 1, 1))
    panel.set_xlim(0, width)
    panel.set_ylim(height, 0)
    panel.axis("off")
    total = total_of(found) or "nothing was counted"
    panel.text(SIDE, 20, canvas.plain(title_of(found)), fontsize=14, color=INK, va="center")
    panel.text(SIDE, 40, canvas.plain(f"answers {found.answer}; {total}"), fontsize=9, color=SOFT, va="center")
    for at, row in enumerate(shown):
        _row(panel, row, SIDE + at // fit * column, HEAD + at % fit * LINE)
    for number in range(1, -(-len(shown) // fit)):
        x = SIDE + number * column - GAP / 2
        panel.plot([x, x], [HEAD - 8, height - FOOT], color=FAINT, linewidth=0.8)
    told = "cells: what was worked on, after the event; outlined: the places touched, in red where they were changed"
    if len(rows) > len(shown):
        told += f"; {len(rows) - len(shown)} more lines do not fit: choose with --from, --to and --only"
    panel.text(SIDE, height - 12, told, fontsize=8, color=SOFT, va="center")
    return figure


def _row(panel: Axes, row: Shown, x: float, y: float) -> None:
    event = row.event
    panel.text(x + NUMBER - 8, y, str(row.number), fontsize=TEXT - 1, color=SOFT, ha="right", va="center")
    indent = "  " * min(event.depth, 6)
    words = f"… {row.more} more like it" if row.more else event.what
    quiet = row.more or event.kind in ("call", "return", "set", "begin")
    _write(panel, x + NUMBER, y, _fit(indent + words, WORDS_MOST), SOFT if quiet else INK)
    if row.more:
        return
    name, state = _worked_on(row)
    if state is None:
        return
    colour = COLOURS[0] if event.kind in LOOKING or event.kind == "begin" else COLOURS[1]
    _cells(panel, state, event.touched.get(name, []), x + NUMBER + WORDS, y, colour)


def _worked_on(row: Shown) -> tuple[str, list[Any] | None]:
    """The container that an event was about, and its state."""
    names = [name for name in row.event.touched if name in row.variables]
    if not names and row.event.kind in ("begin", "call"):
        names = [name for name, state in row.variables.items() if state[0] != "value"]
    return (names[0], row.variables[names[0]]) if names else ("", None)


def _cells(panel: Axes, state: list[Any], touched: Sequence[Any], x: float, y: float, colour: str) -> None:
    """A container as a row of cells; of a grid only the row that was touched, where it is large."""
    from matplotlib.patches import Rectangle

    cells, marked, between = _line_of(state, touched)
    right = x + CELLS
    for number, (cell, is_marked) in enumerate(zip(cells, marked, strict=True)):
        shown = _fit(cell, CELL_MOST)
        wide = max(len(shown) * LETTER + 5, 13)
        if x + wide > right:
            _write(panel, x + 1, y, "…", SOFT)
            return
        if cell == "/":
            x += 5
            continue
        face = "#eaf1f6"
        box = Rectangle((x, y - LINE / 2 + 1), wide, LINE - 2, facecolor=face, edgecolor=PAPER, linewidth=0.6)
        panel.add_patch(box)
        if is_marked:
            box.set(edgecolor=colour, linewidth=1.5, zorder=3)
        _write(panel, x + wide / 2, y, shown, colour if is_marked else INK, "center")
        x += wide + (1.5 if not between or number + 1 == len(cells) else 0)
        if between and number + 1 < len(cells):
            _write(panel, x + 1, y, "→", SOFT)
            x += 9


def _line_of(state: list[Any], touched: Sequence[Any]) -> tuple[list[str], list[bool], bool]:
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
    if kind in ("cells", "letters", "chain"):
        return list(inside), [at in touched or cell in touched for at, cell in enumerate(inside)], kind == "chain"
    return [str(inside)], [False], False


def _write(panel: Axes, x: float, y: float, text: str, colour: str, ha: Any = "left") -> None:
    panel.text(x, y, canvas.plain(text), fontsize=TEXT, color=colour, ha=ha, va="center", family="DejaVu Sans Mono")


def _fit(text: str, most: int) -> str:
    return text if len(text) <= most else text[: most - 1] + "…"
