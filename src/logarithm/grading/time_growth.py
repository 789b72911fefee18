"""Does time, as it is seen from outside, grow faster than is asked? Counts of steps can be got round; this cannot."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from ..notation.orders import parse

OUTSIDE = "outside"  # the metric of the processor's time as it is seen from outside
TELLING = 2e-5  # seconds: shorter calls are mostly not theirs
TIME_SPAN_LEAST = 3.5  # the largest size must be so many times the smallest
STEEPER, TIMES = 0.4, 2.2  # a power of n beyond what is asked, and by how much in all, that no cache explains
DOUBTFUL, TIMES_DOUBTFUL = 0.3, 1.8  # and from which on it is told, though it may have other reasons


def grows_faster(sizes: Sequence[float], seconds: Sequence[float], require: str) -> tuple[float, bool] | None:
    """By which power of n time grows faster than an order, and whether beyond doubt; None where nothing points to it.

    Args:
        sizes: rising.
        seconds: of one call at each, seen from outside, the least of some.
        require: the order that is asked for.

    >>> sizes = [128, 256, 512, 1024]
    >>> grows_faster(sizes, [1e-8 * n * n for n in sizes], "n log n")[1]
    True
    >>> grows_faster(sizes, [1e-7 * n * math.log(n) ** 1.5 for n in sizes], "n log n")
    """
    order = parse(require)
    doubtful: tuple[float, bool] | None = None
    kept = _telling(sizes, seconds)
    # What a call costs whatever the size, such as starting a thread, hides at small sizes how the rest grows.
    for start in range(len(kept) - 2):
        upper = kept[start:]
        if upper[-1][0] < TIME_SPAN_LEAST * upper[0][0]:
            break
        beyond = np.array([math.log(spent) - order.log_value(n) for n, spent in upper])
        slope = float(np.polyfit(np.log([n for n, _ in upper]), beyond, 1)[0])
        rise = beyond[-1] - beyond[0]
        if slope > STEEPER and rise > math.log(TIMES):
            return slope, True
        if slope > DOUBTFUL and rise > math.log(TIMES_DOUBTFUL):
            doubtful = slope, False
    return doubtful


def tells(sizes: Sequence[float], seconds: Sequence[float]) -> bool:
    """Whether calls are long enough, over sizes enough, for their time to tell how it grows; see `grows_faster`."""
    kept = _telling(sizes, seconds)
    # What a call costs whatever the size must not be most of it.
    has_grown = bool(kept) and kept[-1][1] - min(seconds) >= TELLING
    return has_grown and len(kept) > 2 and kept[-1][0] >= TIME_SPAN_LEAST * kept[0][0]


def _telling(sizes: Sequence[float], seconds: Sequence[float]) -> list[tuple[float, float]]:
    return [(n, spent) for n, spent in zip(sizes, seconds, strict=True) if spent >= TELLING]
