"""The questions that a run is to answer, and whether more trials of it would answer them.

A question is a verdict as users read it: who leads over a range of sizes, where one overtakes another, which order a
cost grows by. It is settled when more trials would not change it: a lead that is beyond doubt, a tie within 5 %, a
crossover known within 5 % or to a whole number, one plausible order. It is open when the trials that the rest of the
time allows would be expected to settle it, and beyond reach when they would not. What is to be expected follows from
what was seen: errors fall with the square root of the number of processes (stochastic curtailment: Lan, Simon and
Halperin, Communications in Statistics C 1, 1982, 207-219).
"""

from __future__ import annotations

import math
from collections.abc import Collection, Iterator, Mapping
from dataclasses import replace

import numpy as np

from ...notation.metrics import TIMED
from ...notation.places import Place
from ...results.pairs import TIE_WITHIN
from ...results.questions import (
    BEYOND,
    CROSSOVER,
    LEAD,
    OPEN,
    ORDER,
    SETTLED,
    TIE,
    Point,
    Question,
    Remaining,
)
from ..comparison.crossover import Axis, Crossing
from ..comparison.pair import PairComparison, SizeRange
from ..comparison.pairs import PairComparisons
from ..growth.fit import Growth, telling_size
from ..readings.arrays import Floats, median_of
from ..readings.series import Series
from ..uncertainty.repeated_looks import DOUBTLESS, lead_share

KNOWN_WITHIN = 0.05  # to each side, of a crossover between leaders
ASIDE = 3.0  # so many times as wide may the interval of another crossover be
PROCESSES_TELLING = 5  # before noise is known well enough to give a question up for it
FACTOR_WITHIN = 0.08  # in the logarithm: how well the factor between two revisions is to be known
HOPE = 0.75  # a width may come out so much smaller than is to be expected: the noise may be less than it looks
FOCUS = 5  # so many neighbouring sizes tell most about a lead
ROUGH = 0.1  # costs that are unsure by so much say little of their order: more processes help


def processes_left(rest: Remaining, points: Collection[Point]) -> float:
    """How many more processes the time allows, of one trial at each of some points."""
    return max(rest.left, 0.0) / max(rest.start + sum(rest.costs.get(point, 0.0) for point in points), 1e-3)


def questions(
    growths: Mapping[Series, Growth], comparisons: PairComparisons, rest: Remaining, axis: str = "n"
) -> list[Question]:
    """What a run is to answer, with the state of each question.

    Args:
        growths: how each series grows, where that was looked at.
        comparisons: the comparisons of all pairs.
        rest: what is left of the run.
        axis: what is varied, as people read it.
    """
    asked: list[tuple[Question, PairComparison | Growth]] = []
    for place, pairs in comparisons.items():
        if place[2] not in TIMED:
            continue
        leading = {pair for pair, compared in pairs.items() if _may_lead(compared, pairs)}
        for pair, compared in pairs.items():
            asked += [(each, compared) for each in _of_pair(place, compared, pair in leading)]
    for each, growth in growths.items():
        if each.metric in TIMED:
            asked.append((_of_order(each, growth, rest), growth))
    unsettled = [each for each, _ in asked if each.state != SETTLED]
    more = processes_left(rest, points_of(unsettled))
    foreseen = [_foreseen(each, about, more) if each.state == OPEN else each for each, about in asked]
    return [replace(each, axis=axis) for each in foreseen]


def factor_known(asked: Question, comparisons: PairComparisons, rest: Remaining) -> Question:
    """The question of a lead over an earlier revision: it is settled where its factor is known well, too.

    It stays settled where the time left is not expected to make the factor known much better.
    """
    if asked.kind != LEAD or asked.state != SETTLED:
        return asked
    pairs = comparisons[asked.place]
    compared = next(each for pair, each in pairs.items() if {*pair} == {*asked.contenders})
    level = compared.smooth
    here = (compared.sizes >= asked.start) & (compared.sizes <= asked.end)
    if level is None or not here.any() or float(level.reach()[here].max()) <= FACTOR_WITHIN:
        return asked
    at = tuple(map(float, compared.sizes[here]))
    more = processes_left(rest, {(name, asked.place[0], size) for name in asked.contenders for size in at})
    later = level.after((level.processes + more) / max(level.processes, 1)).reach()[here]
    is_hopeful = more >= 1 and HOPE * float(later.max()) < float(level.reach()[here].max())
    return replace(asked, state=OPEN, at=at) if is_hopeful else asked


def points_of(asked: Collection[Question]) -> set[Point]:
    """Where trials would tell: for each question all contenders it is about, at the sizes that tell most."""
    return {(name, each.place[0], size) for each in asked for name in each.contenders for size in each.at}


def _around(crossing: Crossing, sizes: list[float]) -> tuple[float, ...]:
    """The sizes about a crossover, two beyond its interval on either side."""
    within = [size for size in sizes if crossing.low <= size <= crossing.high]
    below, above = ([size for size in sizes if size < crossing.low], [size for size in sizes if size > crossing.high])
    return (*below[-2:], *within, *above[:2])


