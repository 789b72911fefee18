"""Forecasts: what a size not measured will cost, or which size a time allows, with how sure that is."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ...errors import AnalysisError
from ...results.tasks.forecast import FAR, NONE_FITS, REACH, VAGUE
from ..readings.quantiles import normal_quantile
from ..uncertainty.paths import ahead
from .fit import Growth

WIDE = 100.0  # a forecast whose ends lie farther apart than so many times says nothing
STEPS = 600  # of a range of sizes that is looked through
NORMAL_95 = normal_quantile(0.975)


@dataclass(frozen=True, slots=True)
class Forecast:
    """A value with its 95 % interval; `beyond` is how many times as large as the largest measured size it lies."""

    value: float
    low: float
    high: float
    beyond: float


def cost_at(growth: Growth, size: float) -> Forecast | str:
    """The cost at a size; or why there is no forecast of it.

    Every plausible order gives a forecast of its own; the interval spans them all, and widens with the distance
    beyond the sizes that were measured, as costs drift from any law.

    Args:
        growth: what was found.
        size: positive.

    Raises:
        AnalysisError: where the size is not positive.
    """
    if not (size > 0 and math.isfinite(size)):
        raise AnalysisError(f"{size:g} is not a size to forecast: it must be more than 0")
    beyond = size / growth.sizes[1]
    if beyond > REACH and growth.exact is None:
        return FAR
    low, value, high = (float(end[0]) for end in _band(growth, np.array([size])))
    if not math.isfinite(high) or high > WIDE * max(low, 1e-300):
        return VAGUE
    return Forecast(value, low, high, beyond)


def size_within(growth: Growth, cost: float) -> Forecast | str:
    """The largest size whose cost stays within `cost`, up to ten times the largest one measured; or why there is none.

    The interval is where the band around the forecast cost crosses it; what is infinite lies beyond that reach.
    """
    at = np.geomspace(min(1.0, growth.sizes[0]), REACH * growth.sizes[1], STEPS)
    low, value, high = _band(growth, at)
    pessimist, size, optimist = (_last_within(at, curve, cost) for curve in (high, value, low))
    if size is None or pessimist is None:
        return NONE_FITS if size is None else VAGUE
    if math.isinf(size):
        return Forecast(float(at[-1]), min(pessimist, float(at[-1])), math.inf, REACH)
    return Forecast(size, pessimist, math.inf if optimist is None else optimist, size / growth.sizes[1])


def crossing_beyond(one: Growth, other: Growth, end: float) -> Forecast | None:
    """The size beyond `end` at which the fitted costs cross; None where they do not within ten times of it.

    `end` is the largest size that both were measured at. The interval is where the bands around the two costs
    overlap; where these do not come apart again, nothing is forecast.
    """
    at = np.geomspace(end, REACH * REACH * end, STEPS)
    low_one, value_one, high_one = _band(one, at)
    low_other, value_other, high_other = _band(other, at)
    is_ahead = value_one[0] < value_other[0]
    flips = np.flatnonzero((value_one < value_other) != is_ahead)
    if not len(flips) or at[flips[0]] > REACH * end:
        return None
    # From the first size at which the bands touch, to the first at which the other is surely ahead.
    touch = (high_one >= low_other) if is_ahead else (high_other >= low_one)
    past = (low_one > high_other) if is_ahead else (low_other > high_one)
    size = float(at[flips[0]])
    surely = np.flatnonzero(past & (at > size))
    if not len(surely):
        return None
    return Forecast(size, float(at[np.flatnonzero(touch)[0]]), float(at[surely[0]]), size / end)


def may_cross(one: Growth, other: Growth, end: float) -> bool:
    """Whether any two plausible orders of the two cross beyond `end`."""
    at = np.geomspace(end, REACH * end, 40)
    ahead = one.cost(at[:1])[0] < other.cost(at[:1])[0]
    laws, rivals = (
        [growth.cost(at)] if growth.exact else [fit.cost(at) for fit, _ in growth.plausible] for growth in (one, other)
    )
    return any(bool(np.any((law < rival) != ahead)) for law in laws for rival in rivals)


def _band(growth: Growth, at: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Lower end, value and upper end of the cost at each size, shape (k,) each."""
    if growth.exact is not None:
        costs = growth.cost(at)
        return costs, costs, costs
    x, grid = np.log(growth.at), np.log(at)
    lows, values, highs = [], [], []
    with np.errstate(over="ignore"):
        for fit, _ in growth.plausible:
            drift, error = ahead(x, growth.level, growth.level.typical - np.log(fit.cost(growth.at)), grid)
            curve = fit.cost(at) * np.exp(drift)
            reach = np.exp(NORMAL_95 * error)
            # Beyond the largest size a cost is no lower than there.
            floor = float(np.exp(growth.level.typical[-1] - NORMAL_95 * growth.level.error[-1])) * (grid > x[-1])
            lows.append(np.maximum(curve / reach, np.minimum(floor, curve)))
            values.append(curve)
            highs.append(curve * reach)
    return np.min(lows, axis=0), values[0], np.max(highs, axis=0)


def _last_within(at: np.ndarray, curve: np.ndarray, cost: float) -> float | None:
    """The size at which a rising curve reaches a cost, between the two steps around it."""
    above = np.flatnonzero(~(curve <= cost))
    if len(above) == 0:
        return math.inf
    first = int(above[0])
    if first == 0:
        return None
    one, other = curve[first - 1], curve[first]
    if not math.isfinite(other) or other <= one:
        return float(at[first - 1])
    share = (math.log(cost) - math.log(one)) / (math.log(other) - math.log(one))
    return float(at[first - 1] * (at[first] / at[first - 1]) ** min(max(share, 0.0), 1.0))
