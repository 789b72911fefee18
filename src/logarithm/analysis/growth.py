"""Growth: which order describes how a cost rises with size, and which others cannot be ruled out.

The model is a sum of a fixed cost, for steep orders a linear part, and a leading term, none of them negative:

    cost(n) = a + c n + b f(n)        a, c ≥ 0, b > 0

fitted to the typical cost at each size by least squares of the relative error. With so few terms every choice
of them can be tried, and the ones with a negative part are dropped; the best of the rest is the constrained
optimum (Lawson and Hanson, Solving Least Squares Problems, 1974, chapter 23). Candidates are compared by
Akaike's criterion with the correction for few observations: Hurvich and Tsai, Biometrika 76 (1989), 297-307;
their weights are those of Burnham and Anderson, Model Selection and Multimodel Inference (2002), 2.9.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.special import stdtrit

from ..errors import AnalysisError
from ..orders import Order, parse
from .orders import CATALOGUE, shape

Floats = NDArray[np.float64]

SIZES_LEAST = 4
PLAUSIBLE = 0.05  # an order whose weight is below this share of the best one's is ruled out
FREE_GAIN = 20.0  # by how much AICc must fall before a free power or exponential displaces every named order
FREE_MISS = 0.06  # and by how much, relatively, the best named order must typically miss
ALIKE = 2.0  # neighbouring sizes miss a law alike, so this many of them tell as much as one
LEADS = 1.0  # at the largest size a leading term is at least as large as all other parts together
LAWFUL = 0.05  # relative: real costs stray this far from their law (caches, memory, luck of the instance)


@dataclass(frozen=True, slots=True)
class Fit:
    """One candidate fitted: cost(n) = fixed + linear · n + scale · f(n), in the units of the costs."""

    order: Order
    fixed: float
    linear: float
    scale: float
    miss: float
    score: float

    def cost(self, sizes: ArrayLike) -> Floats:
        """The fitted cost at each size, shape like `sizes`."""
        at = np.atleast_1d(np.asarray(sizes, dtype=np.float64))
        with np.errstate(over="ignore"):
            leading = np.exp([self.order.log_value(float(size)) + math.log(max(self.scale, 1e-300)) for size in at])
        return np.asarray(self.fixed + self.linear * at + (leading if self.scale > 0 else 0.0), dtype=np.float64)


@dataclass(frozen=True, slots=True)
class Exponent:
    """The free exponent at the upper end of the sizes, with its 95 % interval."""

    value: float
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class Growth:
    """How a cost grows.

    Attributes:
        best: the first choice.
        plausible: (candidate, weight), the first choice first; weights sum to 1.
        exponent: the slope of log cost over log size at the upper end.
        sizes: smallest and largest size that this rests on.

    """

    best: Fit
    plausible: tuple[tuple[Fit, float], ...]
    exponent: Exponent
    sizes: tuple[float, float]

    @property
    def order(self) -> str:
        """The first choice as it is spelled."""
        return str(self.best.order)


def fit_growth(sizes: ArrayLike, costs: ArrayLike, also: Sequence[str] = ()) -> Growth:
    """Name the order of growth of costs over sizes.

    Args:
        sizes: shape (m,), at least four different positive ones.
        costs: shape (m,), or (m, h) with h repetitions of each size, NaN where one is missing; in any unit.
        also: orders to try beside those of the catalogue.

    Raises:
        AnalysisError: where the numbers cannot be used, or are too few.

    >>> tides = [8, 16, 32, 64, 128, 256]
    >>> fit_growth(tides, [3 + 2 * n * n for n in tides]).order
    'n^2'

    """
    x, table = _checked(sizes, costs)
    y, error = _typical(table)
    orders = [*CATALOGUE, *(order for order in map(parse, also) if order not in CATALOGUE)]
    floor = float(np.mean(error**2)) + LAWFUL**2
    named = [fit for fit in (_fit(order, x, y, floor) for order in orders) if fit is not None]
    named.sort(key=lambda fit: fit.score)
    if not named:
        raise AnalysisError("no order of growth describes these costs")
    free = _free(x, y, floor, named[0])
    candidates = [free, *named] if free is not None else named
    best = candidates[0].score
    weights = [math.exp(-(fit.score - best) / (2 * ALIKE)) for fit in candidates]
    kept = [(fit, weight) for fit, weight in zip(candidates, weights, strict=True) if weight >= PLAUSIBLE]
    total = sum(weight for _, weight in kept)
    plausible = tuple((fit, weight / total) for fit, weight in kept)
    return Growth(candidates[0], plausible, _exponent(x, y, error), (float(x[0]), float(x[-1])))


def _checked(sizes: ArrayLike, costs: ArrayLike) -> tuple[Floats, Floats]:
    x = np.asarray(sizes, dtype=np.float64)
    table = np.asarray(costs, dtype=np.float64)
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
        raise AnalysisError("a size stands there twice: put its costs into one row")
    if len(x) < SIZES_LEAST:
        raise AnalysisError(f"{len(x)} sizes are too few to name growth: measure at least {SIZES_LEAST}")
    rising = np.argsort(x)
    return x[rising], table[rising]


def _typical(table: Floats) -> tuple[Floats, Floats]:
    """The median at each size, and its relative standard error from the median absolute deviation."""
    y = np.nanmedian(table, axis=1)
    count = (~np.isnan(table)).sum(axis=1)
    spread = 1.4826 * np.nanmedian(np.abs(table - y[:, None]), axis=1) / y
    # The median's error is √(π/2) times the mean's, for normal noise.
    return y, np.where(count > 2, 1.2533 * spread / np.sqrt(count), 0.0)


def _fit(order: Order, x: Floats, y: Floats, floor: float, extra: int = 0) -> Fit | None:
    """The best of the candidate's forms: alone, with a fixed cost, and with a linear part where it is steep.

    `extra` counts parameters of the order itself that were fitted too.
    """
    leading = shape(order, x)
    ones, linear = np.ones_like(x), x / x[-1]
    constant = order == Order()
    steep = order.rank > parse("n").rank
    forms = [[leading]] if constant else [[leading], [leading, ones]]
    if steep:
        forms += [[leading, linear], [leading, ones, linear]]
    best: Fit | None = None
    for form in forms:
        columns = np.stack(form, axis=1) / y[:, None]
        weights = np.linalg.lstsq(columns, np.ones_like(y), rcond=None)[0]
        # A leading term that stays below what else there is does not name the growth.
        if (weights <= 0).any() or (len(form) > 1 and weights[0] < LEADS * float(weights[1:].sum())):
            continue
        residual = 1 - columns @ weights
        parts = len(form) + extra
        score = _aicc(float(np.mean(residual**2)) + floor, len(y), parts + 1)
        if best is None or score < best.score:
            coefficient = dict(zip([id(column) for column in form], weights, strict=True))
            scale = math.log(weights[0]) - order.log_value(float(x[-1]))
            best = Fit(
                order=order,
                fixed=float(coefficient.get(id(ones), 0.0)),
                linear=float(coefficient.get(id(linear), 0.0) / x[-1]),
                scale=math.exp(max(scale, -700.0)),
                miss=float(np.median(np.abs(residual))),
                score=score,
            )
    return best


def _aicc(variance: float, count: int, parameters: int) -> float:
    """Akaike's criterion with the correction for few observations; infinite where there are too few."""
    if count - parameters - 1 <= 0:
        return math.inf
    return count * math.log(variance) + 2 * parameters * count / (count - parameters - 1)


