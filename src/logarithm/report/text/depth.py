"""Comparisons in depth for the terminal: one pair, and what changed between logbooks."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from rich.console import Group, RenderableType
from rich.table import Table
from rich.text import Text

from ...notation.orders import pretty
from ...results.findings import Findings, Interval, PairFinding
from .. import units
from ..contents.sentences import axis_of, overtaking, place, place_said

SIZES_SHOWN = 8


def pair_in_depth(pair: PairFinding, findings: Findings, ratios: Sequence[tuple[float, Interval]]) -> RenderableType:
    """One pair: who leads where, every crossing, what is to be expected beyond, and the ratio at each size."""
    one, other = units.said(pair.one), units.said(pair.other)
    axis = axis_of(findings)
    where = (pair.family, pair.stage, pair.metric)
    lines = [
        overtaking(each, findings)
        for each in findings.crossovers
        if (each.family, each.stage, each.metric) == where and {each.before, each.after} == {pair.one, pair.other}
    ]
    for zone in pair.zones:
        ends = f"{axis} = {units.size(_tidy(zone.start))} to {units.size(_tidy(zone.end))}"
        who = f"{units.said(zone.leader)} leads" if zone.leader else "they cannot be told apart"
        lines.append(f"{who} over {ends}")
    if pair.ahead == "none":
        lines.append("no crossover is to be expected beyond the sizes measured")
    elif pair.ahead == "open" and findings.study.axis == "size":
        lines.append("what happens beyond the sizes measured is open")
    table = _table((axis, f"{one} over {other}", "95 %"))
    for size, ratio in ratios:
        cells = (units.number(value, 3) for value in (ratio.value, ratio.low, ratio.high))
        value, low, high = cells
        table.add_row(units.size(size), f"{value} ×", f"{low} to {high}")
    return Group(Text(f"{one} and {other} on {place_said(where)}", style="bold"), *map(_indented, lines), table)


def contrasted(changes: Sequence[Any], moved: Sequence[Any], titles: tuple[str, str], axis: str) -> RenderableType:
    """What changed between two logbooks.

    Args:
        changes: with `contender`, `family`, `stage`, `metric`, `overall`, `verdict`, `sizes`, `orders`, `is_new_order`.
        moved: crossovers in both, with `sizes` (two intervals) and `is_real`.
        titles: what the two logbooks are called.
        axis: what the horizontal axis is called.
    """
    parts: list[RenderableType] = [Text(f"{titles[0]} → {titles[1]}", style="bold")]
    colours = {"slower": "red", "faster": "green"}
    parts += [Text(_changed(change), style=colours.get(change.verdict, "")) for change in changes]
    for each in moved:
        old, new = each.sizes
        where = place_said((each.family, each.stage, each.metric))
        who = f"{units.said(each.after)} over {units.said(each.before)} on {where}"
        told = "moved" if each.is_real else "has not moved, as far as can be told:"
        spans = [f"{units.crossing(s.value)} ({units.crossing(s.low)} to {units.crossing(s.high)})" for s in (old, new)]
        parts.append(Text(f"the crossover of {who} {told} from {axis} = {spans[0]} to {spans[1]}"))
    table = _table(("contender", "family", axis, "ratio", "95 %", "difference"))
    for change in changes:
        shown = [change.sizes[at] for at in units.evenly(len(change.sizes), SIZES_SHOWN)]
        for number, row in enumerate(shown):
            names = (units.name(change.contender), place((change.family, change.stage, change.metric)))
            low, high = units.number(row.ratio.low), units.number(row.ratio.high)
            table.add_row(
                *(names if number == 0 else ("", "")),
                units.size(row.size),
                units.number(row.ratio.value),
                f"{low} to {high}",
                "clear" if row.is_clear else "within noise",
            )
    return Group(*parts, "", Text("By size, cost after over cost before", style="bold"), table)


def _changed(change: Any) -> str:
    """A change in a sentence."""
    who = f"{units.said(change.contender)} on {place_said((change.family, change.stage, change.metric))}"
    share = f"{_percent(change.overall.value)} ({_percent(change.overall.low)} to {_percent(change.overall.high)})"
    told = (
        f"{who}: {change.verdict}, {share}"
        if change.verdict != "no difference seen"
        else f"{who}: {change.verdict}; {share}"
    )
    if change.is_new_order:
        told += f"; its order changed from {pretty(change.orders[0])} to {pretty(change.orders[1])}"
    return told


def _percent(ratio: float) -> str:
    """A ratio as a change: "+4.9 %"; from twice on as a factor."""
    if ratio >= 2 or ratio <= 0.5:
        return units.times(ratio)
    return f"{100 * (ratio - 1):+.1f} %".replace("-0.0", "+0.0")


def steps_table(titles: Sequence[str], rows: Sequence[tuple[str, str, Sequence[tuple[Any, Any]]]]) -> RenderableType:
    """A series of logbooks: each step against the first and against the one before.

    Args:
        titles: of the logbooks after the first.
        rows: (contender, family, (change against the first, change against the one before) for each of them).
    """
    table = _table(("contender", "family", *titles))
    for contender, family, cells in rows:
        shown = [
            units.NOTHING
            if first is None
            else f"{_marked(first)} · {_marked(last) if last is not None else units.NOTHING}"
            for first, last in cells
        ]
        table.add_row(units.name(contender), units.name(family), *shown)
    return Group(
        Text("Cost against the first · against the one before", style="bold"),
        table,
        Text("≈ no difference seen; the others are real", style="dim"),
    )


def _marked(change: Any | None) -> str:
    if change is None:
        return units.NOTHING
    return f"{'≈ ' if change.verdict == 'no difference seen' else ''}{_percent(change.overall.value)}"


def _tidy(size: float) -> float:
    return round(size) if size >= 10 else float(f"{size:.2g}")


def _indented(line: str) -> RenderableType:
    from rich.padding import Padding

    return Padding(Text(line), (0, 0, 0, 2))


def _table(headings: Sequence[str]) -> Table:
    table = Table(box=None, padding=(0, 2, 0, 0), pad_edge=False)
    for heading in headings:
        table.add_column(heading, header_style="dim")
    return table
