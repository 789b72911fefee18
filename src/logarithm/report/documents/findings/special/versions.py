"""What each version of a ladder of improvements brought: a row for each, what was measured side by side."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TypeVar

from .....notation import numbers, words
from .....notation.metrics import TIMED
from .....notation.orders import pretty
from .....notation.sizes import Number
from .....notation.words import place
from .....results.base import Interval
from .....results.findings import Findings
from .....results.operations import Shares
from .....results.versions import VersionStep
from .... import units
from ....document import BAD, DIM, GOOD, Line, Section, Span, Table
from ..sentences import spot_of

Row = TypeVar("Row", VersionStep, Shares)


def section(findings: Findings) -> Section:
    """A table for each family and stage; nothing where the study names no versions."""
    grouped: dict[tuple[str, str | None, Number | None], list[VersionStep]] = {}
    for each in at_ends(findings.versions):
        grouped.setdefault((each.family, each.stage, each.second), []).append(each)
    tables = [_table(group, findings) for group in grouped.values()]
    lines: list[Line] = [said for group in grouped.values() if (said := _said(group, findings))]
    return Section("versions", "Versions, each against the one before" if tables else "", lines, tables)


def at_ends(rows: Sequence[Row]) -> list[Row]:
    """Of a map, what is at the first and the last values of the second size, which stand for all; else everything."""
    seconds = [each.second for each in rows if each.second is not None]
    return [each for each in rows if each.second is None or each.second in (min(seconds), max(seconds))]


def best_step(group: Sequence[VersionStep]) -> VersionStep | None:
    """The step that brought most in time; None where none is sure."""
    timed = [each for each in group if each.metric == "time" and each.before is not None and each.is_clear]
    most = min(timed, key=lambda each: each.before.value if each.before else 1.0, default=None)
    return most if most is not None and most.before is not None and most.before.value < 1 else None


def _said(group: Sequence[VersionStep], findings: Findings) -> str:
    """The best step in a sentence, and the last version beside the first; empty where no step is sure."""
    most = best_step(group)
    if most is None or most.before is None:
        return ""
    last = [each for each in group if each.metric == "time"][-1]
    whole = "" if last.first is None else f"; {words.said(last.contender)} is {_changed(last.first)} the first"
    where = place((most.family, most.stage, "time"))
    if most.second is not None:
        where += f" at {spot_of(findings, most.size, most.second)}"
    who = f"{words.said(most.contender)} brought most on {where}"
    return f"{who}: {_changed(most.before)} the one before{whole}"


def _changed(ratio: Interval) -> str:
    return f"{numbers.changed(ratio.value)} {'as' if ratio.value < 1 / numbers.SMALL_CHANGE else 'than'}"


def _table(group: Sequence[VersionStep], findings: Findings) -> Table:
    """A row for each version; beside its time what the step brought, beside a count how many times as much it is."""
    metrics = sorted(dict.fromkeys(each.metric for each in group), key=lambda metric: metric not in TIMED)
    rows = {(each.contender, each.metric): each for each in group}
    headings = [place((group[0].family, group[0].stage, "time"))]
    for metric in metrics:
        size = next(each.size for each in group if each.metric == metric)
        headings += [f"{metric}, {spot_of(findings, size, group[0].second)}"]
        headings += ["to the one before", "to the first"] if metric in TIMED else []
    table = Table((*headings, "order"), spare=("to the first",))
    costs = {metric: [each.cost for each in group if each.metric == metric] for metric in metrics}
    for name in dict.fromkeys(each.contender for each in group):
        cells: list[Line] = [words.name(name)]
        for metric in metrics:
            each = rows.get((name, metric))
            if each is None:
                cells += [Span("–", DIM)] * (3 if metric in TIMED else 1)
                continue
            cost = units.unit_between(costs[metric], metric).show(each.cost, 3)
            if metric in TIMED:
                cells += [cost, _step(each.before, each), _step(each.first, each, sure=True)]
            else:
                cells.append(cost if each.before is None else f"{cost} ({numbers.times(each.before.value)})")
        order = next((rows[name, metric].order for metric in metrics if (name, metric) in rows), None)
        table.rows.append((*cells, pretty(order) if order else "open"))
    return table


def _step(ratio: Interval | None, each: VersionStep, sure: bool = False) -> Line:
    """A factor with its interval, as people say it."""
    if ratio is None:
        return ""
    if not sure and not each.is_clear:
        return Span(f"about as fast ({numbers.number(ratio.low, 2)} to {numbers.number(ratio.high, 2)} ×)", DIM)
    ends = (ratio.low, ratio.high) if ratio.value > 1 else (1 / ratio.high, 1 / ratio.low)
    low, high = (numbers.number(end, 2) for end in ends)
    tone = "" if sure else GOOD if ratio.value < 1 else BAD
    return Span(f"{numbers.changed(ratio.value)} ({low} to {high})", tone)
