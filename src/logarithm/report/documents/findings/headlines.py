"""The answer of a figure, as its title, and a caption that can be copied."""

from __future__ import annotations

import math
from collections import Counter
from itertools import pairwise

from ....notation import numbers, words
from ....notation.orders import pretty
from ....notation.places import Place
from ....notation.words import place_said
from ....results.findings import Costs, Findings
from ....results.pairs import LEADS, MEASURED, CrossoverFinding, Standing
from ....results.revisions import RevisionChange
from ... import units
from .sentences import axis_of, spot
from .special.changes import change_said
from .special.maps import where_said
from .tables import places

CROSSINGS_MOST = 4  # crossovers of a place that are all marked


def headline(findings: Findings, view: str = "growth") -> str:
    """What a figure shows, in a short sentence."""
    if view == "ratio":
        return _fastest(findings) or "How many times as fast"
    if view == "map":
        return _border(findings) or "Who leads where"
    if view == "change":
        largest = max(findings.changes, key=_far, default=None)
        return "What changed" if largest is None else change_said(largest, axis_of(findings))
    if view == "work":
        return _least(findings) or "Work of one call, counted"
    if view == "spread" and findings.samples:
        sizes = {each.size for each in findings.samples}
        at = f" at {axis_of(findings)} = {numbers.size(findings.samples[0].size)}" if len(sizes) == 1 else ""
        return f"Single trials{at}"
    return _overtaking(findings) or _leading(findings) or _growing(findings) or "What each call costs"


def _far(change: RevisionChange) -> float:
    """How far a change goes, in the logarithm; -1 where it is not known."""
    return max((abs(math.log(each.factor)) for each in change.sizes if each.is_clear), default=-1.0)


def caption(findings: Findings, view: str = "growth") -> str:
    """A caption: what is shown, of what, measured how and where."""
    run, machine = findings.run, findings.machine
    parts = [f"{headline(findings, view)}."]
    asked = findings.study.question or findings.study.name
    parts.append(f"{asked} ({words.listed(findings.study.contenders)})")
    if run.rounds:
        processes = "one process" if run.processes == 1 else f"up to {run.processes} processes"
        parts.append(f"Medians of {run.rounds} shuffled heats in {processes} of each contender")
    facts = [str(machine[key]) for key in ("processor", "system", "python") if machine.get(key)]
    if facts:
        parts.append(", ".join(facts))
    return " ".join(part if part.endswith((".", "?", "!")) else f"{part}." for part in parts)


def _where(where: Place, findings: Findings) -> str:
    """On which family, where there are several."""
    several = len({each.place for each in findings.costs}) > 1
    return f" on {place_said(where)}" if several else ""


def _overtaking(findings: Findings) -> str:
    """The first crossover between two that lead."""
    for leading in findings.standings:
        where = leading.place
        leaders = {each.cheapest for each in findings.standings if each.place == where}
        for each in worth_marking(findings, where):
            if {each.before, each.after} <= leaders:
                who = f"{words.said(each.after)} overtakes {words.said(each.before)}"
                return f"{who} {spot(each, axis_of(findings))}{_where(where, findings)}"
    return ""


def worth_marking(findings: Findings, where: Place, of: str | None = None) -> list[CrossoverFinding]:
    """The crossovers of a place within the sizes measured, by rising size; of one contender where it is named.

    Too many rings hide the curves: then those at which the lead changes are what people look for.
    """
    found = [
        each
        for each in sorted(findings.crossovers, key=lambda each: each.size)
        if each.place == where and each.basis == MEASURED and of in (None, each.before, each.after)
    ]
    if len(found) <= CROSSINGS_MOST:
        return found
    ranges = [each for each in findings.standings if each.place == where]
    borders = {(one.cheapest, other.cheapest) for one, other in pairwise(ranges)}
    return [each for each in found if (each.before, each.after) in borders]


def _border(findings: Findings) -> str:
    """The first boundary between two leaders."""
    maps = {each.place: each for each in findings.maps}
    for each in findings.boundaries:
        if each.matters:
            where = f"at {pretty(each.law)}" if each.law else f"as {each.along} grows"
            several = f" on {place_said(each.place)}" if len(maps) > 1 else ""
            part = where_said(each, maps[each.place])
            return f"{words.said(each.after)} overtakes {words.said(each.before)} {where}{part}{several}"
    alone = {(lead.leader, lead.verdict) for lead in findings.leads}
    is_one = len(alone) == 1 and findings.leads[0].verdict == LEADS
    return f"{words.said(findings.leads[0].leader)} leads on the whole map" if is_one else ""


def _leading(findings: Findings) -> str:
    """Who leads everywhere."""
    leaders = {each.cheapest for each in findings.standings}
    alone = all(each.is_alone for each in findings.standings)
    if len(findings.study.contenders) < 2 or len(leaders) != 1 or not alone:
        return ""
    told = places(findings.standings)
    whole = all(where in told and _covers(told[where], group) for where, group in places(findings.costs).items())
    sizes = {point.size for each in findings.costs for point in each.points}
    everywhere = "at every size" if len(sizes) > 1 else f"at {axis_of(findings)} = {numbers.size(sizes.pop())}"
    return f"{words.said(leaders.pop())} leads {everywhere if whole else 'wherever it is known who does'}"


def _covers(standings: list[Standing], group: list[Costs]) -> bool:
    """Whether one standing holds at all sizes at which two were measured."""
    many = Counter(point.size for each in group for point in each.points)
    shared = [size for size, count in many.items() if count > 1]
    return len(standings) == 1 and (not shared or standings[0].start <= min(shared) <= max(shared) <= standings[0].end)


def _growing(findings: Findings) -> str:
    """How a contender grows, where that is true of all that is drawn."""
    named = [each for each in findings.growth if each.order]
    if not named or len({(each.contender, each.order) for each in findings.growth}) > 1:
        return ""
    first = named[0]
    if len(findings.growth) > 1:
        return f"{words.said(first.contender)} grows as {units.formula(first.order or '')} everywhere"
    return f"{words.said(first.contender)} grows as {units.formula(first.order or '')}{_where(first.place, findings)}"


def _fastest(findings: Findings) -> str:
    """The largest ratio to the reference."""
    found = [(point.ratio.value, point.size, each) for each in findings.costs for point in each.points if point.ratio]
    if not found:
        return ""
    ratio, size, most = max(found, key=lambda each: each[0])
    reference = words.said(findings.study.reference)
    if ratio <= 1:
        return f"nobody is faster than {reference}"
    where = _where(most.place, findings)
    return (
        f"{words.said(most.contender)} is up to {numbers.times(ratio)} as fast as {reference}, at "
        f"{axis_of(findings)} = {numbers.size(size)}{where}"
    )


def _least(findings: Findings) -> str:
    """Who does least, at the largest size that all of a place have."""
    for where, group in places(findings.costs).items():
        shared = set.intersection(*({point.size for point in each.points} for each in group))
        if len(group) < 2 or not shared:
            continue
        size = max(shared)
        counts = {each.contender: point.typical for each in group for point in each.points if point.size == size}
        least = min(counts, key=lambda name: counts[name])
        return f"{words.said(least)} does least at {axis_of(findings)} = {numbers.size(size)}{_where(where, findings)}"
    return ""
