"""Growth: which order describes how a cost rises with size, and which others cannot be ruled out.

The model is a sum of a fixed cost, for steep orders a linear part, and a leading term, none of them negative:

    cost(n) = a + c n + b f(n)        a, c ≥ 0, b > 0

Real costs stray from any law: caches fill, memory is asked for in larger pieces, small numbers are cheaper than
large ones. They do so slowly, alike at neighbouring sizes. So the logarithm of cost over law is taken as noise
of its own at each size plus a drift, a Gaussian process in log n whose correlation falls off exponentially
(Rasmussen and Williams, Gaussian Processes for Machine Learning, 2006, chapter 4), as in the calibration of
computer models by Kennedy and O'Hagan, Journal of the Royal Statistical Society B 63 (2001), 425-464. How far
it misfit is itself not known; with a scaled inverse chi-squared law for that, the whole becomes a multivariate
Student's t.

The terms are fitted by least squares under that covariance. With so few terms every choice of them can be tried,
and the ones with a negative part are dropped; the best of the rest is the constrained optimum (Lawson and
Hanson, Solving Least Squares Problems, 1974, chapter 23). Candidates are compared by their likelihood, with the
penalty on terms of Hurvich and Tsai, Biometrika 76 (1989), 297-307, and a prior that asks for better evidence
for orders that programs rarely have. The weights are those of Burnham and Anderson, Model Selection and
Multimodel Inference (2002), 2.9.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import ArrayLike

from ...errors import AnalysisError, counted
from ...notation.orders import Order, parse
from ..readings.arrays import Floats, median_of
from ..readings.series import NONE, low
from ..uncertainty.level import Level, exact_level, level_of
from .candidates import Costs, Fit, fits, plain_score
from .catalogue import BASE_ABOUT, CATALOGUE, nearest
from .exact import Exact
from .exponent import FREEDOM, SIZES_LEAST, Exponent, slope_of_order, tail_exponent
from .regimes import MISFIT_MOST, SIDE_LEAST, Stretch, kink, stretches

LINEAR_BENDS = 0.5  # by so much, at most, a linear part may bend the slope of a law down
STEP_TOLD, STEP_ERRORS = 0.25, 4.0  # in the logarithm of the cost, and in errors of a size
TEMPER = 4.0  # evidence counts for less: drifts of neighbours are more alike than any covariance says
RULED_OUT = 8.0  # an order whose score is so much higher than the best one's is ruled out
NAMED_WORTH = 6.0  # a base that recursions have may score so much higher than one that is free
FREE_MISS = 0.08  # a free power is only looked for where the best named order typically misses by this share
QUICK = 0.1  # noise delays and never hurries: of the trials at a size, the tenth from below says most of its law
SIZES_FEW, NARROW, UNSURE, TELLING = 6, 10.0, 0.1, 0.3
# a size is within reach where it is no larger, and a call no dearer, than so many times the last
MISFIT_FAR, DEAR = 64.0, 200.0


@dataclass(frozen=True, slots=True)
class Growth:
    """How a cost grows.

    Attributes:
        best: the first choice.
        plausible: (candidate, weight), the first choice first; what weights lack of 1 is for all others together.
        exponent: the slope of log cost over log size at the upper end.
        sizes: smallest and largest size that this rests on.
        regimes: the ranges of sizes over which one law holds, by rising size.
        candidates: every order that was tried, by rising score.
        at: the sizes above a kink, shape (m,), with the `level` of the logarithms of costs at them.
        advice: what would make the answer surer; empty where nothing need.
        exact: the formula that gives every count, where there is one.
        is_law: whether any order that was tried rises as the costs do; else none is to be named.

    """

    best: Fit
    plausible: tuple[tuple[Fit, float], ...]
    exponent: Exponent
    sizes: tuple[float, float]
    at: Floats
    level: Level
    regimes: tuple[Stretch, ...] = ()
    candidates: tuple[Fit, ...] = ()
    advice: str = ""
    exact: Exact | None = None
    is_law: bool = True

    def cost(self, sizes: Floats) -> Floats:
        """The cost at sizes of shape (k,), by the exact formula where there is one."""
        if self.exact is None:
            return self.best.cost(sizes)
        return np.array([float(self.exact.at(round(float(size)))) for size in sizes])

    @property
    def since(self) -> float:
        """The size from which on the first choice describes the cost: above a kink, if there is one."""
        return self.regimes[-1].start if len(self.regimes) > 1 and self.regimes[-2].why == "kink" else self.sizes[0]

    @property
    def order(self) -> str:
        """The first choice as it is spelled."""
        return str(self.best.order)


def fit_growth(
    sizes: ArrayLike,
    costs: ArrayLike,
    also: Sequence[str] = (),
    level: Level | None = None,
    may_begin: bool = False,
) -> Growth:
    """Name the order of growth of costs over sizes.

    Args:
        sizes: shape (m,), at least four different positive ones.
        costs: shape (m,), or (m, h) with h repetitions of each size, NaN where one is missing; in any unit.
        also: orders to try beside those of the catalogue.
        level: of the logarithms of costs at the sizes, rising; without it each repetition stands for itself.
        may_begin: whether growth may begin at a kink, as b (f(n) - f(n₀)): then its fixed part is less than nothing. So
            numbers beyond 256 take memory, and smaller ones take none.

    Raises:
        AnalysisError: where the numbers cannot be used, or are too few.

    >>> tides = [8, 16, 32, 64, 128, 256]
    >>> fit_growth(tides, [3 + 2 * n * n for n in tides]).order
    'n^2'

    """
    x, table = _checked(sizes, costs)
    orders = [*CATALOGUE, *(order for order in map(parse, also) if order not in CATALOGUE)]
    return _fitted(x, table, level or _level(table), orders, may_begin, has_begun=False)


def _fitted(
    x: Floats, table: Floats, level: Level, orders: Sequence[Order], may_begin: bool, has_begun: bool
) -> Growth:
    """The growth of costs over rising sizes; above a kink, growth `has_begun` where it may."""
    if len(x) < SIZES_LEAST:
        raise AnalysisError(f"{_few(len(x), 'too few')} to name growth: measure at least {SIZES_LEAST}")
    typical, error = np.exp(level.typical), level.own
    y = low(table, QUICK)
    raised = math.exp(median_of(np.log(typical / y)))
    series = Costs.of(x, y, error)
    named = fits(orders, series, has_begun=has_begun)
    if not named:
        raise AnalysisError("no order of growth describes these costs")
    if named[0].misfit > MISFIT_MOST:
        found = kink(x, y, series.whiten, FREEDOM, plain_score(named[0], series))
        if found is not None and _is_sure(x, y, error, orders):
            # What holds at the upper end is what growth is called by.
            above = slice(found.index, None)
            upper = _fitted(x[above], table[above], level.at(above), orders, may_begin, has_begun=may_begin)
            lower = stretches(x, upper.order, 0.0, y, None, found)
            return replace(upper, sizes=(float(x[0]), float(x[-1])), regimes=lower)
    exponent = tail_exponent(x, y, error)
    free = _free(series, named, exponent)
    # The law is that of quick moments; what it costs is told as it typically is.
    candidates = [fit.times(raised) for fit in sorted([*named, *free], key=_score)]
    fitting = [fit for fit in candidates if exponent.allows(fit.cost, x) and _leads(fit, exponent, x)]
    plausible = tuple(weighed(fitting or candidates))
    first = plausible[0][0]
    # A step that noise could make is part of the curve, but is not told.
    told = first.step is not None and math.log1p(first.step[1]) > STEP_TOLD + STEP_ERRORS * median_of(error)
    step = first.step[0] if first.step is not None and told else None
    parts = stretches(x, str(first.order), first.fixed, first.cost(x), step, None)
    ends = float(x[0]), float(x[-1])
    advice = advice_for(x, error, plausible)
    return Growth(first, plausible, exponent, ends, x, level, parts, tuple(candidates), advice, is_law=bool(fitting))


def _leads(fit: Fit, exponent: Exponent, x: Floats) -> bool:
    """Whether growth may be called by a law's leading term: where a linear part bends it, not much less is seen."""
    return not fit.linear or slope_of_order(fit.order, x) <= exponent.law_high + LINEAR_BENDS


