"""How many times as long as the reference a submission takes, and how sure that is."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from ..results.base import Interval
from ..statistics.readings.quantiles import student_quantile

PAIRS_LEAST, FEW = 3, 2.0  # of fewer pairs it is known within this factor
SURE = 0.995  # on each side: marks hang on it, for every one of a class
PROCESS = 0.04  # the spread between processes of one program, as a logarithm; one process alone does not show it


def ratio_of(own: NDArray[np.floating], base: NDArray[np.floating], processes: NDArray[np.integer]) -> Interval | None:
    """What pairs of times have in common: the median of their ratios, and an interval with 99 %.

    It is that of the mean of their logarithms, with the variance that processes have among themselves: each process of
    a program lies elsewhere in memory, and shows it.

    Args:
        own, base: times of the same calls, of a submission and of the reference, shape (rounds,); NaN where there is
            none, or one too short to tell.
        processes: the process of each round.

    >>> made = ratio_of(np.array([2.0, 2.02, 1.98, 2.0]), np.ones(4), np.zeros(4, int))
    >>> made.value, made.low < 1.9 < made.high < 2.3
    (2.0, True)
    """
    there = np.isfinite(own) & np.isfinite(base) & (own > 0) & (base > 0)
    logs = np.log(own[there] / base[there])
    if not len(logs):
        return None
    if len(logs) < PAIRS_LEAST:
        middle = float(np.exp(np.median(logs)))
        return Interval(middle, middle / FEW, middle * FEW)
    # Far off are moments in which something else happened to one of both.
    middle = float(np.median(logs))
    far = 4 * 1.4826 * float(np.median(np.abs(logs - middle))) + 1e-6
    kept = logs[np.abs(logs - middle) <= far]
    noise = float(kept.std(ddof=1)) / math.sqrt(len(kept)) if len(kept) > 1 else 0.0
    many = len(np.unique(processes[there]))
    reach = math.hypot(float(student_quantile(max(len(kept) - 1, 1), SURE)) * noise, 2.6 * PROCESS / math.sqrt(many))
    mean = float(kept.mean())
    return Interval(math.exp(middle), math.exp(min(middle, mean - reach)), math.exp(max(middle, mean + reach)))
