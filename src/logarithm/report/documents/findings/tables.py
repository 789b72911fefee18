"""The tables of the report, as cells of text: growth, costs, ratios."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Sequence
from itertools import pairwise
from typing import TypeVar

from ....errors import named
from ....notation import numbers, words
from ....notation.metrics import TIMED
from ....notation.orders import pretty
from ....notation.places import Place, Placed
from ....notation.sizes import Number
from ....notation.words import place, place_said
from ....results.base import Interval
from ....results.findings import Findings, GrowthFinding, WorkFinding
from ... import units
from ...document import DIM, VERDICTS, Line, Span, Table
from .sentences import axis_of

CALLS_MOST = 6
RISE = 1.5  # so many times as dear is a rise worth a word


Found = TypeVar("Found", bound=Placed)


def places(found: Iterable[Found]) -> dict[Place, list[Found]]:
    """What was found, by family, stage and metric."""
    grouped: dict[Place, list[Found]] = {}
    for each in found:
        grouped.setdefault(each.place, []).append(each)
    return grouped


def growth(findings: Findings) -> Table:
    """How each cost grows, with the verdict on its claim."""
    claims = {each.key: each for each in findings.claims}
    where = {each.place for each in findings.growth}
    several = len(where) > 1 or any(metric != "time" for *_, metric in where)
    claimed = bool(findings.claims)
    headings = ["contender", *(["family"] if several else []), "order", "cost"]
    unsure = any(len(each.plausible) > 1 for each in findings.growth)
    worked = any(each.work is not None for each in findings.growth)
    # Where work speaks too, it says more than the slope of time.
    more = (("tail exponent", not worked), ("work", worked), ("claim", claimed), ("not ruled out", unsure))
    named = (*headings, *(heading for heading, is_there in more if is_there))
    table = Table(named, spare=("tail exponent", "work", "cost"), whole=("order", "tail exponent"))
    for each in findings.growth:
        claim = claims.get(each.key)
        verdict: Line = Span("no claim", DIM)
        if claim is not None:
            since = "" if claim.since is None else f" from {numbers.size(claim.since)} on"
            verdict = Span(f"{units.formula(claim.claim)} {claim.verdict}{since}", VERDICTS[claim.verdict])
        # Caches bend slopes: the order's own may lie in the wider interval.
        exponent = f"{each.law.low:.2f} to {each.law.high:.2f}" if each.law else "open"
        others = [pretty(other.order) for other in each.plausible[1:]]
        table.rows.append(
            (
                words.name(each.contender),
                *([place(each.place)] if several else []),
                pretty(each.order) if each.order else "open",
                cost_of(each),
                *([work_of(each)] if worked else [exponent]),
                *([verdict] if claimed else []),
                *([", ".join(others) or Span("no other" if each.order else "open", DIM)] if unsure else []),
            )
        )
    return table


def work_of(each: GrowthFinding) -> Line:
    """The order of what a call does, counted; the kind of work; what a unit of it costs at the largest size."""
    if each.work is None:
        return Span("not counted", DIM)
    if each.work.says == "hidden":
        return f"{pretty(each.work.order)}, the rest hidden"
    if each.work.says == "elsewhere":
        return f"{pretty(each.work.order)}, which time does not follow"
    seconds = each.work.price[-1][1]
    price = units.unit_for([seconds]).show(seconds, 2).replace(" ", "\u00a0")
    # Where work leaves the order open, time has chosen among its orders.
    open_to = [other.order for other in each.work.plausible]
    order = each.order if each.order in open_to else each.work.order
    many = units.formula(each.work.exact) if each.work.exact and each.work.kind else pretty(order or each.work.order)
    return f"{many} {each.work.kind or 'units'}, {price} each"


def growth_details(findings: Findings) -> Iterator[str]:
    """What there is to say of the stretches of each curve, and of how to know more; what several share is said once."""
    told: dict[str, dict[str, list[str]]] = {}
    for each, text in _details(findings):
        where = place_said(each.place)
        told.setdefault(text, {}).setdefault(words.said(each.contender), []).append(where)
    for text, who in told.items():
        yield f"{', '.join(f'{name} on {named(places, 8)}' for name, places in who.items())}: {text}"


def _details(findings: Findings) -> Iterator[tuple[GrowthFinding, str]]:
    for each in findings.growth:
        for one, other in pairwise(each.segments):
            border = numbers.size(float(f"{one.end:.2g}"))
            if one.why == "kink" and one.order == other.order:
                yield each, f"from about n = {border} on it rises more steeply"
            elif one.why == "kink":
                yield each, f"{pretty(one.order)} up to about n = {border}, {pretty(other.order)} from there on"
            elif one.why == "step" and each.step:
                more = f"{numbers.number(1 + each.step[1], 2)} times as much"
                why = (
                    "is a cache full, or does the method change?" if each.metric in TIMED else "does the method change?"
                )
                yield each, f"around n = {border} it costs {more}; {why}"
            elif one.why == "fixed cost":
                yield each, f"up to about n = {border} most of it is the fixed cost"
        if each.work is not None and each.work.says == "hidden" and _is_dearer(each.work):
            yield each, _hidden(each.work)
        elif each.work is not None and _rises(each.work):
            what = f"one of its {each.work.kind}" if each.work.kind else "a unit of its work"
            yield each, f"the cost of {what} rises from {_rise(each.work)}, as where data outgrow a cache"
        if each.advice and each.order:
            yield each, pretty(each.advice)


def _rises(work: WorkFinding) -> bool:
    """Whether the price of work rises so much towards the largest size that it is worth a word."""
    return work.slope.low > 0.1 and _is_dearer(work)


def _is_dearer(work: WorkFinding) -> bool:
    """Whether a unit of work costs so much more at the largest size than where it is cheapest."""
    return bool(work.least) and work.price[-1][1] > RISE * work.least[1]


def _hidden(work: WorkFinding) -> str:
    """That time grows faster than what can be counted, and how much."""
    counted = f"what can be counted grows as {pretty(work.order)}"
    return f"{counted}, and a unit of it rises from {_rise(work)}: work hides in one operation"


def _rise(work: WorkFinding) -> str:
    """What a unit of work costs where it is cheapest, and at the largest size, each in its own unit."""
    (small, before), (large, after) = work.least, work.price[-1]
    costs = [units.unit_for([cost]).show(cost, 2) for cost in (before, after)]
    return f"{costs[0]} at n = {numbers.size(small)} to {costs[1]} at n = {numbers.size(large)}"


def cost_of(each: GrowthFinding) -> str:
    """The fitted cost with units, or why there is none."""
    if each.exact is not None:
        return f"exactly {units.formula(each.exact)}"
    if each.straight is not None:
        fixed, added = (_between(value, each.metric) for value in (each.straight.fixed, each.straight.each))
        return f"{fixed} fixed and {added} an item, if it is a line; {each.advice}"
    if each.order is None:
        return each.advice
    return formula(each.order, each.fixed or 0.0, each.linear or 0.0, each.scale or 0.0, each.metric)


def _between(value: Interval, metric: str) -> str:
    """A cost with its interval: "12 ns (11 to 13)"."""
    unit = units.unit_for([value.value or value.high], metric)
    low, high = (unit.show(each, 2).removesuffix(unit.name).strip() for each in (value.low, value.high))
    return f"{unit.show(value.value, 2)} ({low} to {high})"


def formula(order: str, fixed: float, linear: float, scale: float, metric: str) -> str:
    """The fitted cost with units: "2.1 µs + 0.40 µs · n log₂ n"."""
    parts = []
    for value, factor in ((fixed, ""), (linear, "n")):
        if value > 0:
            parts.append(_amount(value, metric) + (f" · {factor}" if factor else ""))
    if scale > 0:
        named = "" if order == "1" else " · " + pretty(order).replace("log n", "log₂ n")
        is_tiny = scale < 1e-12 and metric == "time"
        parts.append((_tiny(scale) if is_tiny else _amount(scale, metric)) + named)
    less = f" − {_amount(-fixed, metric)}" if fixed < 0 else ""  # it grows from a size on
    return " + ".join(parts) + less


def _tiny(seconds: float) -> str:
    """A scale far below a nanosecond, as a power of ten: exponentials have such."""
    exponent = math.floor(math.log10(seconds))
    raised = str(exponent).translate(str.maketrans("-0123456789", "⁻⁰¹²³⁴⁵⁶⁷⁸⁹"))
    return f"{seconds / 10.0**exponent:.1f} · 10{raised} s"


def _amount(value: float, metric: str) -> str:
    return units.unit_for([value], metric).show(value, 2).replace(" ", "\u00a0")


def costs(findings: Findings, sizes_shown: int) -> list[Table]:
    """The typical costs at some sizes, a table for each place, with a unit for each size."""
    made = []
    for where, group in places(findings.costs).items():
        sizes = _chosen([[point.size for point in each.points] for each in group], sizes_shown)
        points = {(each.contender, point.size): point.typical for each in group for point in each.points}
        fit = {
            size: units.unit_between(
                [points[each.contender, size] for each in group if (each.contender, size) in points], where[2]
            )
            for size in sizes
        }
        table = _by_size(place(where), findings, sizes, tuple(fit[size].name for size in sizes))
        for each in group:
            found = [points.get((each.contender, size)) for size in sizes]
            shown = [units.amount(cost, fit[size]) for cost, size in zip(found, sizes, strict=True)]
            table.rows.append((words.name(each.contender), *shown))
        made.append(table)
    return made


def ratios(findings: Findings, sizes_shown: int) -> list[Table]:
    """How many times as fast as the baseline, a table for each place."""
    made = []
    for where, group in places(findings.costs).items():
        known = {
            (each.contender, point.size): point.ratio.value for each in group for point in each.points if point.ratio
        }
        sizes = _chosen([[point.size for point in each.points if point.ratio] for each in group], sizes_shown)
        table = _by_size(place(where), findings, sizes)
        for each in group:
            cells = [known.get((each.contender, size)) for size in sizes]
            if any(cell is not None for cell in cells):
                shown = [units.NOTHING if cell is None else numbers.times(cell) for cell in cells]
                table.rows.append((words.name(each.contender), *shown))
        if table.rows:
            made.append(table)
    return made


def ratio_details(findings: Findings) -> list[Table]:
    """The same with intervals, and as shares of the baseline's cost, at every size."""
    made = []
    axis = axis_of(findings)
    for where, group in places(findings.costs).items():
        table = Table(("contender", axis, "times as fast", "95 %", "share of its cost"), title=place(where), numbers=1)
        for each in group:
            for point in each.points:
                if point.ratio is None:
                    continue
                low, high = numbers.times(point.ratio.low), numbers.times(point.ratio.high)
                share = f"{numbers.number(100 / point.ratio.value, 2)} %"
                cells = (numbers.size(point.size), numbers.times(point.ratio.value), f"{low} to {high}", share)
                table.rows.append((words.name(each.contender), *cells))
        if table.rows:
            made.append(table)
    return made


