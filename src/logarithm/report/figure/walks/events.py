"""A walk as a figure: what a contender does on one small instance, event by event, in as many columns as it takes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from ....results.tasks.walk import Walk
from ...document import BAD, DIM
from ...documents.walk import (
    EVERYTHING,
    LOOKING,
    Choice,
    Shown,
    chosen,
    end_of,
    side_by_side,
    title_of,
    tone_of,
    total_of,
)
from .. import canvas
from ..canvas import COLOURS, FAINT, INK, SOFT
from .pieces import TALL, WIDE, fit, paper, row_of_cells, width_of, write

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

EVENTS_SHOWN = 200
TEXT, LINE = 8.0, 13.0  # points: the size of a text, the height of a row
NUMBER, WORDS, CELLS, GAP = 24.0, 165.0, 190.0, 26.0  # points: the parts of a column and what lies between columns
HEAD, FOOT, SIDE = 58.0, 30.0, 18.0
WORDS_MOST = 33


def draw_events(found: Walk, choice: Choice = EVERYTHING) -> Figure:
    """The events as lines: number, words, and the container as cells, those touched outlined, written ones in red."""
    rows, side = chosen(found, choice), side_by_side(found)
    shown = rows[:EVENTS_SHOWN]
    cells = [_room(shown, name) for name in side] or [CELLS]
    column = NUMBER + WORDS + sum(cells) + GAP
    head: float = HEAD + (LINE if side else 0)
    lines = int((TALL - head - FOOT) / LINE)
    columns = max(1, -(-len(shown) // lines))
    if columns > 3:  # rather taller than very wide
        columns, lines = 4, max(lines, -(-len(shown) // 4))
    width = max(WIDE, 2 * SIDE + columns * column)
    height = max(TALL, head + FOOT + lines * LINE)
    figure, panel = paper(width, height)
    total = total_of(found) or "nothing was counted"
    panel.text(SIDE, 20, canvas.plain(title_of(found)), fontsize=14, color=INK, va="center")
    panel.text(SIDE, 40, canvas.plain(f"{end_of(found)}; {total}"), fontsize=9, color=SOFT, va="center")
    places = {name: NUMBER + WORDS + sum(cells[:at]) for at, name in enumerate(side)}
    for at, row in enumerate(shown):
        _row(panel, row, SIDE + at // lines * column, head + at % lines * LINE, places)
    for number in range(-(-len(shown) // lines)):
        left = SIDE + number * column
        for name, away in places.items():
            write(panel, left + away, head - LINE, fit(name, 12), SOFT, TEXT)
        if not number:
            continue
        x = left - GAP / 2
        panel.plot([x, x], [head - 8, height - FOOT], color=FAINT, linewidth=0.8)
    told = "cells: what was worked on, after the event; outlined: the places touched, in red where they were changed"
    if len(rows) > len(shown):
        told += f"; {len(rows) - len(shown)} more lines do not fit: choose with --from, --to and --only"
    panel.text(SIDE, height - 12, told, fontsize=8, color=SOFT, va="center")
    return figure


def _row(panel: Axes, row: Shown, x: float, y: float, places: Mapping[str, float]) -> None:
    event = row.event
    panel.text(x + NUMBER - 8, y, str(row.number), fontsize=TEXT - 1, color=SOFT, ha="right", va="center")
    indent = "  " * min(event.depth, 6)
    words = f"… {row.more} more like it" if row.more else event.what
    tone = SOFT if row.more else {DIM: SOFT, BAD: COLOURS[1]}.get(tone_of(event), INK)
    write(panel, x + NUMBER, y, fit(indent + words, WORDS_MOST), tone, TEXT)
    if event.kind == "pass":
        panel.plot([x + NUMBER, x + NUMBER + WORDS], [y - LINE / 2, y - LINE / 2], color=FAINT, linewidth=0.8)
    if row.more:
        return
    colour = COLOURS[0] if event.kind in LOOKING or event.kind == "begin" else COLOURS[1]
    for name in places or _worked_on(row):
        if name in row.variables:
            at = x + places.get(name, NUMBER + WORDS)
            touched = event.touched.get(name, [])
            row_of_cells(panel, row.variables[name], touched, colour, (at, y), TEXT, at + CELLS - 4)


def _room(rows: Sequence[Shown], name: str) -> float:
    """The room that one container takes at most."""
    widest = max((width_of(row.variables[name], TEXT) for row in rows if name in row.variables), default=0.0)
    return min(CELLS, max(widest + GAP / 2, 60.0))


def _worked_on(row: Shown) -> list[str]:
    """The container that an event was about."""
    names = [name for name in row.event.touched if name in row.variables]
    if not names and row.event.kind in ("begin", "call"):
        names = [name for name, state in row.variables.items() if state[0] != "value"]
    return names[:1]
