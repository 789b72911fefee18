"""Places, axes and comparisons in words: who overtakes whom, whom to choose."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise
from typing import Any

from ....notation import numbers, words
from ....notation.words import place_said
from ....results.findings import Findings
from ....results.pairs import FORECAST, CrossoverFinding

APART = 100.0  # a ratio of which no more is known than that it lies between ends so far apart is not told


def axis_of(findings: Findings) -> str:
    """What the horizontal axis is called: n for sizes."""
    return findings.study.names[0] if findings.study.names else words.axis(findings.study.axis)


def spot_of(findings: Findings, size: float, second: float | None) -> str:
    """A place on the axis, or on the map where there are two sizes."""
    where = f"{axis_of(findings)} = {numbers.size(size)}"
    return where if second is None else f"{where}, {findings.study.names[1]} = {numbers.size(second)}"


def spot(crossover: CrossoverFinding, axis: str) -> str:
    """Where a crossover lies: at a size, or between two where nothing more is known."""
    low, at, high = map(numbers.crossing, (crossover.low, crossover.size, crossover.high))
    return f"between {axis} = {low} and {high}" if crossover.bracket else f"at {axis} = {at}"


def taking(one: str, other: str, low: float, high: float | None) -> str:
    """How many times as long one contender takes as another, as far as that is known."""
    if high is not None and high > APART * low:
        return "too few trials, or they differ too much"
    most = " times or more" if high is None else f" to {numbers.number(high, 2)} times"
    return f"{words.said(one)} takes {numbers.number(low, 2)}{most} as long as {words.said(other)}"


def overtaking(crossover: CrossoverFinding, axis: str) -> str:
    """A crossover in a sentence: "sweep overtakes every pair at n = 43 (41 to 45) on scattered; …"."""
    at, low = numbers.crossing(crossover.size), numbers.crossing(crossover.low)
    interval = f"{low} to {numbers.crossing(crossover.high)}"
    before, after = words.said(crossover.before), words.said(crossover.after)
    where = place_said(crossover.place)
    if crossover.basis == FORECAST:
        return (
            f"{after} is forecast to overtake {before} at about {axis} = {at} ({interval}), "
            f"beyond the sizes measured, on {where}"
        )
    ends = []
    if crossover.metric not in ("time", "cpu"):
        many = "as much" if crossover.metric == "memory" else "as many"
        if crossover.lead > 1:
            ends.append(f"at {numbers.size(crossover.start)} {after} needs {numbers.times(crossover.lead)} {many}")
        if crossover.ratio > 1:
            ends.append(f"at {numbers.size(crossover.at)} {before} needs {numbers.times(crossover.ratio)} {many}")
    elif crossover.lead > 1 and crossover.ratio > 1:
        ends.append(f"{numbers.changed(crossover.lead)} at {numbers.size(crossover.start)}")
        ends.append(f"{numbers.changed(1 / crossover.ratio)} at {numbers.size(crossover.at)}")
    unsure = "" if crossover.low == crossover.high or crossover.bracket else f" ({interval})"
    told = f"{after} overtakes {before} {spot(crossover, axis)}{unsure} on {where}"
    return told + (f"; {', '.join(ends)}" if ends else "")


def best_values(findings: Findings) -> Iterator[str]:
    """Which value of a level or an axis costs least, which cost about as much, and where it costs most."""
    for each in findings.best_values:
        who = f"{words.said(each.contender)} on {place_said(each.place)}"
        name = words.said(each.name)
        where = "" if each.size is None else f" at n = {numbers.size(each.size)}"
        share = f"{numbers.number(100 * each.within, 2)} %"
        if each.is_flat:
            yield f"{who}: the same{where} for {name} = {_span(each.alike)}, within {share}"
            continue
        near = f"; {_span(each.alike)} are within {share}" if len(each.alike) > 1 else ""
        most = f"{numbers.times(each.times)} as much at {_value(each.dearest)}"
        yield f"{who}: {name} = {_value(each.best)} costs least{where}{near}; {most}"


def _span(values: list[Any]) -> str:
    """Values that lie beside each other as a range, others one by one."""
    if len(values) > 2 and all(isinstance(value, int | float) for value in values):
        return f"{_value(values[0])} to {_value(values[-1])}"
    return words.listed([_value(value) for value in values], 4)


def _value(value: Any) -> str:
    return numbers.size(value) if isinstance(value, int | float) else str(value)


def choices(findings: Findings) -> Iterator[str]:
    """Whom to take not knowing the family, and where a hybrid should switch, in sentences."""
    axis = axis_of(findings)
    groups: dict[tuple[str | None, str], list[Any]] = {}
    for safe in findings.safe_choice:
        groups.setdefault((safe.stage, safe.metric), []).append(safe)
    for (stage, metric), group in groups.items():
        kind = ", ".join([*([stage] if stage else []), *([metric] if metric != "time" else [])])
        parts = []
        for number, safe in enumerate(group):
            worst = f"(at worst {numbers.times(safe.worst)} the leader's cost)" if safe.worst > 1.05 else ""
            name = words.said(safe.contender)
            if len(group) == 1:
                parts.append(f"{name} at every size {worst}")
            elif number == 0:
                parts.append(f"{name} up to {axis} = {numbers.size(safe.end)} {worst}")
            elif number == len(group) - 1:
                parts.append(f"{name} from {numbers.size(safe.start)} to {numbers.size(safe.end)} {worst}")
            else:
                parts.append(f"{name} up to {numbers.size(safe.end)} {worst}")
        told = ", ".join(part.strip() for part in parts)
        yield f"if the kind of input is unknown{f' ({kind})' if kind else ''}: {told}"
        yield from _only_where(stage, metric, {safe.contender for safe in group}, findings)
    successions = {
        (one.stage, one.metric, one.cheapest, other.cheapest)
        for one, other in pairwise(findings.standings)
        if one.place == other.place
    }
    for cut in findings.cutoffs:
        if (cut.stage, cut.metric, cut.before, cut.after) in successions:
            pair = f"{words.said(cut.before)} and {words.said(cut.after)}"
            worst = f"; at worst {numbers.times(cut.worst)} the better of the two" if cut.worst > 1.05 else ""
            where = words.listed(cut.families)
            yield f"a hybrid of {pair} should switch at {axis} = {numbers.crossing(cut.size)} ({where}{worst})"


def _only_where(stage: str | None, metric: str, safe: set[str], findings: Findings) -> Iterator[str]:
    """Contenders that lead somewhere without being a safe choice anywhere."""
    lead: dict[str, list[str]] = {}
    for each in findings.standings:
        if (each.stage, each.metric) == (stage, metric) and each.cheapest not in safe:
            families = lead.setdefault(each.cheapest, [])
            if each.family not in families:
                families.append(each.family)
    for name, families in lead.items():
        yield f"take {words.said(name)} only for {words.listed(families)}"
