"""The catalogue: the orders that growth is named by, and their values at sizes."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from ...notation.orders import Order, parse
from ..readings.arrays import Floats
from ..readings.quantiles import log_factorial

ORDERS: dict[str, tuple[float, float]] = {
    "1": (1.0, 1.0),
    "log log n": (0.003, 0.05),
    "log n": (1.0, 1.0),
    "log^2 n": (0.008, 0.04),
    "sqrt n": (0.3, 0.3),
    "n": (1.0, 1.0),
    "n log log n": (0.0, 0.001),
    "n log n": (0.6, 1.0),
    "n log^2 n": (0.008, 0.02),
    "n^1.5": (0.2, 0.3),
    "n^1.585": (0.01, 0.15),
    "n^2 / log n": (0.0, 0.001),
    "n^2": (1.0, 1.0),
    "n^2 log n": (0.2, 0.3),
    "n^2.807": (0.003, 0.05),
    "n^3": (0.7, 1.0),
    "n^3 log n": (0.005, 0.05),
    "n^4": (0.0, 0.3),
    "1.618^n": (0.1, 0.3),
    "2^n": (0.7, 1.0),
    "n 2^n": (0.1, 0.1),
    "3^n": (0.0, 0.1),
    "n!": (0.5, 0.3),
}
"""The orders that growth is named by, from slow to fast, and how common each is among programs: where time names it,
and where counted work does. A rare one needs better evidence, and time more than work, since noise and caches bend it.
Time does not look for what has 0."""
COMMON_TIMED = {order: common for order, (common, _) in ORDERS.items() if common}
COMMON_COUNTED = {order: common for order, (_, common) in ORDERS.items()}
RARE_TIMED, RARE_COUNTED = 0.01, 0.003  # how common any other order is

CATALOGUE: tuple[Order, ...] = tuple(map(parse, COMMON_TIMED))
BASE_NEAR, BASE_ABOUT = 0.05, 0.15  # relative, of the logarithms of two bases: one is the other, or may well be
NAMED_BASES = (1.4142, 1.5, 1.618, *map(float, range(2, 11)))


def nearest(order: Order, within: float = BASE_NEAR) -> Order:
    """The order with a name that is nearest to a free power or base: powers by halves, bases that recursions have.

    A base that is far from all of them, farther than `within` of its logarithm, stays as it is.

    >>> str(nearest(parse("n^4.35"))), str(nearest(parse("3.14^n"))), str(nearest(parse("1.4656^n")))
    ('n^4.5', '3^n', '1.466^n')
    """
    if order.base is None:
        return Order(power=round(2 * order.power) / 2)
    base = order.base
    near = min(NAMED_BASES, key=lambda named: abs(math.log(named / base)))
    return Order(base=near) if abs(math.log(near) / math.log(base) - 1) < within else order


def log_values(order: Order, sizes: Floats) -> Floats:
    """The natural logarithm of the order's value at each size, shape (m,): `Order.log_value` for many sizes."""
    return np.asarray(log_table((order,), sizes)[0], dtype=np.float64)


def log_table(orders: Sequence[Order], sizes: Floats) -> Floats:
    """The same for k orders, shape (k, m)."""
    powers = [(each.power, each.logs, each.loglogs, math.log(each.base or 1.0)) for each in orders]
    values = np.array(powers) @ _parts(np.asarray(sizes, dtype=np.float64).tobytes())
    for at, order in enumerate(orders):
        if order.factorial:
            values[at] = log_factorial(sizes)
    return np.asarray(values, dtype=np.float64)


@lru_cache(maxsize=64)
def _parts(sizes: bytes) -> Floats:
    """What the logarithm of any order is made of, at some sizes, shape (4, m). Series of a study share sizes."""
    n = np.frombuffer(sizes)
    logs = np.log2(np.maximum(n, 2.0))
    return np.stack([np.log(np.maximum(n, 1e-9)), np.log(logs), np.log(np.log2(np.maximum(logs, 2.0))), n])


def shape(order: Order, sizes: Floats) -> Floats:
    """The order's value at each size, relative to that at the largest, shape (m,); never zero.

    Taken relative, so that 2^n and n! stay within what a float holds.
    """
    logs = log_values(order, sizes)
    return np.asarray(np.exp(np.maximum(logs - logs[-1], -600.0)), dtype=np.float64)
