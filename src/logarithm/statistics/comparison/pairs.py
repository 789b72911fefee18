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
from ...results.pairs import (
    FORECAST,
    LEADS,
    MEASURED,
    TIE,
    UNKNOWN,
    Breakeven,
    CrossoverFinding,
    Cutoff,
    PairFinding,
    SafeChoice,
    Standing,
    Zone,
)
from ..growth.fit import Growth, ratio_of
from ..growth.forecast import crossing_beyond, may_cross
from ..readings.series import Series
from .breakeven import breakeven
from .choice import cutoffs, safe_choices
from .pair import PairComparison, compare_pair, pair_of
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
) -> Compared:
    """Everything that follows from comparing contenders with each other.

    Args:
        series, growths: of all places, and how each grows where that is known.
        comparisons: of their pairs.
        yardsticks: contenders that are not ranked.
        failed: (contender, family) that came to grief at some size.
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
        families = {place[0]: comparisons[place] for place in grouped if place[1:] == (stage, metric)}
        taking = dict.fromkeys(
            each.contender
            for place, group in grouped.items()
            for each in group
            if place[1:] == (stage, metric) and each.contender not in yardsticks
        )
        if len(families) > 1 and len(taking) > 1:
            made.safe += safe_choices(stage, metric, list(families.values()), taking)
        made.cutoffs += cutoffs(stage, metric, families, taking)
    made.breakeven += _breakevens(grouped, comparisons)
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

    def crossover(before: str, size: float, low: float, high: float, basis: str, bracket: bool) -> CrossoverFinding:
        after_is_one = before != one
        ratio = 1 / last.value if after_is_one else last.value
        lead = first.value if after_is_one else 1 / first.value
        after = one if after_is_one else other
        names = family, metric, stage, before, after
        return CrossoverFinding(*names, size, low, high, basis, ends[1], ratio, ends[0], lead, bracket=bracket)

    found = [
        crossover(crossing.before, crossing.size, crossing.low, crossing.high, MEASURED, crossing.is_bracket)
        for crossing in sorted(compared.crossings, key=lambda each: each.size)
    ]
    ahead = "open"
    leader = {-1: one, 1: other}.get(compared.zones[-1].sign) if compared.zones else None
    if (other if leader == one else one) in failed:
        ahead = "none"  # whoever fails at some size overtakes nobody beyond it
    elif growths[0] is not None and growths[1] is not None and leader is not None:
        beyond = crossing_beyond(growths[0], growths[1], float(ends[1])) if compared.is_closing else None
        if beyond is not None:
            ahead = "crossover"
            found.append(crossover(leader, beyond.value, beyond.low, beyond.high, FORECAST, False))
        elif not may_cross(growths[0], growths[1], float(ends[1])):
            ahead = "none"
    names = family, metric, stage, one, other
    return PairFinding(*names, [*ends], first, last, [*_zones(compared)], ahead, compared.curve()), found


def _zones(compared: PairComparison) -> Iterator[Zone]:
    """The ranges of sizes of a pair with what holds there."""
    for each in compared.zones:
        low, high = compared.spans(each.start, each.end)
        leader = {-1: compared.one, 0: None, 1: compared.other}[each.sign]
        verdict = LEADS if leader else TIE if each.is_tie else UNKNOWN
        yield Zone(plain(each.start), plain(each.end), leader, verdict, low, None if math.isinf(high) else high)


def _breakevens(grouped: dict[Place, list[Series]], comparisons: PairComparisons) -> Iterator[Breakeven]:
    """Break-even of every two contenders with stages whose builds and uses were compared."""
    for (family, stage, metric), group in grouped.items():
        if stage != "build" or metric != "time":
            continue
        builds, uses = comparisons[family, stage, metric], comparisons.get((family, "use", metric), {})
        at = {each.contender: each for each in group}
        using = {each.contender: each for each in grouped.get((family, "use", metric), [])}
        for names in builds:
            pair = pair_of(uses, *names)
            if pair is not None:
                one, other = ((at[name], using[name]) for name in names)
                yield from breakeven((one[0], other[0]), (one[1], other[1]), (builds[names], pair))
