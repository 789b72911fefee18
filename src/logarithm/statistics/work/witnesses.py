"""Two witnesses of growth: counted work, which is exact and blind inside compiled operations; and time, which is paid.

    cost = work × price

The price of a unit of work drifts as caches fill: over the upper half of the sizes its slope (in log over log) was
seen to be -0.15 to 0.33 wherever work tells the truth, and 0.54 and more where work hides in a compiled operation. So
where the price stays or drifts, the order of time is that of work, and time is only asked among those that work leaves
open. Where the price rises like a power of its own, time decides among the orders above that of work. Between the two,
both are said. Where the price falls like a power, larger sizes than were counted take another course, as where a method
changes at a cutoff: time alone speaks then.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from ...notation.orders import parse
from ..growth.candidates import Fit
from ..growth.fit import TEMPER, Growth, advice_for, weighed
from ..readings.arrays import Floats, median_of
from ..readings.quantiles import student_quantile
from .order import Work

FALLS, DRIFTS, RISES = -0.3, 0.37, 0.50  # the slope down and up to which a price drifts, and from which on work hides
SURELY = 0.2  # and it must be so much at least, whatever the noise
SHARE = 0.05  # of the first choice's weight: less is ruled out
UNSEEN = 0.25  # so steeply at least, where work has several orders at far smaller sizes than time: both are said
PRICE_SPAN_LEAST = 4.0  # the largest size must be so many times the smallest, for a price to have a slope
FRESH = 0.8  # where it is known what all operations do, a price may rise so steeply: as n² numbers in fresh memory do
PRICE_LEAST = 2e-11  # seconds: no processor does a unit of work in less
COUNTED = 0.5  # of the largest size that was timed: work that was counted up to there knows of it
FASTER = 0.3  # the weight of the order of work where time rises more slowly
SURE, MANY = 0.9, 3.0


@dataclass(frozen=True, slots=True)
class Price:
    """What a unit of work costs.

    Attributes:
        sizes, seconds: at each size that was timed, shape (m,).
        slope, low, high: of log price over log size at the upper half of the sizes, with a 90 % interval.
        is_whole: whether it is known what all operations in the work do, up to the largest size.
        is_seen: whether work has one order, or was counted up to near the largest size.
    """

    sizes: Floats
    seconds: Floats
    slope: float
    low: float
    high: float
    is_whole: bool = False
    is_seen: bool = True

    @property
    def says(self) -> str:
        """Whether the order is that of "work", of something "hidden" in an operation, "elsewhere" or "open"."""
        if self.seconds.min() < PRICE_LEAST:
            return "elsewhere"  # what was counted at small sizes says nothing of larger ones
        if self.sizes[-1] < PRICE_SPAN_LEAST * self.sizes[0]:
            return "work"
        if self.slope < FALLS and self.high < -SURELY:
            return "elsewhere"
        if self.slope <= (FRESH if self.is_whole else DRIFTS) and (self.is_seen or self.low <= UNSEEN):
            return "work"
        return "hidden" if self.slope >= RISES and self.low > SURELY else "open"


def price_of(work: Work, sizes: Floats, costs: Floats) -> Price:
    """The price of work at sizes, from typical costs in seconds, both of shape (m,)."""
    seconds = costs / work.at(sizes)
    # Beyond the sizes that were counted a law may take another course, so a price that rises there may be work.
    is_counted = _is_counted(work, sizes)
    is_whole = work.is_whole and (is_counted or _is_exact(work))
    is_seen = len(work.plausible) == 1 or is_counted
    x, y = np.log(sizes), np.log(seconds)
    upper = x >= (x[0] + x[-1]) / 2
    if upper.sum() < MANY:
        upper = np.arange(len(x)) >= len(x) - int(MANY)
    x, y = x[upper] - x[upper].mean(), y[upper]
    spread = float((x * x).sum())
    if spread <= 0:
        return Price(sizes, seconds, 0.0, 0.0, 0.0, is_whole, is_seen)
    slope = float((x * y).sum()) / spread
    rest = y - y.mean() - slope * x
    free = max(len(x) - 2, 1)
    reach = float(student_quantile(free + 2, (1 + SURE) / 2)) * math.sqrt(float((rest**2).sum()) / free / spread)
    return Price(sizes, seconds, slope, slope - reach, slope + reach, is_whole, is_seen)


def by_both(growth: Growth, work: Work | None) -> tuple[Growth, Price | None]:
    """Growth as both witnesses name it; as time alone does where there is no work.

    No order is named whose law does not rise as the times do.
    """
    if work is None:
        return growth, None
    price = price_of(work, growth.at, np.exp(growth.level.typical))
    if price.says == "work":
        # What a unit costs may drift: so far may the slope of the law be from that of the times.
        growth = replace(growth, exponent=growth.exponent.drifting(FRESH if price.is_whole else DRIFTS, -FALLS))
    by_work = _among_work(growth, work)
    rising = [fit for fit in growth.candidates if growth.exponent.allows(fit.cost, growth.at)]
    above = [fit for fit in rising if fit.order.rank > parse(work.order).rank]
    if price.says == "elsewhere":
        if not by_work and price.is_whole and price.seconds.min() >= PRICE_LEAST:
            # Larger inputs may be done in a better way, as by several processors, while that is to be had: so time may
            # rise more slowly than the work for a while, whose order stays open.
            rest = [(fit, weight * (1 - FASTER)) for fit, weight in growth.plausible]
            return _with(growth, [*rest, (_simple(growth, work.order), FASTER)]), price
        if not _is_counted(work, growth.at) or price.seconds.min() < PRICE_LEAST:
            return growth, price
    if by_work and (price.says in ("work", "elsewhere") or not above):
        return _with(growth, by_work), price
    if not above:
        return (_with(growth, weighed(rising)) if rising else replace(growth, is_law=False)), price
    hidden = weighed(above)
    if price.says == "hidden" or not by_work:
        return _with(growth, hidden), price
    # Neither is sure: both are said.
    both: dict[str, tuple[Fit, float]] = {}
    for fit, weight in (*by_work, *hidden):
        known = both.get(str(fit.order), (fit, 0.0))
        both[str(fit.order)] = known[0], known[1] + weight / 2
    ranked = sorted(both.values(), key=lambda each: -each[1])
    return _with(growth, [each for each in ranked if each[1] > 0]), price


def _is_counted(work: Work, sizes: Floats) -> bool:
    """Whether work was counted up to near the largest of the sizes that were timed, shape (m,)."""
    return bool(work.sizes[1] >= COUNTED * sizes[-1])


def _is_exact(work: Work) -> bool:
    """Whether formulas give every count, of each kind that matters."""
    return work.exact is not None or (bool(work.carriers) and all(each.exact is not None for each in work.carriers))


def _among_work(growth: Growth, work: Work) -> list[tuple[Fit, float]]:
    """The orders that work leaves open and that rise as the times do, weighed by both."""
    known = {str(fit.order): fit for fit in growth.candidates}
    fits = {name: known.get(name) or _simple(growth, name) for name, _ in work.plausible}
    fits = {name: fit for name, fit in fits.items() if growth.exponent.allows(fit.cost, growth.at)}
    if not fits:
        return []
    best = min(fit.score for fit in fits.values())
    weights = {
        name: weight * math.exp(-(fits[name].score - best) / (2 * TEMPER))
        for name, weight in work.plausible
        if name in fits
    }
    most, total = max(weights.values()), sum(weights.values())
    ranked = sorted(weights.items(), key=lambda each: -each[1])
    return [(fits[name], weight / total) for name, weight in ranked if weight >= SHARE * most]


def _simple(growth: Growth, name: str) -> Fit:
    """A law of one term through the middle of the costs; it says nothing for itself."""
    order = parse(name)
    shapes = np.array([order.log_value(float(size)) for size in growth.at])
    off = growth.level.typical - shapes
    miss = np.abs(np.expm1(off - median_of(off)))
    worst = max((fit.score for fit in growth.candidates), default=0.0)
    scale = math.exp(max(median_of(off), -700.0))
    return Fit(order, 0.0, 0.0, scale, median_of(miss), worst, None, float(np.log1p(miss).max()))


def _with(growth: Growth, plausible: list[tuple[Fit, float]]) -> Growth:
    """Growth with another first choice; what would tell orders apart is no longer asked where one is left."""
    advice = "" if len(plausible) == 1 else advice_for(growth.at, growth.level.own, tuple(plausible))
    regimes = growth.regimes
    if str(plausible[0][0].order) != growth.order and len(regimes) < 2:
        regimes = tuple(replace(each, order=str(plausible[0][0].order)) for each in regimes)
    elif str(plausible[0][0].order) != growth.order:
        last = replace(regimes[-1], start=regimes[0].start, order=str(plausible[0][0].order))
        regimes = (last,)
    first = plausible[0][0]
    return replace(growth, best=first, plausible=tuple(plausible), advice=advice, regimes=regimes, is_law=True)
