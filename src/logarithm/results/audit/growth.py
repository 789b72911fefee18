"""What is said of growth and of claims, held against the costs."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from ...errors import StudyError
from ...notation.orders import parse
from ..base import Interval
from ..findings import ClaimFinding, Costs, GrowthFinding
from .numbers import ROUNDING, SLOPE_ROUNDING, Numbers, ordered

KINK_SIDE = 3
SIZES_LEAST = 4  # for a slope
WEIGHTS_MOST = 1.001


def growth(row: GrowthFinding, numbers: Numbers) -> Iterator[str]:
    """A: the interval. G: the weights. H: the slope of the curve. I: kinks. J: the price of work."""
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
    for segment in row.segments if any(each.why == "kink" for each in row.segments) else ():
        if costs is not None and sum(segment.start <= size <= segment.end for size in _sizes(costs)) < KINK_SIDE:
            yield "I: a law of fewer than three sizes"
    if row.work is not None and min(seconds for _, seconds in row.work.price) <= 0:
        yield "J: work without a price"


def _sizes(costs: Costs) -> list[float]:
    return [float(point.size) for point in costs.points]


def _slope(costs: Costs) -> float | None:
    """The slope of the drawn curve over the upper half of the sizes (on a logarithmic scale), of four points or more.

    None where the curve is drawn over a part of them only.
    """
    curve = np.array(costs.fitted)
    sizes = [size for size in _sizes(costs) if len(curve) and size >= curve[0, 0] * (1 - ROUNDING)]
    if len(sizes) < SIZES_LEAST or (curve <= 0).any():
        return None
    upper = [size for size in sizes if size >= math.sqrt(sizes[0] * sizes[-1])]
    x = np.log(upper if len(upper) >= SIZES_LEAST else sizes[-SIZES_LEAST:])
    y = np.interp(x, np.log(curve[:, 0]), np.log(curve[:, 1]))
    return float(np.polyfit(x - x.mean(), y, 1)[0])


def claim(row: ClaimFinding, numbers: Numbers) -> Iterator[str]:
    """K: its verdict follows from the plausible orders."""
    named = numbers.growths.get(row.key)
    try:
        asked = parse(row.claim).rank
    except StudyError:
        return  # an exact formula is held against each count
    orders = named.plausible if named is not None else []
    if row.metric == "work":
        orders = next(
            (each.work.plausible for each in numbers.findings.growth if each.who == row.who and each.work), orders
        )
    ranks = [parse(each.order).rank for each in orders]
    is_first = bool(orders) and parse(orders[0].order).is_alike(parse(row.claim))
    if row.verdict != "undecided" and not ranks:
        yield "K: a verdict without an order"
    elif row.verdict == "contradicted" and min(ranks) <= asked and (named is None or named.exact is None):
        yield "K: the claim cannot be ruled out"
    elif row.verdict == "holds" and not is_first:
        yield "K: another order comes first"
    elif row.verdict == "slower" and max(ranks) >= asked:
        yield "K: the claim cannot be ruled out"


def _within(interval: Interval) -> bool:
    return ordered(interval.low, interval.value, interval.high) or not math.isfinite(interval.value)
