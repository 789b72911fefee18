"""A run while it goes on: the standings so far, each crossover as it narrows, the orders that are still plausible."""

from __future__ import annotations

from dataclasses import dataclass

from rich.console import Group, RenderableType
from rich.progress_bar import ProgressBar
from rich.table import Table
from rich.text import Text

from ...notation import numbers, words
from ...notation.orders import pretty
from ...notation.words import place
from ...results.questions import CROSSOVER, ORDER, SETTLED, Look, Question

LIVE_ROWS_MOST = 9
MARKS = {SETTLED: ("✓", "green"), "open": ("…", "dark_orange"), "beyond": ("–", "dim")}


@dataclass(slots=True)
class View:
    """What is shown of a run: its name, the seconds used and the budget, what is done now, what was seen last."""

    name: str
    elapsed: float
    budget: float
    doing: str
    look: Look | None = None


def render(view: View, width: int, height: int = 40) -> RenderableType:
    """The view, in at most so many columns and lines."""
    head = Table.grid(padding=(0, 2), expand=False)
    done = min(view.elapsed, view.budget)
    bar = ProgressBar(total=view.budget, completed=done, width=30, complete_style="cyan", finished_style="cyan")
    used = f"{view.elapsed:.0f} s of at most {numbers.span(view.budget)}"
    head.add_row(Text(words.name(view.name), style="bold"), bar, Text(used, style="dim"))
    now = Text(f"now: {view.doing}", style="dim", no_wrap=True, overflow="ellipsis")
    if view.look is None or not view.look.standings:
        return Group(head, now)
    rows = max(2, min(LIVE_ROWS_MOST, (height - 8 - len(view.look.standings)) // 2))
    parts: list[RenderableType] = [head, now, "", _standings(view.look)]
    crossovers = [each for each in view.look.asked if each.kind == CROSSOVER]
    if crossovers:
        parts += ["", _crossovers(crossovers, rows)]
    orders = [each for each in view.look.asked if each.kind == ORDER]
    if orders:
        parts += ["", _orders(orders, rows, width)]
    legend = Text("✓ settled   … open   – more trials of this budget would not settle it", style="dim")
    return Group(*parts, "", legend)


def _standings(look: Look) -> Table:
    grid = Table.grid(padding=(0, 2))
    for where, standings in look.standings.items():
        told = []
        for leading in standings:
            who = " or ".join(map(words.name, leading.names))
            told.append(f"{who} up to {numbers.size(leading.end)}" if leading is not standings[-1] else who)
        grid.add_row(Text(place(where), style="bold"), Text(", then ".join(told), no_wrap=True, overflow="ellipsis"))
    return grid


def _crossovers(asked: list[Question], rows: int) -> Table:
    grid = Table(box=None, padding=(0, 2, 0, 0), pad_edge=False)
    at = f"at {asked[0].axis}"
    for heading in ("", "overtakes", "on", at, "between"):
        grid.add_column(heading, header_style="dim", no_wrap=True, justify="right" if heading == at else "left")
    for each in asked[:rows]:
        pair = f"{words.name(each.contenders[1])} over {words.name(each.contenders[0])}"
        ends = f"{numbers.crossing(each.start)} and {numbers.crossing(each.end)}"
        grid.add_row(_mark(each), pair, place(each.place), numbers.crossing(each.size or 0), ends)
    return _with_rest(grid, len(asked) - rows)


def _orders(asked: list[Question], rows: int, width: int) -> Table:
    grid = Table(box=None, padding=(0, 2, 0, 0), pad_edge=False)
    for heading in ("", "grows", "on", "as"):
        grid.add_column(heading, header_style="dim", no_wrap=True, max_width=width // 2)
    ranked = sorted(asked, key=lambda each: each.state == SETTLED)
    for each in ranked[:rows]:
        orders = " or ".join(pretty(order) for order in each.orders)
        grid.add_row(_mark(each), words.name(each.contenders[0]), place(each.place), orders)
    return _with_rest(grid, len(asked) - rows)


def _with_rest(grid: Table, left: int) -> Table:
    if left > 0:
        grid.add_row("", Text(f"and {left} more", style="dim"))
    return grid


def _mark(asked: Question) -> Text:
    sign, style = MARKS[asked.state]
    return Text(sign, style=style)