def _is_sure(x: Floats, y: Floats, error: Floats, orders: Sequence[Order]) -> bool:
    """Whether no single law fits without any one of the sizes: one that is far off makes no kink."""
    if len(x) <= 2 * SIDE_LEAST:
        return False
    for left in range(len(x)):
        kept = np.arange(len(x)) != left
        singles = fits(orders, Costs.of(x[kept], y[kept], error[kept]))
        if any(fit.misfit <= MISFIT_MOST for fit in singles):
            return False
    return True


def ratio_of(one: Growth, other: Growth) -> Callable[[Floats], Floats]:
    """The logarithm of the ratio of two fitted costs, as a function of sizes of shape (k,)."""

    def ratio(sizes: Floats) -> Floats:
        costs = [growth.cost(sizes) for growth in (one, other)]
        none = ((costs[0] <= 0) | (costs[1] <= 0)) * NONE
        return np.asarray(np.log(costs[0] + none) - np.log(costs[1] + none), dtype=np.float64)

    return ratio


def weighed(candidates: Sequence[Fit]) -> list[tuple[Fit, float]]:
    """Of candidates by rising score those that cannot be ruled out, with their weights among all of them."""
    best = candidates[0].score
    weights = [math.exp(-(fit.score - best) / (2 * TEMPER)) for fit in candidates]
    total = sum(weights)
    pairs = zip(candidates, weights, strict=True)
    return [(fit, weight / total) for fit, weight in pairs if fit.score - best <= RULED_OUT]