def per_item(findings: Findings) -> list[Table]:
    """Cost per item at each one's own sizes, where contenders of a place have no size in common."""
    made = []
    for where, group in places(findings.costs).items():
        sizes = [{point.size for point in each.points if point.size > 0} for each in group]
        if len(group) < 2 or set.intersection(*sizes) or findings.study.axis != "size":
            continue
        unit = units.unit_for(
            [point.typical / point.size for each in group for point in each.points if point.size > 0], where[2]
        )
        table = Table(
            ("contender", "n", f"cost per item, {unit.name}".rstrip(", ")), title=f"{place(where)}, per item", numbers=1
        )
        for each in group:
            for point in [each.points[at] for at in units.evenly(len(each.points), 3)]:
                table.rows.append(
                    (
                        words.name(each.contender),
                        numbers.size(point.size),
                        numbers.number(point.typical / point.size / unit.size),
                    )
                )
        made.append(table)
    return made


def native(findings: Findings) -> Table:
    """How often compiled functions are called at the largest size that was looked into; each call is a single step."""
    table = Table(("contender", "family", axis_of(findings), "calls"))
    for each in findings.compiled_calls:
        often = sorted(each.calls.items(), key=lambda call: -call[1])[:CALLS_MOST]
        calls = ", ".join(f"{name} {numbers.whole(times)}" for name, times in often) or "none"
        where = place((each.family, each.stage, "time"))
        table.rows.append((words.name(each.contender), where, numbers.size(each.size), calls))
    return table


def _by_size(title: str, findings: Findings, sizes: Sequence[Number], names: tuple[str, ...] = ()) -> Table:
    """A table with a row for each contender and a column for each size; `names` of units stand behind the sizes."""
    heads = [f"{numbers.size(size)}" for size in sizes]
    table = Table((f"{axis_of(findings)} =", *heads), title=title, numbers=1)
    if any(names):
        table.rows.append(tuple(Span(name, DIM) for name in ("", *names)))
    return table


def _chosen(series: Sequence[Sequence[Number]], most: int) -> list[Number]:
    """At most so many sizes, evenly spread, both ends among them.

    A size that some skipped between others of theirs, as those that were added near a crossover, is left out.
    """
    every = sorted({size for sizes in series for size in sizes})
    own = [(set(sizes), min(sizes), max(sizes)) for sizes in series if sizes]
    shared = [size for size in every if all(size in there or not low < size < high for there, low, high in own)]
    sizes = shared if len(shared) > 1 else every
    return [sizes[at] for at in units.evenly(len(sizes), most)]
