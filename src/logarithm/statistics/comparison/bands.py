"""Bands: the ratio of two contenders as a smooth curve with its interval, as it is drawn."""

from __future__ import annotations

import numpy as np

from ..readings.arrays import Floats
from .crossover import Axis
from .pair import PairComparison

BETWEEN = 5  # points from one size to the next
POINTS_MOST = 80


def band_of(compared: PairComparison, swapped: bool = False) -> list[list[float]]:
    """The ratio that leads are judged by: at each size with the help of its neighbours, and between sizes.

    Args:
        compared: of two contenders.
        swapped: whether the ratio is that of `other` over `one`.

    Returns:
        [size, ratio, low, high] by rising size, with 95 %; empty for counts, which are exact, and where fewer than 3
        sizes tell.
    """
    if compared.smooth is None or compared.tells.sum() < 3:
        return []
    sizes, smooth = compared.sizes[compared.tells], compared.smooth.at(compared.tells)
    reach = smooth.reach()
    ratio = -smooth.typical if swapped else smooth.typical
    axis = Axis.of(sizes)
    x = axis.positions
    at = np.interp(np.linspace(0, len(x) - 1, min(BETWEEN * (len(x) - 1), POINTS_MOST) + 1), np.arange(len(x)), x)
    curves = monotone(x, np.stack([ratio, ratio - reach, ratio + reach], axis=1), at)
    places = np.exp(at) if axis.is_log else at
    return [[float(n), *map(float, row)] for n, row in zip(places, np.exp(curves), strict=True)]


def monotone(x: Floats, y: Floats, at: Floats) -> Floats:
    """Cubic curves through points, which overshoot nowhere.

    Where a curve rises on both sides of a point, its slope there is the weighted harmonic mean of both; else nothing:
    Fritsch and Butland, SIAM Journal on Scientific and Statistical Computing 5 (1984), 300-304. (SciPy has it too, in a
    package that takes a third of a second to load.)

    Args:
        x: rising, shape (m,).
        y: the points of k curves, shape (m, k).
        at: where they are wanted, within x, shape (g,).

    Returns:
        shape (g, k).

    >>> monotone(np.array([0.0, 1.0, 2.0]), np.array([[0.0], [1.0], [1.0]]), np.array([0.5, 1.0, 1.5])).ravel().tolist()
    [0.625, 1.0, 1.0]
    """
    step = np.diff(x)[:, None]
    secant = np.diff(y, axis=0) / step
    before, after = secant[:-1], secant[1:]
    left, right = 2 * step[1:] + step[:-1], step[1:] + 2 * step[:-1]
    alike = before * after > 0
    safe = [np.where(alike, each, 1.0) for each in (before, after)]
    inner = np.where(alike, (left + right) / (left / safe[0] + right / safe[1]), 0.0)
    slope = np.concatenate([secant[:1], inner, secant[-1:]])
    row = np.clip(np.searchsorted(x, at, side="right") - 1, 0, len(x) - 2)
    t = ((at - x[row]) / step[row, 0])[:, None]
    here, there = y[row], y[row + 1]
    made = here * (1 + 2 * t) * (1 - t) ** 2 + there * t**2 * (3 - 2 * t)
    made += step[row] * (slope[row] * t * (1 - t) ** 2 + slope[row + 1] * t**2 * (t - 1))
    return np.asarray(made, dtype=np.float64)
