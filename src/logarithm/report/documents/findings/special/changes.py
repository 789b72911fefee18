"""What changed between revisions measured side by side, in sentences and in a table."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from .....notation import numbers, words
from .....notation.orders import pretty
from .....notation.words import place, place_said
from .....results.findings import Findings
from .....results.revisions import NOW, SAME, UNKNOWN, FactorAt, Moved, RevisionChange
from .... import units
from ....document import DIM, VERDICTS, Line, Section, Span, Table
from ..sentences import axis_of

SIZES_SHOWN = 6


def section(findings: Findings, everything: bool) -> Section:
    """What changed, contender by contender; crossovers that moved; at each size for those who ask."""
    axis = axis_of(findings)
    lines: list[Line] = [Span(change_said(each, axis), VERDICTS.get(each.verdict, "")) for each in findings.changes]
    lines += [moved_said(each, axis) for each in findings.moved]
    tables = [_at_sizes(findings.changes, axis)] if everything else []
    return Section("changes", "Changes, now beside then" if lines else "", lines, tables)


def change_said(change: RevisionChange, axis: str) -> str:
    """A change in a sentence: "sweep on scattered since v1: 2.4 × slower at n = 8, 7.6 × as fast at 4096"."""
    until = "" if change.after == NOW else f" until {change.after}"
    who = f"{words.said(change.contender)} on {place_said(change.place)} since {change.before}{until}"
    if change.verdict == SAME:
        return f"{who}: as fast as it was, within 5 %{_orders(change)}"
    if not change.sizes:
        return f"{who}: not known, there are too few trials"
    if change.verdict == UNKNOWN:
        low, high = min(each.low for each in change.sizes), max(each.high for each in change.sizes)
        return f"{who}: not known, it takes {numbers.number(low, 2)} to {numbers.number(high, 2)} times as long"
    return f"{who}: {', '.join(factors_said(change, axis))}{_orders(change)}"


def factors_said(change: RevisionChange, axis: str) -> Iterator[str]:
    """The change at the smallest size, where it turns, and at the largest; once where it is much the same."""
    first, last = change.sizes[0], change.sizes[-1]
    ratio = first.factor / last.factor
    if not change.turns and 1 / numbers.SMALL_CHANGE < ratio < numbers.SMALL_CHANGE:
        middle = change.sizes[len(change.sizes) // 2]
        yield f"{numbers.changed(middle.factor)} at every size"
        return
    yield f"{_factor(first)} at {axis} = {numbers.size(first.size)}"
    for turn in change.turns:
        low, high = numbers.crossing(turn.low), numbers.crossing(turn.high)
        yield f"as fast at {numbers.crossing(turn.value)} ({low} to {high})"
    yield f"{_factor(last)} at {numbers.size(last.size)}"


def _factor(at: FactorAt) -> str:
    return numbers.changed(at.factor) if at.is_clear else f"about as fast ({numbers.changed(at.factor)})"


def _orders(change: RevisionChange) -> str:
    before, now = change.order_before, change.order_now
    return f"; {pretty(before)} then, {pretty(now)} now" if before and now and before != now else ""


def moved_said(each: Moved, axis: str) -> str:
    """A crossover then and now, in a sentence."""
    who = f"{words.said(each.after)} over {words.said(each.before)} on {place_said(each.place)}"
    how = "moved" if each.is_real else "has not moved, as far as can be told:"
    spans = [
        "{} ({} to {})".format(*map(numbers.crossing, (end.value, end.low, end.high))) for end in (each.then, each.now)
    ]
    return f"the crossover of {who} {how} from {axis} = {spans[0]} to {spans[1]}"


def _at_sizes(changes: Sequence[RevisionChange], axis: str) -> Table:
    """Cost now over cost then, at some sizes of each."""
    table = Table(("contender", "family", "since", axis, "cost now over then", "95 %", "change"))
    for change in changes:
        for number, at in enumerate(units.evenly(len(change.sizes), SIZES_SHOWN)):
            row = change.sizes[at]
            names = (words.name(change.contender), place(change.place), change.before) if number == 0 else ("", "", "")
            ends = f"{numbers.number(row.low)} to {numbers.number(row.high)}"
            told: Line = numbers.changed(row.factor) if row.is_clear else Span("within noise", DIM)
            table.rows.append((*names, numbers.size(row.size), numbers.number(row.factor), ends, told))
    return table