def _free(x: Floats, y: Floats, floor: float, named: Fit) -> Fit | None:
    """A free power or exponential, where it describes the costs far better than every named order does."""
    if len(x) < SIZES_LEAST + 2 or named.miss < FREE_MISS:
        return None

    found = []
    for make, low, high in ((_power, 0.05, 6.0), (_exponential, 1e-3, 3.0)):
        value = _lowest(lambda value, make=make: _score(_fit(make(value), x, y, floor, extra=1)), low, high)  # type: ignore[misc]
        fit = _fit(make(value), x, y, floor, extra=1)
        if fit is not None and fit.score < named.score - FREE_GAIN:
            found.append(fit)
    return min(found, key=lambda fit: fit.score, default=None)


def _power(exponent: float) -> Order:
    return Order(power=round(exponent, 3))


def _exponential(log_base: float) -> Order:
    return Order(base=round(math.exp(log_base), 4))


def _score(fit: Fit | None) -> float:
    return math.inf if fit is None else fit.score


def _lowest(function: Callable[[float], float], low: float, high: float) -> float:
    """Where a function is lowest: the best of a grid, then golden sections around it."""
    grid = np.linspace(low, high, 25)
    best = int(np.argmin([function(float(value)) for value in grid]))
    low, high = float(grid[max(best - 1, 0)]), float(grid[min(best + 1, len(grid) - 1)])
    golden = (math.sqrt(5) - 1) / 2
    for _ in range(20):
        left, right = high - golden * (high - low), low + golden * (high - low)
        if function(left) <= function(right):
            high = right
        else:
            low = left
    return (low + high) / 2


def _exponent(x: Floats, y: Floats, error: Floats) -> Exponent:
    """The slope over the upper half of the sizes (on the logarithmic scale), with a 95 % t interval."""
    middle = math.sqrt(float(x[0] * x[-1]))
    top = min(int(np.searchsorted(x, middle)), len(x) - SIZES_LEAST)
    log_x, log_y = np.log(x[top:]), np.log(y[top:])
    deviation = log_x - log_x.mean()
    spread = float(deviation @ deviation)
    slope = float(deviation @ log_y) / spread
    residual = log_y - log_y.mean() - slope * deviation
    free = len(log_x) - 2
    variance = max(float(residual @ residual) / free, float(np.mean(error[top:] ** 2)))
    reach = float(stdtrit(free, 0.975)) * math.sqrt(variance / spread)
    return Exponent(slope, slope - reach, slope + reach)