def advice_for(x: Floats, error: Floats, plausible: tuple[tuple[Fit, float], ...]) -> str:
    """What would make the answer surer: more sizes, a wider range, less noise, or the size that tells orders apart."""
    told = []
    if len(x) < SIZES_FEW:
        told.append(f"{_few(len(x), 'few')}: measure at least {SIZES_FEW}")
    steep = [fit.order for fit, _ in plausible if fit.order.base or fit.order.factorial]
    if x[-1] / x[0] < NARROW and not steep:  # of exponential growth few sizes are within reach
        told.append(f"the sizes span a factor of {x[-1] / x[0]:.2g} only: measure over a factor of {NARROW:g} or more")
    if median_of(error) > UNSURE:
        told.append(f"each cost is uncertain by ± {100 * median_of(error):.0f} %: a longer budget helps")
    if len(plausible) > 1 and not told:
        one, other = sorted((plausible[0][0].order, plausible[1][0].order), key=lambda order: order.rank)
        names, telling = f"{one} from {other}", telling_size(x, plausible)
        if telling is not None:
            told.append(f"measuring up to n = {float(f'{telling:.2g}'):.0f} would tell {names}")
        else:
            told.append(f"no size that can be reached would tell {names}")
    return "; ".join(told)


def telling_size(x: Floats, plausible: Sequence[tuple[Fit, float]]) -> float | None:
    """The size beyond those measured that would tell the two likeliest orders apart; None where none is within reach.

    Args:
        x: the sizes that were measured, rising, shape (m,).
        plausible: orders with their weights, two at least.
    """
    one, other = plausible[0][0], plausible[1][0]
    ahead = x[-1] * np.sqrt(2.0) ** np.arange(1, 21)
    with np.errstate(over="ignore", invalid="ignore", divide="ignore"):
        apart = np.abs(np.log(one.cost(ahead) / other.cost(ahead)))
        costs = one.cost(ahead) / one.cost(x[-1:])[0]
    telling = ahead[(apart > TELLING) & (ahead <= MISFIT_FAR * x[-1]) & (costs <= DEAR)]
    return float(telling[0]) if len(telling) else None


