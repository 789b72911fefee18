"""Contenders compared with each other, as findings: pairs, crossovers, standings, choices, break-even."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence

from ...results.findings import (
    Breakeven,
    CrossoverFinding,
    Cutoff,
    Findings,
    Interval,
    PairFinding,
    SafeChoice,
    Standing,
    Zone,
    plain,
)
from ..growth.fit import Growth, ratio_of
from ..growth.forecast import crossing_beyond, may_cross
from ..series import TIMED, Series
from .breakeven import breakeven
from .choice import safe_choices, switches
from .pair import Duel, duel
from .screening import CROWD, leaders_of, pairs_of
from .standings import standings

Place = tuple[str, str | None, str]
Duels = dict[Place, dict[tuple[str, str], Duel]]


def places(series: list[Series]) -> dict[Place, list[Series]]:
    """The series that can be compared with each other: those of one family, stage and metric."""
    found: dict[Place, list[Series]] = defaultdict(list)
    for each in series:
        found[each.family, each.stage, each.metric].append(each)
    return found


def duels_of(
    series: list[Series], growths: Mapping[Series, Growth], reference: str = "", named: Sequence[str] = ()
) -> Duels:
    """Every two contenders of a place that share a size, compared; of a crowd those that can matter.

    Args:
        series: of all places.
        growths: how each grows, where that is known.
        reference: the contender that others are compared with.
        named: contenders that were asked for by name.
    """
    made: Duels = {}
    for place, group in places(series).items():
        made[place] = {}
        # A count may be zero; where a cost is, something went wrong.
        whole = [each for each in group if each.metric not in TIMED or not (each.costs <= 0).any()]
        for one, other in pairs_of(whole, reference, named):
            law = None
            # Above a kink only, a fitted curve says nothing of what is below.
            if all(each in growths and growths[each].since <= growths[each].sizes[0] for each in (one, other)):
                law = ratio_of(growths[one], growths[other])
            compared = duel(one, other, law)
            if compared is not None:
                made[place][one.contender, other.contender] = compared
    return made


def compare(series: list[Series], growths: Mapping[Series, Growth], duels: Duels, findings: Findings) -> None:
    """Add to the findings what comes of comparing contenders."""
    grouped = places(series)
    yardsticks = findings.study.yardsticks
    for place, group in grouped.items():
        by_name = {each.contender: each for each in group}
        for (one, other), compared in duels[place].items():
            _pair(place, compared, (growths.get(by_name[one]), growths.get(by_name[other])), findings)
        ranked = [each for each in group if each.contender not in yardsticks]
        # Of a crowd, whoever cannot lead was not compared with those that may.
        _standings(place, leaders_of(ranked) if len(group) > CROWD else ranked, duels[place], findings)
    for stage, metric in dict.fromkeys((stage, metric) for _, stage, metric in grouped):
        families = {
            place[0]: [each for each in group if each.contender not in yardsticks]
            for place, group in grouped.items()
            if place[1:] == (stage, metric)
        }
        if len(families) > 1 and len({each.contender for group in families.values() for each in group}) > 1:
            for safe in safe_choices(list(families.values())):
                bounds = plain(safe.start), plain(safe.end)
                findings.safe.append(SafeChoice(metric, stage, *bounds, safe.contender, safe.worst))
        crossings = {
            family: [each for found in duels[family, stage, metric].values() for each in found.crossings]
            for family in families
        }
        for switch in switches(crossings, families):
            findings.cutoffs.append(
                Cutoff(metric, stage, switch.before, switch.after, switch.size, switch.worst, list(switch.families))
            )
    _breakevens(grouped, findings)


def _pair(place: Place, compared: Duel, growths: tuple[Growth | None, Growth | None], findings: Findings) -> None:
    """One pair: its crossovers measured and forecast, and who leads where."""
    family, stage, metric = place
    one, other = compared.one, compared.other
    first, last = (
        Interval(float(compared.ratio[at]), float(compared.low[at]), float(compared.high[at])) for at in (0, -1)
    )
    ends = plain(compared.sizes[0]), plain(compared.sizes[-1])
    zones = [
        Zone(plain(zone.start), plain(zone.end), {-1: one, 0: None, 1: other}[zone.sign]) for zone in compared.zones
    ]

    def add(before: str, size: float, low: float, high: float | None, basis: str) -> None:
        after_is_one = before != one
        ratio = 1 / last.value if after_is_one else last.value
        lead = first.value if after_is_one else 1 / first.value
        after = one if after_is_one else other
        names = family, metric, stage, before, after
        findings.crossovers.append(CrossoverFinding(*names, size, low, high, basis, ends[1], ratio, ends[0], lead))

    for crossing in sorted(compared.crossings, key=lambda each: each.size):
        add(crossing.before, crossing.size, crossing.low, crossing.high, "measured")
    ahead = "open"
    leader = zones[-1].leader
    follower = other if leader == one else one
    if follower in {failure.contender for failure in findings.failures if failure.family == family}:
        ahead = "none"  # whoever fails at some size overtakes nobody beyond it
    elif growths[0] is not None and growths[1] is not None and leader is not None:
        beyond = crossing_beyond(growths[0], growths[1], float(ends[1]))
        if beyond is not None:
            ahead = "crossover"
            high = None if math.isinf(beyond.high) else beyond.high
            add(leader, beyond.value, beyond.low, high, "forecast")
        elif not may_cross(growths[0], growths[1], float(ends[1])):
            ahead = "none"
    findings.pairs.append(PairFinding(family, metric, stage, one, other, [*ends], first, last, zones, ahead))


def _standings(place: Place, ranked: list[Series], duels: dict[tuple[str, str], Duel], findings: Findings) -> None:
    family, stage, metric = place
    failed = {failure.contender for failure in findings.failures if failure.family == family}
    for reign in standings(ranked, duels, failed):
        bounds = plain(reign.start), plain(reign.end)
        findings.standings.append(
            Standing(
                family,
                metric,
                stage,
                *bounds,
                reign.leader,
                list(reign.tied),
                None if math.isinf(reign.within) else reign.within,
            )
        )


def _breakevens(grouped: dict[Place, list[Series]], findings: Findings) -> None:
    """Break-even of every two contenders with stages."""
    for (family, stage, metric), builds in grouped.items():
        uses = {each.contender: each for each in grouped.get((family, "use", metric), [])}
        if stage != "build" or metric != "time":
            continue
        both = [each for each in builds if each.contender in uses]
        for one, other in pairs_of(both, findings.study.baseline or ""):
            for found in breakeven((one, other), (uses[one.contender], uses[other.contender])):
                row = found.dearer, found.cheaper, found.uses, found.low, found.high, found.verdict
                findings.breakeven.append(Breakeven(family, plain(found.size), *row))
