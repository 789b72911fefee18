"""Whether a moment is one for verdicts: where the machine is so busy that own time itself spreads, it is not."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np

from ..notation.metrics import RANKED_TIMES
from ..results.tasks.machine import OTHERS_QUIET
from .readings.arrays import median, median_of
from .readings.series import Series
from .readings.speed import Noise

SPREAD_MOST = 0.2  # of the costs at a size about their middle, typically; beyond, small differences are lost
NORMAL_MAD = 1.4826  # standard deviations in a median of absolute differences, for a normal law


def spread_of(series: Iterable[Series]) -> float:
    """How far the times at a size spread about their middle, typically: a robust standard deviation of logarithms.

    Infinite where there are too few trials at each size to tell.
    """
    apart = []
    for each in series:
        if each.metric in RANKED_TIMES:
            with np.errstate(divide="ignore", invalid="ignore"):
                logs = np.log(each.costs)
            logs[~np.isfinite(logs)] = np.nan
            rest = np.abs(logs - median(logs)[:, None])
            apart.append(rest[np.isfinite(rest) & (np.isfinite(logs).sum(axis=1, keepdims=True) > 2)])
    every = np.concatenate(apart) if apart else np.empty(0)
    return NORMAL_MAD * median_of(every) if len(every) else math.inf


def is_too_busy(series: Iterable[Series], noise: Noise) -> bool:
    """Whether others take so much of the machine that orders and small differences cannot be told.

    That is where they take some of it, and own times spread far, or nobody can tell how far.
    """
    return (noise.others or 0.0) >= OTHERS_QUIET and spread_of(series) > SPREAD_MOST
