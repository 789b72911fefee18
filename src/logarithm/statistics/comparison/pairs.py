"""Contenders compared with each other, as findings: pairs, crossovers, standings, choices, break-even."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from ...notation.metrics import TIMED
from ...notation.places import Place
from ...notation.sizes import plain
from ...results.base import Interval
from ...results.pairs import Breakeven, CrossoverFinding, Cutoff, PairFinding, SafeChoice, Standing, Zone
from ..growth.fit import Growth, ratio_of
from ..growth.forecast import crossing_beyond, may_cross
from ..series import Series
from .breakeven import breakeven
from .choice import cutoffs, safe_choices
from .pair import PairComparison, compare_pair
from .screening import CROWD, leaders_of, pairs_of
from .standings import standings

PairComparisons = dict[Place, dict[tuple[str, str], PairComparison]]


@dataclass(slots=True)
class Compared:
    """What comes of comparing contenders, as the findings have it."""

    pairs: list[PairFinding] = field(default_factory=list)
    crossovers: list[CrossoverFinding] = field(default_factory=list)
    standings: list[Standing] = field(default_factory=list)
    safe: list[SafeChoice] = field(default_factory=list)
    cutoffs: list[Cutoff] = field(default_factory=list)
    breakeven: list[Breakeven] = field(default_factory=list)


def places(series: list[Series]) -> dict[Place, list[Series]]:
    """The series that can be compared with each other: those of one family, stage and metric."""
    found: dict[Place, list[Series]] = defaultdict(list)
    for each in series:
        found[each.place].append(each)
    return found


def compare_pairs(
    series: list[Series], growths: Mapping[Series, Growth], reference: str = "", named: Sequence[str] = ()
) -> PairComparisons:
    """Every two contenders of a place that share a size, compared; of a crowd those that can matter.

    Args:
        series: of all places.
        growths: how each grows, where that is known.
        reference: the contender that others are compared with.
        named: contenders that were asked for by name.
    """
    made: PairComparisons = {}
    for place, group in places(series).items():
        made[place] = {}
        # A count may be zero; where a cost is, something went wrong.
        whole = [each for each in group if each.metric not in TIMED or not (each.costs <= 0).any()]
        for one, other in pairs_of(whole, reference, named):
            law = None
            # Above a kink only, a fitted curve says nothing of what is below.
            if all(each in growths and growths[each].since <= growths[each].sizes[0] for each in (one, other)):
                law = ratio_of(growths[one], growths[other])
            compared = compare_pair(one, other, law)
            if compared is not None:
                made[place][one.contender, other.contender] = compared
    return made


def compare(
    series: list[Series],
    growths: Mapping[Series, Growth],
    comparisons: PairComparisons,
    yardsticks: Collection[str],
    failed: Collection[tuple[str, str]],
    baseline: str = "",
) -> Compared:
    """Everything that follows from comparing contenders with each other.

    Args:
        series, growths: of all places, and how each grows where that is known.
        comparisons: of their pairs.
        yardsticks: contenders that are not ranked.
        failed: (contender, family) that came to grief at some size.
        baseline: whom others are compared with; empty where there is nobody.
    """
    grouped = places(series)
    made = Compared()
    for place, group in grouped.items():
        by_name = {each.contender: each for each in group}
        lost = {name for name, family in failed if family == place[0]}
        for (one, other), compared in comparisons[place].items():
            both = growths.get(by_name[one]), growths.get(by_name[other])
            pair, crossovers = _pair(place, compared, both, lost)
            made.pairs.append(pair)
            made.crossovers += crossovers
        ranked = [each for each in group if each.contender not in yardsticks]
        # Of a crowd, whoever cannot lead was not compared with those that may.
        leading = leaders_of(ranked) if len(group) > CROWD else ranked
        made.standings += standings(place, leading, comparisons[place], lost)
    for stage, metric in dict.fromkeys((stage, metric) for _, stage, metric in grouped):
        families = {
            place[0]: [each for each in group if each.contender not in yardsticks]
            for place, group in grouped.items()
            if place[1:] == (stage, metric)
        }
        if len(families) > 1 and len({each.contender for group in families.values() for each in group}) > 1:
            made.safe += safe_choices(stage, metric, list(families.values()))
        crossings = {
            family: [each for found in comparisons[family, stage, metric].values() for each in found.crossings]
            for family in families
        }
        made.cutoffs += cutoffs(stage, metric, crossings, families)
    made.breakeven += _breakevens(grouped, baseline)
    return made


def _pair(
    place: Place, compared: PairComparison, growths: tuple[Growth | None, Growth | None], failed: Collection[str]
) -> tuple[PairFinding, list[CrossoverFinding]]:
    """One pair: who leads where, and its crossovers measured and forecast."""
    family, stage, metric = place
    one, other = compared.one, compared.other
    first, last = (
        Interval(float(compared.ratio[at]), float(compared.low[at]), float(compared.high[at])) for at in (0, -1)
    )
    ends = plain(compared.sizes[0]), plain(compared.sizes[-1])
    zones = [
        Zone(plain(zone.start), plain(zone.end), {-1: one, 0: None, 1: other}[zone.sign]) for zone in compared.zones
    ]

    def crossover(before: str, size: float, low: float, high: float | None, basis: str) -> CrossoverFinding:
        after_is_one = before != one
        ratio = 1 / last.value if after_is_one else last.value
        lead = first.value if after_is_one else 1 / first.value
        after = one if after_is_one else other
        names = family, metric, stage, before, after
        return CrossoverFinding(*names, size, low, high, basis, ends[1], ratio, ends[0], lead)

    found = [
        crossover(crossing.before, crossing.size, crossing.low, crossing.high, "measured")
        for crossing in sorted(compared.crossings, key=lambda each: each.size)
    ]
    ahead = "open"
    leader = zones[-1].leader
    if (other if leader == one else one) in failed:
        ahead = "none"  # whoever fails at some size overtakes nobody beyond it
    elif growths[0] is not None and growths[1] is not None and leader is not None:
        beyond = crossing_beyond(growths[0], growths[1], float(ends[1]))
        if beyond is not None:
            ahead = "crossover"
            high = None if math.isinf(beyond.high) else beyond.high
            found.append(crossover(leader, beyond.value, beyond.low, high, "forecast"))
        elif not may_cross(growths[0], growths[1], float(ends[1])):
            ahead = "none"
    return PairFinding(family, metric, stage, one, other, [*ends], first, last, zones, ahead), found


def _breakevens(grouped: dict[Place, list[Series]], baseline: str) -> Iterator[Breakeven]:
    """Break-even of every two contenders with stages."""
    for (family, stage, metric), builds in grouped.items():
        uses = {each.contender: each for each in grouped.get((family, "use", metric), [])}
        if stage != "build" or metric != "time":
            continue
        both = [each for each in builds if each.contender in uses]
        for one, other in pairs_of(both, baseline):
            yield from breakeven((one, other), (uses[one.contender], uses[other.contender]))