def _telling(compared: PairComparison, zone: SizeRange) -> tuple[float, ...]:
    """The neighbouring sizes of a zone that come nearest to telling who leads."""
    assert compared.smooth is not None
    here = np.flatnonzero((compared.sizes >= zone.start) & (compared.sizes <= zone.end))
    strength = np.abs(compared.smooth.typical / compared.smooth.error)[here]
    most = int(strength.argmax())
    first = max(0, min(most - FOCUS // 2, len(here) - FOCUS))
    return tuple(map(float, compared.sizes[here[first : first + FOCUS]]))


def _may_lead(compared: PairComparison, pairs: Mapping[tuple[str, str], PairComparison]) -> bool:
    """Whether both of a pair are unbeaten by all others somewhere, so that users ask which of them leads."""
    return _unbeaten(compared.one, pairs) and _unbeaten(compared.other, pairs)


def _unbeaten(name: str, pairs: Mapping[tuple[str, str], PairComparison]) -> bool:
    own = [compared for pair, compared in pairs.items() if name in pair]
    sizes = sorted({float(size) for compared in own for size in compared.sizes})
    return any(
        all(compared.sign(size) * (1 if compared.one == name else -1) <= 0 for compared in own) for size in sizes
    )


def _of_pair(place: Place, compared: PairComparison, leads: bool) -> Iterator[Question]:
    """The leads, ties and crossovers of two contenders, settled or open."""
    names = compared.one, compared.other
    for crossing in compared.crossings:
        known = KNOWN_WITHIN if leads else ASIDE * KNOWN_WITHIN
        state = SETTLED if is_known(crossing, compared.sizes, known) else OPEN
        pair = crossing.before, crossing.after
        at = _around(crossing, [float(size) for size in compared.sizes])
        ends = crossing.low, crossing.high
        yield Question(CROSSOVER, place, pair, *ends, state, crossing.size, within=known, at=at)
    if not leads:
        return
    for zone in compared.zones:
        here = (compared.sizes >= zone.start) & (compared.sizes <= zone.end)
        if not here.any() or compared.smooth is None:
            continue
        if zone.sign:
            state = SETTLED if _beyond_doubt(compared, zone) else OPEN
            yield Question(
                LEAD,
                place,
                names if zone.sign < 0 else names[::-1],
                zone.start,
                zone.end,
                state,
                at=_telling(compared, zone),
            )
        else:
            within = compared.within(zone.start, zone.end)
            state = SETTLED if within <= TIE_WITHIN else OPEN
            at = _telling(compared, zone)
            yield Question(TIE, place, names, zone.start, zone.end, state, within=within, at=at)


def is_known(crossing: Crossing, sizes: Floats, within: float = KNOWN_WITHIN) -> bool:
    """Whether a crossing is known within a share to each side, or to a single whole number of the axis."""
    whole = all(float(size).is_integer() for size in sizes)
    single = whole and math.floor(crossing.high) - math.ceil(crossing.low) < 1
    return single or Axis.of(sizes).apart(crossing.low, crossing.high) <= 2 * math.log1p(within)


def _beyond_doubt(compared: PairComparison, zone: SizeRange) -> bool:
    """Whether a lead is so clear at some size that no later trials are expected to take it back."""
    assert compared.smooth is not None
    here = (compared.sizes >= zone.start) & (compared.sizes <= zone.end)
    reach = compared.smooth.reach(lead_share(len(compared.sizes), DOUBTLESS))
    return bool((np.abs(compared.smooth.typical) > reach)[here].any())


def _of_order(series: Series, growth: Growth, rest: Remaining) -> Question:
    orders = tuple(str(fit.order) for fit, _ in growth.plausible) if growth.exact is None else (growth.exact.order,)
    last = float(series.sizes[-1])
    asked = Question(ORDER, series.place, (series.contender,), float(series.sizes[0]), last, orders=orders)
    if len(orders) < 2:
        return replace(asked, state=SETTLED)
    larger = telling_size(growth.at, growth.plausible)
    within = larger is not None and larger <= rest.reach.get((series.contender, series.family), last)
    rough = median_of(growth.level.own) > ROUGH
    at = tuple(float(size) for size in series.sizes[len(series.sizes) // 2 :])
    state = OPEN if within or rough else BEYOND
    return replace(asked, state=state, size=larger if within else None, at=at, by_noise=rough)


def _foreseen(asked: Question, about: PairComparison | Growth, more: float) -> Question:
    """The question with what so many more processes would be expected to make of it."""
    if isinstance(about, Growth):
        return asked if asked.size is not None or more >= 1 else replace(asked, state=BEYOND)
    level = about.smooth
    if level is None or more < 1:
        return replace(asked, state=BEYOND)
    if level.processes < PROCESSES_TELLING:
        return asked
    times = (level.processes + more) / max(level.processes, 1)
    later = level.after(times)
    if asked.kind == CROSSOVER:
        width = Axis.of(about.sizes).apart(asked.start, asked.end) * median_of(later.reach() / level.reach())
        return asked if HOPE * width <= 2 * math.log1p(asked.within) else replace(asked, state=BEYOND)
    here = (about.sizes >= asked.start) & (about.sizes <= asked.end)
    apart = np.abs(level.typical)[here]
    # A lead that is seen but not beyond doubt is never left as it is: that would pick out what chance shows.
    if asked.kind == LEAD:
        return asked
    # The difference may be larger than it looks now.
    may_be = apart + level.error[here]
    clear = (may_be > later.reach(lead_share(len(about.sizes)))[here]).any()
    equal = (apart + later.reach()[here]).max() <= math.log1p(TIE_WITHIN)
    return asked if clear or equal else replace(asked, state=BEYOND)
