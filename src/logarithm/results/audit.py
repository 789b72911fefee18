"""The audit: every statement is held against the numbers it rests on, before it is shown.

Whoever concludes may be wrong: a rule that was not thought of, a case that nobody tried. So each kind of statement has
invariants that are simple enough to be right, and are looked at in one place, on the findings alone. What breaks one is
left out and named in `withheld`, with what it breaks. docs/method.md lists them; the letters here are those there.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import Any, TypeVar

import msgspec
import numpy as np

from ..errors import StudyError
from ..notation.metrics import TIMED
from ..notation.orders import parse
from ..notation.places import Key, Place
from .base import Interval
from .findings import ClaimFinding, Costs, Findings, GrowthFinding
from .forecast import REACH
from .pairs import (
    AT_ONCE,
    FORECAST,
    LEADS,
    MEASURED,
    NEVER,
    PAYS,
    TIE,
    Breakeven,
    CrossoverFinding,
    Cutoff,
    PairFinding,
    SafeChoice,
    Standing,
    Zone,
)

TRIALS_LEAST, PROCESSES_LEAST = 3, 2
TIE_WITHIN = 0.05
SLOPE_ROUNDING = 0.06  # a drawn curve has few points
ROUNDING = 1e-9
KINK_SIDE = 3
WEIGHTS_MOST = 1.001

F = TypeVar("F", bound=Findings)


@dataclass(frozen=True)
class Numbers:
    """What statements are held against, by what it is about."""

    findings: Findings

    @cached_property
    def costs(self) -> Mapping[Key, Costs]:
        """The costs of each series."""
        return {each.key: each for each in self.findings.costs}

    @cached_property
    def growths(self) -> Mapping[Key, GrowthFinding]:
        """The growth of each series."""
        return {each.key: each for each in self.findings.growth}

    @cached_property
    def pairs(self) -> Mapping[tuple[Place, frozenset[str]], PairFinding]:
        """Each two contenders that were compared."""
        return {(each.place, frozenset((each.one, each.other))): each for each in self.findings.pairs}

    def telling(self, key: Key) -> list[float]:
        """The sizes of a series at which there are trials and processes enough for a verdict."""
        costs = self.costs.get(key)
        if costs is None:
            return []
        ours = self.findings.run.budget is not None or any(point.processes > 1 for point in costs.points)
        if not ours or costs.metric not in TIMED:
            return [float(point.size) for point in costs.points]
        enough = (point for point in costs.points if point.heats >= TRIALS_LEAST and point.processes >= PROCESSES_LEAST)
        return [float(point.size) for point in enough]

    def leader(self, place: Place, one: str, other: str, size: float) -> str | None:
        """Which of two leads at a size, as their comparison says; None where neither is known to."""
        pair = self.pairs.get((place, frozenset((one, other))))
        zones = pair.zones if pair is not None else []
        if not zones or not zones[0].start <= size <= zones[-1].end:
            return None
        return max((each for each in zones if each.start <= size), key=lambda each: each.start).leader


def audited(findings: F) -> F:
    """The findings without what breaks an invariant; that is named in `withheld`."""
    numbers = Numbers(findings)
    withheld: list[str] = []
    kept: dict[str, Any] = {}
    for name, check in CHECKS.items():
        rows = []
        for row in getattr(findings, name):
            breaches = [*check(row, numbers)]
            if not breaches:
                rows.append(row)
                continue
            withheld.append(f"{name}: {'; '.join(breaches)}: {row.cell()}")
            if isinstance(row, GrowthFinding):
                # Its costs and slope stand; its name does not.
                rows.append(msgspec.structs.replace(row, order=None, plausible=[], advice="no law that bears a check"))
        kept[name] = rows
    for order in _overlapping(findings.standings):
        withheld.append(f"standings: F: ranges overlap: {order.cell()}")
        kept["standings"] = [each for each in kept["standings"] if each is not order]
    run = findings.run
    if run.settled and (run.unsettled or run.too_few):
        withheld.append("run: N: settled, with questions open")
        run = msgspec.structs.replace(run, settled=None)
    return msgspec.structs.replace(findings, **kept, run=run, withheld=withheld) if withheld else findings


def _crossover(row: CrossoverFinding, numbers: Numbers) -> Iterator[str]:
    if not _ordered(row.low, row.size, row.high):
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


def _pair(row: PairFinding, numbers: Numbers) -> Iterator[str]:
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


def _standing(row: Standing, numbers: Numbers) -> Iterator[str]:
    if row.start > row.end:
        yield "F: its range is empty"
    telling = numbers.telling((row.leader, *row.place))
    if not telling or not telling[0] <= row.end:
        yield "B: too few trials"
    middle = float(row.start) if row.start == row.end else (float(row.start) + float(row.end)) / 2
    for place, names in numbers.pairs:
        if place != row.place or row.leader not in names or {*names} & {*numbers.findings.study.yardsticks}:
            continue
        (other,) = names - {row.leader}
        if not row.rivals and not row.tied and numbers.leader(place, row.leader, other, middle) == other:
            yield f"D: {other} leads there"
    if row.tied and (row.within or 0.0) > TIE_WITHIN + ROUNDING:
        yield "E: a tie that may be more than 5 % apart"
    if any(each.high is not None and each.low > each.high for each in row.rivals):
        yield "A: its interval is turned round"


def _overlapping(standings: list[Standing]) -> Iterator[Standing]:
    """Ranges of one place that reach into the next."""
    for one, other in pairwise(standings):
        if one.place == other.place and one.end >= other.start:
            yield other


def _growth(row: GrowthFinding, numbers: Numbers) -> Iterator[str]:
    if row.exponent is not None and not _within(row.exponent):
        yield "A: the exponent's interval does not hold it"
    if row.order is None:
        if row.plausible:
            yield "G: orders without a first one"
        return
    weights = [each.weight for each in row.plausible]
    if not weights or row.plausible[0].order != row.order or sum(weights) > WEIGHTS_MOST:
        yield "G: its weights do not bear its first order"
    costs = numbers.costs.get(row.key)
    if row.exact is None and row.law is not None and costs is not None:
        slope = _slope(costs)
        if slope is not None and not row.law.low - SLOPE_ROUNDING <= slope <= row.law.high + SLOPE_ROUNDING:
            yield f"H: the law rises by {slope:.2f}, the costs by {row.law.low:.2f} to {row.law.high:.2f}"
    sizes = numbers.telling(row.key) or [float(size) for size in row.sizes]
    for regime in row.regimes if any(each.why == "kink" for each in row.regimes) else ():
        if costs is not None and sum(regime.start <= size <= regime.end for size in _sizes(costs)) < KINK_SIDE:
            yield "I: a law of fewer than three sizes"
    if row.work is not None and min(seconds for _, seconds in row.work.price) <= 0 < len(sizes):
        yield "J: work without a price"


def _sizes(costs: Costs) -> list[float]:
    return [float(point.size) for point in costs.points]


def _slope(costs: Costs) -> float | None:
    """The slope of the drawn curve over the upper half of the sizes (on a logarithmic scale), of three points or more.

    None where the curve is drawn over a part of them only.
    """
    curve = np.array(costs.fitted)
    sizes = [size for size in _sizes(costs) if len(curve) and size >= curve[0, 0] * (1 - ROUNDING)]
    if len(sizes) < TRIALS_LEAST or len(sizes) < 4 or (curve <= 0).any():
        return None
    upper = [size for size in sizes if size >= math.sqrt(sizes[0] * sizes[-1])]
    x = np.log(upper if len(upper) >= 4 else sizes[-4:])
    y = np.interp(x, np.log(curve[:, 0]), np.log(curve[:, 1]))
    return float(np.polyfit(x - x.mean(), y, 1)[0])


def _claim(row: ClaimFinding, numbers: Numbers) -> Iterator[str]:
    growth = numbers.growths.get(row.key)
    try:
        asked = parse(row.claim).rank
    except StudyError:
        return  # an exact formula is held against each count
    orders = growth.plausible if growth is not None else []
    if row.metric == "work":
        orders = next(
            (each.work.plausible for each in numbers.findings.growth if each.who == row.who and each.work), orders
        )
    ranks = [parse(each.order).rank for each in orders]
    if row.verdict != "undecided" and not ranks:
        yield "K: a verdict without an order"
    elif row.verdict == "contradicted" and min(ranks) <= asked and (growth is None or growth.exact is None):
        yield "K: the claim cannot be ruled out"
    elif row.verdict == "holds" and orders[0].order != row.claim:
        yield "K: another order comes first"
    elif row.verdict == "slower" and max(ranks) >= asked:
        yield "K: the claim cannot be ruled out"


def _safe(row: SafeChoice, numbers: Numbers) -> Iterator[str]:
    if not math.isfinite(row.worst) or row.worst < 1:
        yield "L: a choice that costs less than the best"
    rows = [each for each in numbers.findings.standings if (each.stage, each.metric) == (row.stage, row.metric)]
    families = {each.family for each in rows}
    alone = [each for each in rows if not each.tied and not each.rivals]
    for name in {each.leader for each in alone} - {row.contender}:
        # One that leads everywhere, over all of the range, is to be chosen.
        over = [each for each in alone if each.leader == name and each.start <= row.start and each.end >= row.end]
        if families and {each.family for each in over} == families:
            yield f"L: {name} leads on every family there"


def _cutoff(row: Cutoff, numbers: Numbers) -> Iterator[str]:
    for family in row.families:
        place = family, row.stage, row.metric
        found = [each for each in numbers.findings.crossovers if each.place == place and each.basis == MEASURED]
        if not any((each.before, each.after) == (row.before, row.after) for each in found):
            yield f"L: no crossover on {family}"
    if row.worst < 1 - ROUNDING:
        yield "L: a hybrid that is better than the better of the two"


def _breakeven(row: Breakeven, numbers: Numbers) -> Iterator[str]:
    known = [end for end in (row.low, row.uses, row.high) if end is not None]
    if row.verdict == PAYS and (len(known) < 3 or not _ordered(*known)):
        yield "A: its interval does not hold it"
    using = numbers.leader((row.family, "use", "time"), row.dearer, row.cheaper, float(row.size))
    building = numbers.leader((row.family, "build", "time"), row.dearer, row.cheaper, float(row.size))
    if row.verdict in (PAYS, AT_ONCE) and using != row.dearer:
        yield "M: what is to be repaid is no cheaper to use"
    if row.verdict == NEVER and (using != row.cheaper or building != row.cheaper):
        yield "M: the other one does not lead in both stages"


def _ordered(low: float, value: float, high: float) -> bool:
    """Whether a value lies within its interval, and that is finite."""
    return (
        math.isfinite(high) and low <= value * (1 + ROUNDING) + ROUNDING and value <= high * (1 + ROUNDING) + ROUNDING
    )


def _within(interval: Interval) -> bool:
    return _ordered(interval.low, interval.value, interval.high) or not math.isfinite(interval.value)


def _between(low: float, value: float, high: float) -> bool:
    """Whether a border of a range lies where the interval allows it."""
    grain = 1e-6 * max(abs(value), 1.0)
    return low - grain <= value <= high + grain


CHECKS: dict[str, Callable[[Any, Numbers], Iterator[str]]] = {
    "pairs": _pair,
    "crossovers": _crossover,
    "standings": _standing,
    "growth": _growth,
    "claims": _claim,
    "safe": _safe,
    "cutoffs": _cutoff,
    "breakeven": _breakeven,
}
