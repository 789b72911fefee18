"""The questions that a run is to answer, and whether more trials of it would answer them.

A question is a verdict as users read it: who leads over a range of sizes, where one overtakes another, which order a
cost grows by. It is settled when more trials would not change it: a lead that is beyond doubt, a tie within 2 %, a
crossover known within 5 % or to a whole number, one plausible order. It is open when the trials that the rest of the
time allows would be expected to settle it, and beyond reach when they would not. What is to be expected follows from
what was seen: errors fall with the square root of the number of lives (stochastic curtailment: Lan, Simon and Halperin,
Communications in Statistics C 1, 1982, 207-219).
"""

from __future__ import annotations

import math
from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Protocol

import numpy as np

from ...results.findings import Number
from ..comparison.crossover import Crossing
from ..comparison.pair import Duel, Zone
from ..comparison.pairs import Duels, Place
from ..growth.fit import Growth, telling_size
from ..series import TIMED, Series
from ..uncertainty.repeated_looks import DOUBTLESS, lead_share

SETTLED, OPEN, BEYOND = "settled", "open", "beyond"
LEAD, TIE, CROSSOVER, ORDER = "lead", "tie", "crossover", "order"
TIE_WITHIN = 0.02
KNOWN_WITHIN = 0.05  # to each side, of a crossover between leaders
ASIDE = 3.0  # so many times as wide may the interval of another crossover be
LIVES_TELLING = 5  # before noise is known well enough to give a question up for it
HOPE = 0.75  # a width may come out so much smaller than is to be expected: the noise may be less than it looks
FOCUS = 5  # so many neighbouring sizes tell most about a lead
ROUGH = 0.1  # costs that are unsure by so much say little of their order: more lives help

Point = tuple[str, str, Number]
"""A (contender, family, size)."""


@dataclass(frozen=True, slots=True)
class Question:
    """A verdict of a run under way.

    Attributes:
        kind: lead, tie, crossover or order.
        place: family, stage and metric.
        contenders: whom it is about; before and after, of a crossover.
        start, end: the sizes it is about; the interval, of a crossover.
        state: settled, open or beyond.
        size: the estimate of a crossover; the larger size that would tell orders apart, None where none would.
        orders: those that are plausible, the first choice first.
        within: by which share those tied differ at most; how well a crossover is to be known.
        at: the sizes at which trials would tell most.
        by_noise: whether it is noise that leaves it unsettled, against which more lives help a little.
    """

    kind: str
    place: Place
    contenders: tuple[str, ...]
    start: float
    end: float
    state: str = OPEN
    size: float | None = None
    orders: tuple[str, ...] = ()
    within: float = math.inf
    at: tuple[float, ...] = ()
    by_noise: bool = True


class Rest(Protocol):
    """What is left of a run, as whoever measures tells it: see `measuring.plan.advice.Prospect`."""

    @property
    def left(self) -> float:
        """Seconds."""

    @property
    def start(self) -> float:
        """Seconds that another life takes before its first trial."""

    @property
    def costs(self) -> Mapping[Point, float]:
        """Seconds of one more trial at each point, the making of its inputs included."""

    @property
    def reach(self) -> Mapping[tuple[str, str], Number]:
        """The largest size that each (contender, family) may be measured at."""


def lives_left(rest: Rest, points: Collection[Point]) -> float:
    """How many more lives the time allows, of one trial at each of some points."""
    return max(rest.left, 0.0) / max(rest.start + sum(rest.costs.get(point, 0.0) for point in points), 1e-3)


def questions(growths: Mapping[Series, Growth], duels: Duels, rest: Rest) -> list[Question]:
    """What a run is to answer, with the state of each question.

    Args:
        growths: how each series grows, where that was looked at.
        duels: the comparisons of all pairs.
        rest: what is left of the run.
    """
    asked: list[tuple[Question, Duel | Growth]] = []
    for place, pairs in duels.items():
        if place[2] not in TIMED:
            continue
        leading = {pair for pair, duel in pairs.items() if _may_lead(duel, pairs)}
        for pair, duel in pairs.items():
            asked += [(each, duel) for each in _of_pair(place, duel, pair in leading)]
    for each, growth in growths.items():
        if each.metric in TIMED:
            asked.append((_of_order(each, growth, rest), growth))
    unsettled = [each for each, _ in asked if each.state != SETTLED]
    more = lives_left(rest, points_of(unsettled))
    return [_foreseen(each, about, more) if each.state == OPEN else each for each, about in asked]


def points_of(asked: Collection[Question]) -> set[Point]:
    """Where trials would tell: for each question all contenders it is about, at the sizes that tell most."""
    return {(name, each.place[0], size) for each in asked for name in each.contenders for size in each.at}


def _around(crossing: Crossing, sizes: list[float]) -> tuple[float, ...]:
    """The sizes about a crossover, two beyond its interval on either side."""
    within = [size for size in sizes if crossing.low <= size <= crossing.high]
    below, above = ([size for size in sizes if size < crossing.low], [size for size in sizes if size > crossing.high])
    return (*below[-2:], *within, *above[:2])


