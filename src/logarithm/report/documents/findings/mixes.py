"""Mixes of operations in a table: priced, measured, and by how much these differ."""

from __future__ import annotations

from ....notation import numbers, words
from ....results.findings import Findings
from ... import units
from ...document import DIM, DOUBT, Line, Section, Span, Table
from .sentences import axis_of

CLOSE = 0.15  # of the price: a mix that costs so much more or less is none of its operations alone


def section(findings: Findings) -> Section:
    """A row for each mix of each contender, at the largest size; nothing where there is none."""
    last: dict[tuple[str, str, str], int] = {}
    for number, each in enumerate(findings.mixes):
        last[each.contender, each.family, each.mix] = number
    table = Table(("mix", "contender", "family", axis_of(findings), "priced", "95 %", "measured", "off by"))
    lines: list[Line] = []
    for at in last.values():
        each = findings.mixes[at]
        unit = units.unit_for([each.priced.value])
        low, high = (unit.show(end).removesuffix(unit.name).strip() for end in (each.priced.low, each.priced.high))
        share = f"{100 * each.off:+.0f} %"
        is_close = abs(each.off) <= CLOSE
        table.rows.append(
            (
                words.name(each.mix),
                words.name(each.contender),
                words.name(each.family),
                numbers.size(each.size),
                unit.show(each.priced.value),
                f"{low} to {high}",
                unit.show(each.measured),
                Span(share, DIM if is_close else DOUBT),
            )
        )
        if not is_close:
            who = f"{words.said(each.contender)}, {words.said(each.mix)}"
            lines.append(f"{who}: its operations cost something else beside each other than each by itself")
    is_there = bool(table.rows)
    return Section(
        "mixes", "Mixes, for one operation on average" if is_there else "", lines, [table] if is_there else []
    )
