"""Bands: the ratio of two contenders as a smooth curve with its interval, as it is drawn."""

from __future__ import annotations

import numpy as np

from .duel import Duel

BETWEEN = 5  # points from one size to the next
POINTS_MOST = 80


def band_of(duel: Duel, swapped: bool = False) -> list[list[float]]:
    """The ratio that leads are judged by: at each size with the help of its neighbours, and between sizes.

    Between sizes the logarithms run as monotone cubic curves in log n, which overshoot nowhere: Fritsch and Carlson,
    SIAM Journal on Numerical Analysis 17 (1980), 238-246.

    Args:
        duel: of two contenders.
        swapped: whether the ratio is that of `other` over `one`.

    Returns:
        [size, ratio, low, high] by rising size, with 95 %; empty for counts, which are exact, and fewer than 3 sizes.
    """
    if duel.smooth is None or len(duel.sizes) < 3:
        return []
    from scipy.interpolate import PchipInterpolator

    sizes, reach = duel.sizes, duel.smooth.reach()
    ratio = -duel.smooth.typical if swapped else duel.smooth.typical
    x = np.log(sizes) if sizes[0] > 0 else sizes
    at = np.interp(np.linspace(0, len(x) - 1, min(BETWEEN * (len(x) - 1), POINTS_MOST) + 1), np.arange(len(x)), x)
    curves = PchipInterpolator(x, np.stack([ratio, ratio - reach, ratio + reach], axis=1))(at)
    places = np.exp(at) if sizes[0] > 0 else at
    return [[float(n), *map(float, row)] for n, row in zip(places, np.exp(curves), strict=True)]
