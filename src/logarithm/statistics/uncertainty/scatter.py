"""Scatter: by how much neighbouring sizes lie apart beyond what their errors and any smooth curve explain.

A parabola follows any smooth curve through four neighbouring sizes. What is left of them over the parabola that fits
best has one degree of freedom, and a variance that their errors foretell; so its square over that variance says by how
much the errors are too small. Each size takes that of the windows it is in, as much of each as it weighs there, and
what is common to all sizes counts as two more (differences of neighbours as a measure of error: von Neumann, Annals of
Mathematical Statistics 12, 1941, 367-395; Hall, Kay and Titterington, Biometrika 77, 1990, 521-528).
"""

from __future__ import annotations

import numpy as np

from ..arrays import Floats

WINDOW = 4
COMMON_FREEDOM = 2.0  # how much what is common to all sizes counts, in windows
NOTHING_FREEDOM = 2.0  # how much it counts, in windows, that errors are told rightly
NORMAL_MEDIAN = 0.4549  # the median of a squared normal variable


def excess(x: Floats, values: Floats, variances: Floats) -> Floats:
    """By how much the variance of each size exceeds what is told, shape (m,), never less than 1.

    Args:
        x: rising positions, shape (m,).
        values: what was seen at them, shape (m,).
        variances: what is told of each one's own error, shape (m,).

    >>> x, even = np.arange(8.0), np.full(8, 0.01**2)
    >>> float(excess(x, 0.3 * x**2, even).max())
    1.0
    >>> bool((excess(x, np.array([0, 1, 0, 1, 0, 1, 0, 1.0]), even) > 1000).all())
    True
    """
    windows = len(x) - WINDOW + 1
    if windows < 1:
        return np.ones_like(x)
    at = np.arange(windows)[:, None] + np.arange(WINDOW)
    apart = x[at] - x[at].mean(axis=1, keepdims=True)
    apart /= np.abs(apart).max(axis=1, keepdims=True)
    # What is at right angles to every parabola: the last of the left singular vectors.
    weights = np.linalg.svd(np.stack([np.ones_like(apart), apart, apart**2], axis=2))[0][:, :, -1]
    left = (weights * values[at]).sum(axis=1) ** 2
    ratio = left / np.maximum((weights**2 * variances[at]).sum(axis=1), 1e-300)
    common = max(
        1.0, (float(np.median(ratio)) / NORMAL_MEDIAN * windows + NOTHING_FREEDOM) / (windows + NOTHING_FREEDOM)
    )
    total, count = np.zeros_like(x), np.zeros_like(x)
    np.add.at(total, at, weights**2 * ratio[:, None])
    np.add.at(count, at, weights**2)
    return np.asarray(np.maximum((total + COMMON_FREEDOM * common) / (count + COMMON_FREEDOM), 1.0), dtype=np.float64)
