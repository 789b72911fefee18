"""Pace: telling a slow moment of the machine from a slow contender.

On a shared machine a processor's speed comes in waves, as another tenant takes its other half. Every trial
carries what a fixed piece of work took right before and right after it. Within a series, costs are regressed
on that pace,

    log cost = (level of the design point) + β · log pace + rest

with the slope β found by iteratively reweighted least squares with Huber's weights (Huber, Robust Statistics,
1981, chapter 7), and each cost is brought to the pace of the run's quick moments, the tenth from below: a slow one is
another machine, on which other contenders may lead. A contender that waits for memory feels a
slow moment less than one that computes, so each series has its own β; long trials average over several waves,
so they have another than short ones. Where the pace was read all through a long trial, it is treated as a short one
at that pace. A trial during which the pace changed is left out.

Before that, the time that others had the processor is taken off (`protocol.scheduling`). Where it cannot be, because
the system does not tell it or several threads worked at once, a trial with much of it is left out, if most trials of
its design point have little.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...logbook.memory import Trials
from ...notation.metrics import TIMED
from ...protocol.scheduling import TOGETHER
from ...results.tasks.machine import noise_word
from .arrays import Floats, median_of, quantiles

CHANGED = 0.12  # the pace before and after a trial differs by this share: the trial is disturbed
KEPT = 4  # a design point keeps its disturbed trials where fewer undisturbed ones than this are left
LONG = 0.03  # seconds: from here on a trial lasts longer than a wave
WEIGHT_LEAST = 0.05  # a trial that weighs less says nothing
LONG_SHARE = 0.5  # of the slope of short trials, for long ones where these are too few to tell
SLOPE_MOST = 1.3
ROWS_LEAST = 12
AWAY_SHARE, AWAY_LEAST_S = 0.1, 0.002  # others had the processor for this share of a trial of so many seconds at least
MOST_AWAY = 0.5  # of the trials of a design point: with more, its contender waits
HUBER = 1.345
CONVERGED = 1e-5  # steps of a slope that are smaller change nothing


@dataclass(frozen=True, slots=True)
class Noise:
    """How noisy the machine was: `spread` is the ratio of the upper to the lower decile of its pace.

    `disturbed` is the share of trials during which the pace changed, `pace` that of quick moments in seconds; None
    where pace was not read. `others` is the share of the time of all trials that others had the processor, `stolen`
    what the host of a virtual machine took; None where that was not.
    """

    spread: float | None
    disturbed: float | None
    pace: float | None = None
    others: float | None = None
    stolen: float | None = None

    @property
    def word(self) -> str:
        """Quiet, noisy or busy; empty where it is not known."""
        return noise_word(self.spread, max(self.others or 0.0, self.stolen or 0.0))


def at_quick_pace(trials: Trials, pace_of_another: float | None = None) -> tuple[Floats, Noise]:
    """The cost of each trial at the pace of quick moments, NaN where it is left out; and the noise.

    Args:
        trials: what was read.
        pace_of_another: seconds; where given, costs are brought to this pace, to compare two runs.

    Returns:
        costs of shape (rows,), in seconds; those of other metrics, and of trials without a pace, as they are.

    """
    cost = np.array(trials.cost, dtype=np.float64)
    cost[_taken_away(trials)] = np.nan
    others = _share_of_others(trials)
    is_time = np.array([key[3] in TIMED for key in trials.keys], dtype=bool)[trials.series]
    read = np.isfinite(trials.pace).all(axis=1) & (trials.pace > 0).all(axis=1) & is_time & (cost > 0)
    if read.sum() < ROWS_LEAST:
        return cost, Noise(None, None, None, others)
    ends = np.log(trials.pace[read])
    pace = ends.mean(axis=1)
    disturbed = np.abs(ends[:, 0] - ends[:, 1]) > CHANGED
    # Where the pace was read all through a trial, that is what it went through.
    through = np.zeros(len(pace), dtype=bool)
    if trials.during is not None:
        during = trials.during[read]
        through = during > 0
        pace = np.where(through, np.log(np.where(through, during, 1.0)), pace)
        disturbed &= ~through
    least, high = quantiles(pace, (0.1, 0.9))
    wanted = least if pace_of_another is None else math.log(pace_of_another)
    log_cost = np.log(cost[read])
    series = trials.series[read]
    sizes = np.unique(trials.size[read])
    place = np.searchsorted(sizes, trials.size[read])
    point = series.astype(np.int64) * len(sizes) + place
    # How short trials are is a matter of the design point, and of degree: else a slow moment would make one long.
    seconds = np.bincount(point, weights=np.log(cost[read] * trials.calls[read])) / np.maximum(np.bincount(point), 1)
    short = np.where(through, 1.0, 1 / (1 + (np.exp(seconds) / LONG) ** 2)[point])
    trust = np.where(disturbed, np.maximum(1 - short, 0.1), 1.0)
    # A long trial averages over waves: its level is that of the mean pace, about which its own readings move it.
    level = math.log(float(np.exp(pace).mean()))
    groups = np.split(np.argsort(series, kind="stable"), np.flatnonzero(np.diff(np.sort(series))) + 1)
    slopes, far = (
        _alike([_slope(pace[rows], log_cost[rows], place[rows], (trust * share)[rows]) for rows in groups])
        for share in (short, 1 - short)
    )
    for rows, slope, slow in zip(groups, slopes, far, strict=True):
        beside = slow if slow is not None else LONG_SHARE * (slope or 0.0)
        quick = (slope or 0.0) * (pace[rows] - wanted)
        long = beside * (pace[rows] - float(pace.mean())) + (slope or 0.0) * (level - wanted)
        log_cost[rows] -= short[rows] * quick + (1 - short[rows]) * long
    cost[read] = np.exp(log_cost)
    # A long trial lasts over several waves anyway.
    steady = np.bincount(point, weights=~disturbed)
    apart = disturbed & (short > 0.5) & (steady[point] >= KEPT)
    cost[np.flatnonzero(read)[apart]] = np.nan
    return cost, Noise(float(np.exp(high - least)), float(disturbed.mean()), float(np.exp(least)), others)


def _taken_away(trials: Trials) -> NDArray[np.bool_]:
    """The trials of which others had much of the processor's time, which cannot be taken off, shape (rows,).

    Where no queue was read, a contender that waits by itself does so in most trials of a design point; these are then
    what it costs.
    """
    with np.errstate(invalid="ignore"):
        if trials.queued is None or trials.wall is None:
            lost = trials.cpu < (1 - AWAY_SHARE) * trials.cost
        else:
            unread = np.isnan(trials.queued) & (trials.cpu < (1 - AWAY_SHARE) * trials.cost)
            lost = unread | ((trials.queued > AWAY_SHARE * trials.wall) & (trials.cost >= trials.wall))
        away = lost & (trials.cost * trials.calls >= AWAY_LEAST_S)
    if not away.any():
        return away
    sizes = np.unique(trials.size)
    point = trials.series.astype(np.int64) * len(sizes) + np.searchsorted(sizes, trials.size)
    share = np.bincount(point, weights=away) / np.maximum(np.bincount(point), 1)
    return np.asarray(away & (share[point] <= MOST_AWAY), dtype=np.bool_)


def _share_of_others(trials: Trials) -> float | None:
    """The share of the time of all trials in which others had the processor; None where that was not read.

    Where threads of the contender itself stand in each other's way, the queue says nothing of others.
    """
    if trials.queued is None or trials.wall is None:
        return None
    with np.errstate(invalid="ignore"):
        together = trials.cpu + trials.queued > TOGETHER * trials.wall
    read = np.isfinite(trials.queued) & np.isfinite(trials.wall) & (trials.wall > 0) & ~together
    if not read.any():
        return None
    passed = float((trials.wall * trials.calls)[read].sum())
    return float((np.minimum(trials.queued, trials.wall) * trials.calls)[read].sum()) / passed


def _alike(slopes: list[tuple[float, float] | None]) -> list[float | None]:
    """The slopes of all series, each drawn to their mean by as much as it is unsure; None where none is known.

    How far they truly differ is estimated as in DerSimonian and Laird, Controlled Clinical Trials 7 (1986), 177-188.
    """
    known = np.array([each for each in slopes if each is not None]).reshape(-1, 2)
    if not len(known):
        return [None] * len(slopes)
    weight = 1 / known[:, 1] ** 2
    mean = float(weight @ known[:, 0] / weight.sum())
    excess = float(weight @ (known[:, 0] - mean) ** 2) - (len(known) - 1)
    apart = max(excess, 0.0) / max(float(weight.sum() - (weight**2).sum() / weight.sum()), 1e-300)
    return [
        mean if each is None else (each[0] * apart + mean * each[1] ** 2) / (apart + each[1] ** 2) for each in slopes
    ]


def _slope(pace: Floats, log_cost: Floats, point: NDArray[np.int64], weight: Floats) -> tuple[float, float] | None:
    """β of some trials of one series, between 0 and a bound, and its standard error; None where they are too few."""
    counts = weight > WEIGHT_LEAST
    if counts.sum() < ROWS_LEAST or counts.sum() - np.count_nonzero(np.bincount(point[counts])) - 1 < ROWS_LEAST // 2:
        return None
    weights = weight.copy()
    slope, spread = 0.0, 0.0
    rest = x = np.zeros_like(pace)
    for _ in range(8):
        total = np.maximum(np.bincount(point, weights=weights), 1e-300)
        x = pace - (np.bincount(point, weights=weights * pace) / total)[point]
        y = log_cost - (np.bincount(point, weights=weights * log_cost) / total)[point]
        spread = float(weights @ (x * x))
        if spread < 1e-9:
            return None
        former, slope = slope, float(weights @ (x * y)) / spread
        rest = np.abs(y - slope * x)
        if abs(slope - former) < CONVERGED:
            break
        scale = 1.4826 * median_of(rest) + 1e-9
        weights = weight * np.minimum(1.0, HUBER * scale / np.maximum(rest, 1e-12))
    error = math.sqrt(float((weights**2 * x * x) @ (rest * rest))) / spread
    return min(max(slope, 0.0), SLOPE_MOST), max(error, 1e-4)
