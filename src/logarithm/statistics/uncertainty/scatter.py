"""Scatter: by how much neighbouring sizes lie apart beyond what their errors and any smooth curve explain.

A parabola follows any smooth curve through four neighbouring sizes. What is left of them over the parabola that fits
best has one degree of freedom, and a variance that their errors foretell; so its square over that variance says by how
much the errors are too small (differences of neighbours as a measure of error: von Neumann, Annals of Mathematical
Statistics 12, 1941, 367-395; Hall, Kay and Titterington, Biometrika 77, 1990, 521-528). A size is in up to four such
windows. The quieter half of them speaks: a jump, from which on costs are others, is no scatter, and has quiet windows
on either side. But no size is surer than the middle one of all windows allows: where costs scatter, most say so.
"""

from __future__ import annotations

import math

import numpy as np

from ..readings.arrays import Floats, median_of

WINDOW = 4
QUIETER = np.array([1.0, 1.0, 0.585, 0.62, 0.375])
"""Of so many windows, from none on, what the mean of the quieter half is where errors are right, by simulation."""
NORMAL_MEDIAN = 0.4549  # the median of a squared normal variable
COMMON_FREEDOM = 2.0  # how much what is common to all sizes counts, in windows
TOLD_FREEDOM = 2.0  # how much it counts, in windows, that errors are told rightly


def excess(x: Floats, values: Floats, variances: Floats, widest: float = math.inf) -> Floats:
    """By how much the variance of each size exceeds what is told, shape (m,), never less than 1.

    Args:
        x: rising positions, shape (m,).
        values: what was seen at them, shape (m,).
        variances: what is told of each one's own error, shape (m,).
        widest: a window that is wider than this says nothing, since no parabola follows a smooth curve so far.

    >>> x, even = np.arange(8.0), np.full(8, 0.01**2)
    >>> float(excess(x, 0.3 * x**2, even).max())
    1.0
    >>> bool((excess(x, np.array([0, 1, 0, 1, 0, 1, 0, 1.0]), even) > 1000).all())
    True
    """
    if len(x) < WINDOW:
        return np.ones_like(x)
    at = np.arange(len(x) - WINDOW + 1)[:, None] + np.arange(WINDOW)
    speaks = x[at[:, -1]] - x[at[:, 0]] <= widest
    windows = np.count_nonzero(speaks)
    if not windows:
        return np.ones_like(x)
    apart = x[at] - x[at].mean(axis=1, keepdims=True)
    apart /= np.abs(apart).max(axis=1, keepdims=True)
    # What is at right angles to every parabola: the weights of the third divided difference.
    weights = 1 / (apart[:, :, None] - apart[:, None, :] + np.eye(WINDOW)).prod(axis=2)
    left = (weights * values[at]).sum(axis=1) ** 2
    ratio = left / np.maximum((weights**2 * variances[at]).sum(axis=1), 1e-300)
    # The windows around each size, those that say something first, the quietest before the others.
    around = np.full((len(x), WINDOW), np.nan)
    for place in range(WINDOW):
        around[place : place + len(ratio), place] = np.where(speaks, ratio, np.nan)
    around.sort(axis=1)
    many = np.isfinite(around).sum(axis=1)
    quieter = (many + 1) // 2
    total = np.where(np.arange(WINDOW) < quieter[:, None], around, 0.0).sum(axis=1)
    common = median_of(ratio[speaks]) / NORMAL_MEDIAN
    common = max((common * windows + TOLD_FREEDOM) / (windows + TOLD_FREEDOM), 1.0)
    # Where no window says anything, what is common does.
    own = np.where(many > 0, total / np.maximum(quieter, 1) / QUIETER[many], 1.0)
    moderated = (own + COMMON_FREEDOM * common) / (1 + COMMON_FREEDOM)
    return np.asarray(np.maximum(moderated, common), dtype=np.float64)


def freedom_of(sizes: int) -> float:
    """How many degrees of freedom the scatter of so many sizes has: half of the windows, as these overlap."""
    return max((sizes - WINDOW + 1) / 2, 1.0)
