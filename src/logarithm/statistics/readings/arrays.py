"""The one kind of array that analysis works on, its medians and quantiles."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


def median(values: Floats) -> Floats:
    """The median along the last axis, NaN left out; NaN where there is nothing else.

    By sorting, which puts NaN last: far quicker over many short rows than NumPy's own, and silent.
    """
    return np.asarray(quantiles(values, (0.5,))[0], dtype=np.float64)


def quantiles(values: Floats, shares: Sequence[float]) -> Floats:
    """Quantiles along the last axis, in the same way: on the straight line between two ranks.

    Args:
        values: of shape (..., h).
        shares: k of them, from 0 to 1.

    Returns:
        shape (k, ...).

    >>> quantiles(np.array([[3.0, 1.0, 2.0, np.nan], [8.0, 4.0, 6.0, 2.0]]), (0.5, 1.0)).tolist()
    [[2.0, 5.0], [3.0, 8.0]]
    """
    ranked = np.sort(values, axis=-1)
    last = np.maximum(np.isfinite(ranked).sum(axis=-1) - 1, 0)
    at = np.multiply.outer(shares, last)
    low = at.astype(np.intp)
    part, high = at - low, np.minimum(low + 1, last)
    rows = np.indices(last.shape, sparse=True)
    return np.asarray((1 - part) * ranked[(*rows, low)] + part * ranked[(*rows, high)], dtype=np.float64)


def median_of(values: Sequence[float] | Floats) -> float:
    """The median of numbers of shape (m,), none of them NaN; of few, it takes a tenth of the time of NumPy's own."""
    ranked, half = np.sort(values), (len(values) - 1) // 2
    return float(ranked[half] + ranked[len(values) // 2]) / 2
