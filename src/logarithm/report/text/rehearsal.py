"""What a rehearsal found, as text."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from rich.console import Group, RenderableType
from rich.padding import Padding
from rich.table import Table
from rich.text import Text

from .. import units


class Prospect(NamedTuple):
    """How far a contender will get: `reach`, the cost of a `call` there in seconds, and what `stops` it."""

    contender: str
    family: str
    reach: int | float | None
    call: float
    stops: str


def render(
    verdict: str,
    disagreements: Sequence[object],
    failures: Sequence[tuple[str, str]],
    traps: Sequence[tuple[str, str]],
    prospects: Sequence[Prospect],
    time_needed: str,
    axis: str,
) -> RenderableType:
    """Lay out a rehearsal.

    Args:
        verdict: do they agree, in a sentence.
        disagreements: each prints as a sentence.
        failures: (contender and family, what happened).
        traps: (contender, what to know about it).
        prospects: how far each contender will get.
        time_needed: how long measuring will take, in a sentence.
        axis: what stands for the size.
    """
    parts: list[RenderableType] = [Text(verdict, style="bold red" if disagreements else "bold")]
    parts += [Padding(Text(str(each)), (0, 0, 0, 2)) for each in disagreements]
    for title, rows in (("Failures", failures), ("Traps", traps)):
        if rows:
            parts += ["", Text(title, style="bold"), *(_line(units.name(who), what) for who, what in rows)]
    if prospects:
        parts += ["", _table(prospects, axis), "", Text(time_needed)]
    return Group(*parts)


def _line(who: str, what: str) -> RenderableType:
    return Padding(Text(f"{who}: {what}"), (0, 0, 0, 2))


def _table(prospects: Sequence[Prospect], axis: str) -> Table:
    title = "How far each will get"
    table = Table(title=title, title_justify="left", title_style="bold", box=None, padding=(0, 2, 0, 0), pad_edge=False)
    unit = units.unit_for(each.call for each in prospects if each.call)
    for heading, justify in (("contender", "left"), ("family", "left"), (f"up to {axis}", "right")):
        table.add_column(heading, header_style="dim", justify=justify)  # type: ignore[arg-type]
    table.add_column(f"a call there, {unit.name}", header_style="dim", justify="right")
    table.add_column("then", header_style="dim")
    for each in prospects:
        reach = "–" if each.reach is None else units.size(each.reach)
        call = "–" if each.reach is None else units.number(each.call / unit.size, 2)
        table.add_row(units.name(each.contender), units.name(each.family), reach, call, each.stops)
    return table
