"""What a rehearsal found, as text."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, NamedTuple

from rich.console import Group, RenderableType
from rich.padding import Padding
from rich.table import Table
from rich.text import Text

from ...errors import counted
from .. import units
from .conditions import learning
from .terminal import WIDE, plainly


class Prospect(NamedTuple):
    """How far a contender will get: `reach`, the cost of a `call` there in seconds, and what `stops` it."""

    contender: str
    family: str
    reach: int | float | None
    call: float
    stops: str


@dataclass(frozen=True, slots=True)
class Rehearsal:
    """What a rehearsal found; it prints itself. Spans of time are in seconds.

    Attributes:
        disagreements: each prints as a sentence.
        compared, largest: how many instances were compared, and the largest size of them.
        is_judged: whether a referee judged the answers.
        failures: (contender, family, size, reason, detail).
        traps: (contender, what to know about it).
        prospects: how far each contender will get.
        missing: contenders that were left out, with the reason.
        axis: what stands for the size.
        budget: that measuring would have.
        heat, heats: how long one trial of everything takes, and how many of these the budget gives.
        settled: after how long most will be settled.
        learnt: what the processor learns of inputs that are repeated.
    """

    disagreements: Sequence[object]
    compared: int
    is_judged: bool
    largest: float | None
    failures: Sequence[tuple[str, str, float, str, str]]
    traps: Sequence[tuple[str, str]]
    prospects: Sequence[Prospect]
    missing: Mapping[str, str]
    axis: str
    budget: float
    heat: float
    heats: int
    settled: float
    learnt: Any

    def __repr__(self) -> str:
        return plainly(render(self), WIDE).rstrip()

    @property
    def agrees(self) -> bool:
        """Whether no two answers disagree."""
        return not self.disagreements

    @property
    def nothing_works(self) -> bool:
        """Whether no contender works even at its smallest size."""
        return bool(self.prospects) and all(each.reach is None for each in self.prospects)


def render(found: Rehearsal) -> RenderableType:
    """Lay out a rehearsal."""
    parts: list[RenderableType] = [Text(_verdict(found), style="bold" if found.agrees else "bold red")]
    parts += [Padding(Text(str(each)), (0, 0, 0, 2)) for each in found.disagreements]
    failures = [
        (f"{name} on {where}", f"{reason} at {units.size(size)}" + (f" ({detail})" if detail else ""))
        for name, where, size, reason, detail in found.failures
    ]
    for title, rows in (("Failures", failures), ("Traps", found.traps)):
        if rows:
            parts += ["", Text(title, style="bold"), *(_line(units.name(who), what) for who, what in rows)]
    if found.prospects:
        parts += ["", _table(found.prospects, found.axis), "", Text("\n".join(_time_needed(found)))]
    return Group(*parts)


def _verdict(found: Rehearsal) -> str:
    if not found.agrees:
        return "The answers disagree."
    if not found.compared:
        return "No answers were compared: there is only one contender that answers."
    judged = "judged by the referee" if found.is_judged else "compared"
    most = f"sizes up to {units.size(found.largest)}" if found.largest is not None else "no size"
    return f"The answers agree ({counted(found.compared, 'instance')} {judged}, {most})."


def _time_needed(found: Rehearsal) -> list[str]:
    """How long measuring will take, and how, in sentences."""
    heats = (
        f"about {counted(found.heats, 'heat')}." if found.heats else "no whole heat: the largest sizes are left out."
    )
    return [
        f"One trial of everything takes about {units.span(found.heat)}; "
        f"a budget of {units.span(found.budget)} gives {heats}",
        f"Most will be settled after about {units.span(found.settled)}; "
        "close crossovers and small differences take longer.",
        learning(found.learnt),
    ]


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
        reach = units.NOTHING if each.reach is None else units.size(each.reach)
        call = units.NOTHING if each.reach is None else units.number(each.call / unit.size, 2)
        table.add_row(units.name(each.contender), units.name(each.family), reach, call, each.stops or "its ladder ends")
    return table