def _few(sizes: int, few: str) -> str:
    return f"{counted(sizes, 'size')} {'is' if sizes == 1 else 'are'} {few}"


def _checked(sizes: ArrayLike, costs: ArrayLike) -> tuple[Floats, Floats]:
    try:
        x = np.asarray(sizes, dtype=np.float64)
        table = np.asarray(costs, dtype=np.float64)
    except (TypeError, ValueError):
        raise AnalysisError("sizes and costs must be numbers, the same number of them in each row") from None
    if not x.size:
        raise AnalysisError(f"there are no sizes: give at least {SIZES_LEAST}, and a cost for each")
    if x.ndim != 1 or table.ndim not in (1, 2) or len(table) != len(x):
        raise AnalysisError(
            "sizes and costs do not match: give a list of sizes, and a cost (or a row of costs) for each"
        )
    table = table.reshape(len(x), -1)
    if not np.isfinite(x).all() or (x <= 0).any():
        raise AnalysisError("every size must be a positive number")
    if np.isinf(table).any() or np.isnan(table).all(axis=1).any():
        raise AnalysisError("every size needs a cost that is a number, and none may be infinite")
    if (table <= 0).any():
        raise AnalysisError("every cost must be more than zero")
    if len(np.unique(x)) != len(x):
        raise AnalysisError("a size is given twice: put its costs into one row")
    rising = np.argsort(x)
    return x[rising], table[rising]


def _level(table: Floats) -> Level:
    """The level at each size where nothing is known of processes; a single cost says nothing of its own error."""
    logs = np.log(table)
    return (
        level_of(logs, np.arange(table.shape[1], dtype=np.int32), False)
        if table.shape[1] > 1
        else exact_level(logs[:, 0])
    )


def _free(series: Costs, named: Sequence[Fit], exponent: Exponent) -> list[Fit]:
    """A free power or exponential, where it describes the costs far better than every named order does.

    The nearest one that has a name takes its place where that rises as the costs do.
    """
    free = _freest(series, named[0])
    if free is None:
        return []
    order = nearest(free.order, BASE_ABOUT)
    near = next((fit for fit in named if fit.order == order), None) or next(iter(fits([order], series, extra=1)), None)
    if near is not None and order != nearest(free.order) and near.score > free.score + NAMED_WORTH:
        return [free]
    if near is None or not exponent.allows(near.cost, series.x):
        return [free]
    return [] if near in named else [near]


def _freest(series: Costs, named: Fit) -> Fit | None:
    if len(series.x) < SIZES_LEAST + 2 or named.miss < FREE_MISS:
        return None
    powers = np.arange(0.06, 6.0, 0.04)
    rates = np.exp(np.linspace(math.log(1e-3), math.log(3.0), 150))
    coarse = fits([Order(power=round(float(power), 3)) for power in powers], series, extra=1, most=1)
    coarse += fits([Order(base=round(math.exp(float(rate)), 4)) for rate in rates], series, extra=1, most=1)
    best = min(coarse, key=_score, default=None)
    if best is None or best.score >= named.score:
        return None
    if best.order.base is not None:
        near = math.log(best.order.base) * np.linspace(0.96, 1.04, 41)
        bases = sorted({float(f"{math.exp(float(rate)):.3g}") for rate in near} - {1.0})
        finer = [Order(base=base) for base in bases]
    else:
        near = np.unique(np.round(best.order.power + np.linspace(-0.04, 0.04, 9), 2))
        finer = [Order(power=round(float(power), 2)) for power in near]
    return next(iter(fits(finer, series, extra=1, most=1)), best)


def _score(fit: Fit) -> float:
    return fit.score
