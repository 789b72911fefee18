"""Pace: telling a slow moment of the machine from a slow contender.

On a shared machine a processor's speed comes in waves, as another tenant takes its other half. Every trial
carries what a fixed piece of work took right before and right after it. Within a series, costs are regressed
on that pace,

    log cost = (level of the design point) + β · log pace + rest

with the slope β found by iteratively reweighted least squares with Huber's weights (Huber, Robust Statistics,
1981, chapter 7), and each cost is brought to the run's typical pace. A contender that waits for memory feels a
slow moment less than one that computes, so each series has its own β; long trials average over several waves,
so they have another than short ones. A trial during which the pace changed is set apart.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..logbook.reading import Trials
from .series import TIMED, Floats

CHANGED = 0.12  # the pace before and after a trial differs by this share: the trial is disturbed
KEPT = 4  # a design point keeps its disturbed trials where fewer undisturbed ones than this are left
LONG = 0.03  # seconds: from here on a trial lasts longer than a wave
LONG_SHARE = 0.5  # of the slope of short trials, for long ones where these are too few to tell
SLOPE_MOST = 1.3
ROWS_LEAST = 12
HUBER = 1.345


@dataclass(frozen=True, slots=True)
class Weather:
    """How noisy the machine was: `spread` is the ratio of the upper to the lower decile of its pace.

    `disturbed` is the share of trials during which the pace changed, `pace` the typical one in seconds. All are None
    where pace was not read.
    """

    spread: float | None
    disturbed: float | None
    pace: float | None = None

    @property
    def word(self) -> str:
        """Quiet, unsettled or noisy; empty where it is not known."""
        if self.spread is None:
            return ""
        return "quiet" if self.spread < 1.1 else "unsettled" if self.spread < 1.3 else "noisy"


def steadied(trials: Trials, pace_of_another: float | None = None) -> tuple[Floats, Weather]:
    """The cost of each trial at the run's typical pace, NaN where it is set apart; and the weather.

    Args:
        trials: what was read.
        pace_of_another: seconds; where given, costs are brought to this pace, to compare two runs.

    Returns:
        costs of shape (rows,), in seconds; those of other metrics, and of trials without a pace, as they are.

    """
    cost = np.array(trials.cost, dtype=np.float64)
    is_time = np.array([key[3] in TIMED for key in trials.keys], dtype=bool)[trials.series]
    read = np.isfinite(trials.pace).all(axis=1) & (trials.pace > 0).all(axis=1) & is_time & (cost > 0)
    if read.sum() < ROWS_LEAST:
        return cost, Weather(None, None)
    ends = np.log(trials.pace[read])
    pace = ends.mean(axis=1)
    disturbed = np.abs(ends[:, 0] - ends[:, 1]) > CHANGED
    low, middle, high = np.quantile(pace, [0.1, 0.5, 0.9])
    typical = middle if pace_of_another is None else math.log(pace_of_another)
    log_cost = np.log(cost[read])
    duration = cost[read] * trials.calls[read]
    long = duration > LONG
    series = trials.series[read]
    sizes = np.unique(trials.size[read])
    place = np.searchsorted(sizes, trials.size[read])
    trust = np.where(disturbed & ~long, 0.1, 1.0)
    order = np.argsort(series, kind="stable")
    for rows in np.split(order, np.flatnonzero(np.diff(series[order])) + 1):
        slope = 0.0
        for part, share in ((rows[~long[rows]], 1.0), (rows[long[rows]], LONG_SHARE)):
            own = _slope(pace[part], log_cost[part], place[part], trust[part])
            slope = slope * share if own is None else own
            log_cost[part] -= slope * (pace[part] - typical)
    cost[read] = np.exp(log_cost)
    # A long trial lasts over several waves anyway.
    point = series.astype(np.int64) * len(sizes) + place
    steady = np.bincount(point, weights=~disturbed)
    apart = disturbed & ~long & (steady[point] >= KEPT)
    cost[np.flatnonzero(read)[apart]] = np.nan
    return cost, Weather(float(np.exp(high - low)), float(disturbed.mean()), float(np.exp(middle)))


def _slope(pace: Floats, log_cost: Floats, point: NDArray[np.int64], weight: Floats) -> float | None:
    """β of some trials of one series, between 0 and a bound; None where they are too few to tell."""
    if len(pace) < ROWS_LEAST:
        return None
    if len(pace) - np.count_nonzero(np.bincount(point)) - 1 < ROWS_LEAST // 2:
        return None
    weights = weight.copy()
    slope = 0.0
    for _ in range(8):
        total = np.maximum(np.bincount(point, weights=weights), 1e-300)
        x = pace - (np.bincount(point, weights=weights * pace) / total)[point]
        y = log_cost - (np.bincount(point, weights=weights * log_cost) / total)[point]
        spread = float(weights @ (x * x))
        if spread < 1e-9:
            return None
        slope = float(weights @ (x * y)) / spread
        rest = np.abs(y - slope * x)
        scale = 1.4826 * float(np.median(rest)) + 1e-9
        weights = weight * np.minimum(1.0, HUBER * scale / np.maximum(rest, 1e-12))
    return min(max(slope, 0.0), SLOPE_MOST)
