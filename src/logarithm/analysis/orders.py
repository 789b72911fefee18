"""The catalogue: the orders that growth is named by, and their values at sizes."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..orders import Order, parse

Floats = NDArray[np.float64]

CATALOGUE: tuple[Order, ...] = tuple(
    parse(text) for text in ("1", "log n", "sqrt n", "n", "n log n", "n^1.5", "n^2", "n^2 log n", "n^3", "2^n", "n!")
)


def shape(order: Order, sizes: Floats) -> Floats:
    """The order's value at each size, relative to that at the largest, shape (m,); never zero.

    Taken relative, so that 2^n and n! stay within what a float holds.
    """
    logs = np.array([order.log_value(float(size)) for size in sizes])
    return np.asarray(np.exp(np.maximum(logs - logs[-1], -600.0)), dtype=np.float64)


def unit(order: Order, size: float) -> float:
    """The natural logarithm of the order's value at one size."""
    return order.log_value(size)