def _telling(duel: Duel, zone: Zone) -> tuple[float, ...]:
    """The neighbouring sizes of a zone that come nearest to telling who leads."""
    assert duel.smooth is not None
    here = np.flatnonzero((duel.sizes >= zone.start) & (duel.sizes <= zone.end))
    strength = np.abs(duel.smooth.typical / duel.smooth.error)[here]
    most = int(strength.argmax())
    first = max(0, min(most - FOCUS // 2, len(here) - FOCUS))
    return tuple(map(float, duel.sizes[here[first : first + FOCUS]]))


def _place(series: Series) -> Place:
    return series.family, series.stage, series.metric


def _may_lead(duel: Duel, pairs: Mapping[tuple[str, str], Duel]) -> bool:
    """Whether both of a pair are unbeaten by all others somewhere, so that users ask which of them leads."""
    return _unbeaten(duel.one, pairs) and _unbeaten(duel.other, pairs)


def _unbeaten(name: str, pairs: Mapping[tuple[str, str], Duel]) -> bool:
    own = [duel for pair, duel in pairs.items() if name in pair]
    sizes = sorted({float(size) for duel in own for size in duel.sizes})
    return any(all(duel.sign(size) * (1 if duel.one == name else -1) <= 0 for duel in own) for size in sizes)


def _of_pair(place: Place, duel: Duel, leads: bool) -> Iterator[Question]:
    """The leads, ties and crossovers of two contenders, settled or open."""
    names = duel.one, duel.other
    whole = all(float(size).is_integer() for size in duel.sizes)
    for crossing in duel.crossings:
        known = KNOWN_WITHIN if leads else ASIDE * KNOWN_WITHIN
        state = SETTLED if is_known(crossing, whole, known) else OPEN
        pair = crossing.before, crossing.after
        at = _around(crossing, [float(size) for size in duel.sizes])
        ends = crossing.low, crossing.high
        yield Question(CROSSOVER, place, pair, *ends, state, crossing.size, within=known, at=at)
    if not leads:
        return
    for zone in duel.zones:
        here = (duel.sizes >= zone.start) & (duel.sizes <= zone.end)
        if not here.any() or duel.smooth is None:
            continue
        if zone.sign:
            state = SETTLED if _beyond_doubt(duel, zone) else OPEN
            yield Question(
                LEAD,
                place,
                names if zone.sign < 0 else names[::-1],
                zone.start,
                zone.end,
                state,
                at=_telling(duel, zone),
            )
        else:
            within = duel.within(zone.start, zone.end)
            state = SETTLED if within <= TIE_WITHIN else OPEN
            at = _telling(duel, zone)
            yield Question(TIE, place, names, zone.start, zone.end, state, within=within, at=at)


def is_known(crossing: Crossing, whole: bool, within: float = KNOWN_WITHIN) -> bool:
    """Whether a crossing is known within a share to each side, or to a single whole number."""
    single = whole and math.floor(crossing.high) - math.ceil(crossing.low) < 1
    return single or crossing.high <= (1 + within) ** 2 * crossing.low


def _beyond_doubt(duel: Duel, zone: Zone) -> bool:
    """Whether a lead is so clear at some size that no later trials are expected to take it back."""
    assert duel.smooth is not None
    here = (duel.sizes >= zone.start) & (duel.sizes <= zone.end)
    reach = duel.smooth.reach(lead_share(len(duel.sizes), DOUBTLESS))
    return bool((np.abs(duel.smooth.typical) > reach)[here].any())


def _of_order(series: Series, growth: Growth, rest: Rest) -> Question:
    orders = tuple(str(fit.order) for fit, _ in growth.plausible) if growth.exact is None else (growth.exact.order,)
    last = float(series.sizes[-1])
    asked = Question(ORDER, _place(series), (series.contender,), float(series.sizes[0]), last, orders=orders)
    if len(orders) < 2:
        return replace(asked, state=SETTLED)
    larger = telling_size(growth.at, growth.plausible)
    within = larger is not None and larger <= rest.reach.get((series.contender, series.family), last)
    rough = float(np.median(growth.level.own)) > ROUGH
    at = tuple(float(size) for size in series.sizes[len(series.sizes) // 2 :])
    state = OPEN if within or rough else BEYOND
    return replace(asked, state=state, size=larger if within else None, at=at, by_noise=rough)


def _foreseen(asked: Question, about: Duel | Growth, more: float) -> Question:
    """The question with what so many more lives would be expected to make of it."""
    if isinstance(about, Growth):
        return asked if asked.size is not None or more >= 1 else replace(asked, state=BEYOND)
    level = about.smooth
    if level is None or more < 1:
        return replace(asked, state=BEYOND)
    if level.lives < LIVES_TELLING:
        return asked
    times = (level.lives + more) / max(level.lives, 1)
    later = level.after(times)
    if asked.kind == CROSSOVER:
        width = math.log(asked.end / asked.start) * float(np.median(later.reach() / level.reach()))
        return asked if HOPE * width <= 2 * math.log1p(asked.within) else replace(asked, state=BEYOND)
    here = (about.sizes >= asked.start) & (about.sizes <= asked.end)
    apart = np.abs(level.typical)[here]
    # A lead that is seen but not beyond doubt is never left as it is: that would pick out what luck shows.
    if asked.kind == LEAD:
        return asked
    # The difference may be larger than it looks now.
    may_be = apart + level.error[here]
    clear = (may_be > later.reach(lead_share(len(about.sizes)))[here]).any()
    equal = (apart + later.reach()[here]).max() <= math.log1p(TIE_WITHIN)
    return asked if clear or equal else replace(asked, state=BEYOND)
