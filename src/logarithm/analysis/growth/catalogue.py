"""The catalogue: the orders that growth is named by, and their values at sizes."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from scipy.special import gammaln

from ...notation.orders import Order, parse

Floats = NDArray[np.float64]

CATALOGUE: tuple[Order, ...] = tuple(
    parse(text) for text in ("1", "log n", "sqrt n", "n", "n log n", "n^1.5", "n^2", "n^2 log n", "n^3", "2^n", "n!")
)


def log_values(order: Order, sizes: Floats) -> Floats:
    """The natural logarithm of the order's value at each size, shape (m,): `Order.log_value` for many sizes."""
    if order.factorial:
        return np.asarray(gammaln(sizes + 1), dtype=np.float64)
    if order.base is not None:
        return sizes * math.log(order.base)
    values = order.power * np.log(np.maximum(sizes, 1e-9))
    return values + order.logs * np.log(np.log2(np.maximum(sizes, 2.0))) if order.logs else values


def shape(order: Order, sizes: Floats) -> Floats:
    """The order's value at each size, relative to that at the largest, shape (m,); never zero.

    Taken relative, so that 2^n and n! stay within what a float holds.
    """
    logs = log_values(order, sizes)
    return np.asarray(np.exp(np.maximum(logs - logs[-1], -600.0)), dtype=np.float64)
