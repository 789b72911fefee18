"""What is said of two contenders and more, held against their ratios: leads, ties, crossovers, choices, break-even."""

from __future__ import annotations

import math
from collections.abc import Iterator
from itertools import pairwise

from ...notation.metrics import TIMED
from ..pairs import (
    AT_ONCE,
    FORECAST,
    LEADS,
    MEASURED,
    NEVER,
    PAYS,
    TIE,
    TIE_WITHIN,
    Breakeven,
    CrossoverFinding,
    Cutoff,
    PairFinding,
    SafeChoice,
    Standing,
    Zone,
)
from ..tasks.forecast import REACH
from .numbers import ROUNDING, SLOPE_ROUNDING, Numbers, ordered


def crossover(row: CrossoverFinding, numbers: Numbers) -> Iterator[str]:
    """A: its interval holds it. B: there are trials enough. C: it lies within reach. D: the leads on its sides."""
    if not ordered(row.low, row.size, row.high):
        yield "A: its interval does not hold it"
    pair = numbers.pairs.get((row.place, frozenset((row.before, row.after))))
    if pair is None or not pair.smooth:
        yield "B: too few trials"
        return
    first, last = pair.smooth[0][0], pair.smooth[-1][0]
    if row.basis == MEASURED:
        if not first <= row.low or not row.high <= last:
            yield "C: beyond the sizes measured"
        size = row.size
        # Counts that are equal at some sizes have no leader there.
        low = row.low if row.metric in TIMED else first
        if not any(each.leader == row.before and _between(low, each.end, size) for each in pair.zones):
            yield "D: the one that is overtaken does not lead below"
        if not any(each.leader == row.after and _between(size, each.start, row.high) for each in pair.zones):
            yield "D: the one that overtakes does not lead above"
    elif row.basis == FORECAST:
        if not last < row.size <= (REACH + SLOPE_ROUNDING) * max(last, float(pair.sizes[1])):
            yield "C: beyond ten times the sizes measured"
        if pair.zones and pair.zones[-1].leader != row.before:
            yield "D: the one that is overtaken does not lead at the largest size"


def pair(row: PairFinding, numbers: Numbers) -> Iterator[str]:
    """B: its ratios have trials enough. F: its ranges do not overlap. D, E: what each of them says."""
    telling = {*numbers.telling((row.one, *row.place))} & {*numbers.telling((row.other, *row.place))}
    if any(point[0] not in telling for point in row.smooth):
        yield "B: too few trials"
    if any(one.end > other.start for one, other in pairwise(row.zones)):
        yield "F: ranges overlap"
    for zone in row.zones:
        here = [point for point in row.smooth if zone.start <= point[0] <= zone.end]
        yield from _zone(zone, here, row)


def _zone(zone: Zone, here: list[list[float]], row: PairFinding) -> Iterator[str]:
    """What a range of sizes says, against the ratios in it: [size, ratio, low, high]."""
    if zone.verdict == TIE and any(max(high, 1 / low) > 1 + TIE_WITHIN + ROUNDING for _, _, low, high in here):
        yield "E: a tie that may be more than 5 % apart"
    if zone.verdict != LEADS or not here or row.metric not in TIMED:
        return
    behind = 1.0 if zone.leader == row.one else -1.0
    ratios = [(ratio**behind, low, high) for _, ratio, low, high in here]
    if not any(ratio < 1 for ratio, _, _ in ratios):
        yield "D: the leader is never cheaper"
    if any((low if behind > 0 else 1 / high) > 1 for _, low, high in ratios):
        yield "D: the leader is surely dearer at a size"


def standing(row: Standing, numbers: Numbers) -> Iterator[str]:
    """B: the leader has trials enough. D: nobody leads before it. E: ties are ties. F: there is a range."""
    if row.start > row.end:
        yield "F: its range is empty"
    telling = numbers.telling((row.cheapest, *row.place))
    if not telling or not telling[0] <= row.end:
        yield "B: too few trials"
    middle = float(row.start) if row.start == row.end else (float(row.start) + float(row.end)) / 2
    for place, names in numbers.pairs:
        if place != row.place or row.cheapest not in names or {*names} & {*numbers.findings.study.yardsticks}:
            continue
        (other,) = names - {row.cheapest}
        if row.is_alone and numbers.leader(place, row.cheapest, other, middle) == other:
            yield f"D: {other} leads there"
    if row.tied and (row.within or 0.0) > TIE_WITHIN + ROUNDING:
        yield "E: a tie that may be more than 5 % apart"
    if any(each.high is not None and each.low > each.high for each in row.rivals):
        yield "A: its interval is turned round"


def overlapping(standings: list[Standing]) -> Iterator[Standing]:
    """Ranges of one place that reach into the next."""
    for one, other in pairwise(standings):
        if one.place == other.place and one.end >= other.start:
            yield other


def safe(row: SafeChoice, numbers: Numbers) -> Iterator[str]:
    """L: whoever leads on every family is chosen."""
    if not math.isfinite(row.worst) or row.worst < 1:
        yield "L: a choice that costs less than the best"
    rows = [each for each in numbers.findings.standings if (each.stage, each.metric) == (row.stage, row.metric)]
    families = {each.family for each in rows}
    alone = [each for each in rows if each.is_alone]
    for name in {each.cheapest for each in alone} - {row.contender}:
        # One that leads everywhere, over all of the range, is to be chosen.
        over = [each for each in alone if each.cheapest == name and each.start <= row.start and each.end >= row.end]
        if families and {each.family for each in over} == families:
            yield f"L: {name} leads on every family there"


def cutoff(row: Cutoff, numbers: Numbers) -> Iterator[str]:
    """L: its contenders cross on each family that it names."""
    for family in row.families:
        place = family, row.stage, row.metric
        found = [each for each in numbers.findings.crossovers if each.place == place and each.basis == MEASURED]
        if not any((each.before, each.after) == (row.before, row.after) for each in found):
            yield f"L: no crossover on {family}"
    if row.worst < 1 - ROUNDING:
        yield "L: a hybrid that is better than the better of the two"


def breakeven(row: Breakeven, numbers: Numbers) -> Iterator[str]:
    """A: its interval holds it. M: who is cheaper to use, and to build."""
    known = [end for end in (row.low, row.uses, row.high) if end is not None]
    if row.verdict == PAYS and (len(known) < 3 or not ordered(*known)):
        yield "A: its interval does not hold it"
    using = numbers.leader((row.family, "use", "time"), row.dearer, row.cheaper, float(row.size))
    building = numbers.leader((row.family, "build", "time"), row.dearer, row.cheaper, float(row.size))
    if row.verdict in (PAYS, AT_ONCE) and using != row.dearer:
        yield "M: what is to be repaid is no cheaper to use"
    if row.verdict == NEVER and (using != row.cheaper or building != row.cheaper):
        yield "M: the other one does not lead in both stages"


def _between(low: float, value: float, high: float) -> bool:
    """Whether a border of a range lies where the interval allows it."""
    grain = 1e-6 * max(abs(value), 1.0)
    return low - grain <= value <= high + grain
