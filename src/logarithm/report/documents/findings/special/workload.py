"""A workload in words and a table: what all calls cost, who is best, and where a hybrid would switch."""

from __future__ import annotations

from collections.abc import Iterator

from .....errors import counted
from .....notation import numbers, words
from .....results.findings import Findings
from .....results.tasks.forecast import NO_FORECAST
from .....results.workload import Weighing, WorkloadTotal
from .... import units
from ....document import DIM, STRONG, Line, Section, Span, Table

SHARE_LEAST = 0.005


def section(findings: Findings) -> Section:
    """The section of a workload; empty where none is weighed."""
    found = findings.weighing
    if found is None or not findings.workload:
        return Section("workload", "")
    title = f"Workload: {counted(findings.workload[0].calls, 'call')} of {found.source}"
    return Section("workload", title, list(_said(findings.workload, found)), [_totals(findings.workload, found)], True)


def _totals(totals: list[WorkloadTotal], found: Weighing) -> Table:
    unit = units.unit_for([each.total for each in totals if each.total], "time")
    table = Table(("contender", f"in all, {unit.name}", "95 %", "largest tenth of calls", "forecast"))
    for each in totals:
        if each.total is None or each.low is None or each.high is None:
            why = NO_FORECAST.get(each.why, "not measured on that family")
            none = f"at {numbers.size(each.at or 0)}: {why}"
            table.rows.append((words.name(each.contender), "none", Span(none, DIM), "", ""))
            continue
        low, high = (units.amount(end, unit) for end in (each.low, each.high))
        beyond = f"{100 * each.forecast_share:.0f} %" if each.forecast_share > SHARE_LEAST else Span("none", DIM)
        name: Line = Span(words.name(each.contender), STRONG if each.contender == found.best[0] else "")
        table.rows.append(
            (name, units.amount(each.total, unit), f"{low} to {high}", f"{100 * each.top_share:.0f} %", beyond)
        )
    return table


def _said(totals: list[WorkloadTotal], found: Weighing) -> Iterator[Line]:
    if not found.best:
        return
    best, *near = found.best
    if near:
        yield f"not known which of {words.listed(found.best, 4)} costs least in all"
    else:
        second = next((each for each in totals if each.contender != best and each.total), None)
        own = next(each for each in totals if each.contender == best)
        ratio = (
            "" if second is None else f", {numbers.times((second.total or 0) / (own.total or 1))} as fast as the next"
        )
        yield (Span(words.said(best), STRONG), f" costs least in all{ratio}")
    if len({each.best for each in found.classes}) > 1:
        parts = [
            f"{words.said(each.best)} from {numbers.size(each.start)} to {numbers.size(each.end)}"
            for each in found.classes
        ]
        yield f"by size, a quarter of the calls each: {', '.join(parts)}"
    if found.hybrid is not None:
        each = found.hybrid
        unit = units.unit_for([each.total], "time")
        pair = f"{words.said(each.before)} below {numbers.size(each.at)} and {words.said(each.after)} from there on"
        yield f"{pair} would cost {unit.show(each.total, 2)} in all"
