"""Operations of one object in tables: mixes priced and measured, who leads over a share, growing from nothing."""

from __future__ import annotations

from collections.abc import Iterator

from .....notation import numbers, words
from .....notation.orders import pretty
from .....results.findings import Findings
from .....results.operations import Growing, MixFinding, Shares
from .... import units
from ....document import DIM, DOUBT, Line, Section, Span, Table
from ..sentences import spot_of
from .versions import at_ends

CLOSE = 0.15  # of the price: a mix that costs so much more or less is none of its operations alone


def sections(findings: Findings) -> list[Section]:
    """Mixes, and growing from nothing; empty where there are none."""
    grown = _growing(findings)
    return [_mixes(findings), Section("grow", "Growing from nothing" if grown.rows else "", [], [grown])]


def _mixes(findings: Findings) -> Section:
    """A row for each mix of each contender, at the largest size."""
    last: dict[tuple[str, str, str, str], MixFinding] = {}
    for each in findings.mixes:
        last[each.contender, each.family, each.mix, each.metric] = each
    table = Table(("mix", "contender", "family", "at", "priced", "95 %", "measured", "off by"))
    lines: list[Line] = [each for found in at_ends(findings.shares) for each in said(found, findings)]
    for each in last.values():
        unit = units.unit_for([each.priced.value], each.metric)
        low, high = (unit.show(end).removesuffix(unit.name).strip() for end in (each.priced.low, each.priced.high))
        is_close = abs(each.off) <= CLOSE
        is_timed = each.measured is not None
        table.rows.append(
            (
                words.name(each.mix),
                words.name(each.contender),
                words.name(each.family),
                spot_of(findings, each.size, each.second),
                unit.show(each.priced.value) + ("" if is_timed else f" {each.metric}"),
                f"{low} to {high}" if is_timed else Span("exact", DIM),
                "" if each.measured is None else unit.show(each.measured),
                Span(f"{100 * each.off:+.0f} %", DIM if is_close else DOUBT) if is_timed else "",
            )
        )
        if not is_close:
            who = f"{words.said(each.contender)}, {words.said(each.mix)}"
            lines.append(f"{who}: its operations cost something else beside each other than each by itself")
    title = "Mixes, for one operation on average" if table.rows else ""
    return Section("mixes", title, lines, [table] if table.rows else [])


def said(found: Shares, findings: Findings) -> Iterator[str]:
    """Who leads over the share of an operation, in one sentence."""
    where = f"{words.said(found.family)}, {spot_of(findings, found.size, found.second)}"
    if not found.switches:
        yield f"{where}: {words.said(found.leads[0].leader)} leads whatever the share of {words.said(found.operation)}"
        return
    parts = [
        f"{words.said(each.before)} leads below {share(each.share.value)}"
        f" ({share(each.share.low)} to {share(each.share.high)})"
        for each in found.switches
    ]
    last = words.said(found.switches[-1].after)
    yield f"{where}, by the share of {words.said(found.operation)}: {', '.join(parts)}, {last} above"


def share(value: float) -> str:
    """A share in percent.

    >>> share(0.125), share(0.004)
    ('12 %', '0.4 %')
    """
    return f"{100 * value:.0f} %" if value >= 0.01 or not value else f"{100 * value:.1g} %"


def _growing(findings: Findings) -> Table:
    """A row for each contender and family: the whole, a step on average, and the dearest step."""
    headings = ("contender", "family", "from nothing to", "in all", "grows as", "a step", "dearest step", "grows as")
    table = Table(headings)
    rows: dict[tuple[str, str], Growing] = {(each.contender, each.family): each for each in findings.growing}
    for each in rows.values():
        dearest = units.unit_for([each.dearest], "time").show(each.dearest)
        times = f"{dearest} ({numbers.times(each.dearest / each.mean)} the mean)"
        table.rows.append(
            (
                words.name(each.contender),
                words.name(each.family),
                spot_of(findings, each.size, each.second),
                units.unit_for([each.whole], "time").show(each.whole),
                pretty(each.order) if each.order else "open",
                units.unit_for([each.mean], "time").show(each.mean),
                times,
                pretty(each.dearest_order) if each.dearest_order else "open",
            )
        )
    return table
