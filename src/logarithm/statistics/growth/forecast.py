"""Forecasts: what a size not measured will cost, or which size a time allows, with how sure that is."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtri

from ...errors import AnalysisError
from ..uncertainty.paths import ahead
from .fit import Growth

FORECAST_SIZE_MOST = 1e18
HALVINGS_MOST = 4000
FACTOR_MOST = 1000.0
NORMAL_95 = float(ndtri(0.975))


@dataclass(frozen=True, slots=True)
class Forecast:
    """A value with its 95 % interval; `beyond` is how many times as large as the largest measured size it lies."""

    value: float
    low: float
    high: float
    beyond: float


def cost_at(growth: Growth, size: float) -> Forecast:
    """The cost at a size.

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
    low, value, high = _band(growth, np.array([size]))
    return Forecast(float(value[0]), float(low[0]), float(high[0]), size / growth.sizes[1])


def size_within(growth: Growth, cost: float) -> Forecast | None:
    """The largest size whose cost stays within `cost`; None where no size does.

    The interval is where the band around the forecast cost crosses it. Where cost does not rise, the size is
    without bound, and infinite.
    """
    at = np.geomspace(1.0, FORECAST_SIZE_MOST, HALVINGS_MOST)
    with np.errstate(over="ignore"):
        low, value, high = _band(growth, at)
    ends = [_last_within(at, curve, cost) for curve in (high, value, low)]
    if ends[1] is None:
        return None
    pessimist, size, optimist = (end if end is not None else 0.0 for end in ends)
    return Forecast(size, pessimist, optimist, size / growth.sizes[1])


def crossing_beyond(one: Growth, other: Growth, end: float) -> Forecast | None:
    """The size beyond `end` at which the fitted costs cross; None where they do not within a factor of 1000.

    `end` is the largest size that both were measured at. The interval is where the bands around the two costs
    overlap; its upper end is infinite where they still do at the end of that range.
    """
    at = np.geomspace(end, FACTOR_MOST * end, HALVINGS_MOST)
    low_one, value_one, high_one = _band(one, at)
    low_other, value_other, high_other = _band(other, at)
    is_ahead = value_one[0] < value_other[0]
    flips = np.flatnonzero((value_one < value_other) != is_ahead)
    if not len(flips):
        return None
    # From the first size at which the bands touch, to the first at which the other is surely ahead.
    touch = (high_one >= low_other) if is_ahead else (high_other >= low_one)
    past = (low_one > high_other) if is_ahead else (low_other > high_one)
    size = float(at[flips[0]])
    surely = np.flatnonzero(past & (at > size))
    high = float(at[surely[0]]) if len(surely) else math.inf
    return Forecast(size, float(at[np.flatnonzero(touch)[0]]), high, size / end)


def may_cross(one: Growth, other: Growth, end: float) -> bool:
    """Whether any two plausible orders of the two cross beyond `end`."""
    at = np.geomspace(end, FACTOR_MOST * end, 40)
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
