"""The one kind of array that analysis works on, and its median."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


def median(values: Floats) -> Floats:
    """The median along the last axis, NaN left out; NaN where there is nothing else.

    By sorting, which puts NaN last: far quicker over many short rows than NumPy's own, and silent.
    """
    ranked = np.sort(values, axis=-1)
    count = np.isfinite(ranked).sum(axis=-1)
    low, high = np.maximum((count - 1) // 2, 0), np.maximum(count // 2, 0)
    pick = np.stack([low, np.minimum(high, ranked.shape[-1] - 1)], axis=-1)
    return np.asarray(np.take_along_axis(ranked, pick, axis=-1).mean(axis=-1), dtype=np.float64)
