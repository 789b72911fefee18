"""Growth in depth, forecasts and verdicts, as text."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

from rich.console import Group, RenderableType
from rich.table import Table
from rich.text import Text

from ...notation.orders import pretty
from .. import units

FAR, WITHIN = "far", "within"  # beyond what was measured, and within it


class Candidate(NamedTuple):
    """An order that was tried: its weight (0 where it is ruled out), its formula, its typical and largest miss."""

    order: str
    weight: float
    formula: str
    miss: float
    strays: float


class Row(NamedTuple):
    """One size: cost in seconds (or the metric's unit), relative residual of the first choice, exponent there."""

    size: float
    cost: float
    residual: float
    exponent: float | None


def depth(
    title: str, metric: str, candidates: Sequence[Candidate], rows: Sequence[Row], slopes: str, told: str
) -> RenderableType:
    """One curve in depth: every candidate, the residuals and local exponents by size, and the `slopes` in words."""
    first = _table("candidates", ("order", "weight", "cost", "typical miss", "largest miss"))
    for each in candidates:
        weight = f"{each.weight:.2f}" if each.weight else "ruled out"
        first.add_row(
            pretty(each.order), weight, each.formula, f"{100 * each.miss:.1f} %", f"{100 * each.strays:.0f} %"
        )
    unit = units.unit_for((row.cost for row in rows), metric)
    second = _table("by size", ("n", f"cost, {unit.name}".rstrip(", "), "off the first choice", "local exponent"))
    for row in rows:
        slope = "" if row.exponent is None else f"{row.exponent:.2f}"
        off = "not fitted" if math.isnan(row.residual) else f"{100 * row.residual:+.1f} %"
        second.add_row(units.size(row.size), units.number(row.cost / unit.size), off, slope)
    parts: list[RenderableType] = [Text(title, style="bold"), first, "", second, Text(slopes)]
    return Group(*parts, Text(pretty(told))) if told else Group(*parts)


def forecasts(heading: str, rows: Sequence[tuple[str, str, str, str, str]]) -> RenderableType:
    """Forecasts: (contender, family, value, interval, how far beyond what was measured or why there is none)."""
    table = _table("", ("contender", "family", heading, "95 %", "beyond"))
    for contender, where, value, interval, beyond in rows:
        table.add_row(units.name(contender), units.name(where), value, interval, beyond)
    if not any("×" in beyond or beyond == FAR for *_, beyond in rows):
        return table
    told = "beyond: so many times the largest size measured. A kink, a full cache or full memory may stand in between."
    return Group(table, Text(told, style="dim"))


def _table(title: str, headings: Sequence[str]) -> Table:
    table = Table(
        title=title or None, title_justify="left", title_style="dim", box=None, padding=(0, 2, 0, 0), pad_edge=False
    )
    for heading in headings:
        table.add_column(heading, header_style="dim")
    return table
