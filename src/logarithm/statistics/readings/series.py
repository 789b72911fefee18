"""Trials arranged for analysis: one series a (contender, family, stage, metric), a table of sizes by heats."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ...logbook.memory import Trials
from ...notation.metrics import BESIDE, TIMED
from ...notation.places import Key, Keyed
from ...results.findings import PROCESSES_LEAST, TRIALS_LEAST
from .arrays import Floats, median, quantiles
from .quantiles import log_factorial

CHOSEN_LEAST, CHOSEN_MOST = 5, 20  # of more values, the tenth from below is no longer biased
NONE = 0.5  # is added to two counts of which one is zero, so that they have a ratio
RESOLVED = 1e-10  # seconds: a call that seems to cost less than this, or nothing, is taken to cost this much


def low(values: Floats, share: float) -> Floats:
    """The value below which so large a share of each row lies, NaN left out, whatever the number of values.

    A quantile of few values lies nearer to their middle than one of many. So each row's is what it would be on average
    over all choices of as many values as the shortest row has: a sum of its ranked values with the weights of such
    choices (David and Nagaraja, Order Statistics, 2003, 2.1, for samples from a finite population).
    """
    ranked = np.sort(values, axis=-1)
    counts = np.isfinite(ranked).sum(axis=-1)
    few = int(np.clip(counts.min(), CHOSEN_LEAST, CHOSEN_MOST))
    at = share * (few - 1)
    rank, part = math.floor(at), at - math.floor(at)
    whole = np.where(np.isfinite(ranked), ranked, 0.0)
    made = np.empty(len(ranked))
    for count in np.unique(counts):
        rows = counts == count
        weights = (1 - part) * _chosen(int(count), few, rank) + part * _chosen(int(count), few, min(rank + 1, few - 1))
        made[rows] = whole[rows, :count] @ weights
    return made


@lru_cache(maxsize=512)
def _chosen(count: int, few: int, rank: int) -> Floats:
    """How likely each of `count` ranked values is the one of this rank among `few` that are chosen, shape (count,)."""
    place = np.arange(count)
    few = min(few, count)
    rank = min(rank, few - 1)
    log = _choices(place, rank) + _choices(count - 1 - place, few - 1 - rank) - _choices(np.array(count), few)
    return np.asarray(np.where(np.isfinite(log), np.exp(log), 0.0), dtype=np.float64)


def _choices(of: NDArray[np.int_], many: int) -> Floats:
    """The logarithm of the number of ways to choose; minus infinity where there is none."""
    safe = np.maximum(of, many)
    ways = log_factorial(safe) - log_factorial(many) - log_factorial(safe - many)
    return np.asarray(np.where(of >= many, ways, -np.inf), dtype=np.float64)


@dataclass(frozen=True, slots=True, eq=False)
class Series(Keyed):
    """The costs of one contender.

    Attributes:
        contender, family, stage, metric: what was observed.
        sizes: rising, shape (m,).
        heats: the number of each heat, shape (h,).
        processes: the process that each heat belongs to, shape (h,).
        costs: seconds for one call (or the metric's value), shape (m, h), NaN where there is no trial.
        is_ours: whether processes are those of a run of ours; a table gives repetitions of which nobody knows.
        is_false: whether these are times that are not those of the contender's work.
    """

    contender: str
    family: str
    stage: str | None
    metric: str
    sizes: Floats
    heats: NDArray[np.int32]
    processes: NDArray[np.int32]
    costs: Floats
    is_ours: bool = False
    is_false: bool = False

    @property
    def typical(self) -> Floats:
        """The median over the heats at each size, shape (m,)."""
        return median(self.costs)

    @property
    def is_exact(self) -> bool:
        """Whether these are counts that were the same each time."""
        counts = self.metric not in TIMED
        return counts and bool((np.nanmin(self.costs, axis=1) == np.nanmax(self.costs, axis=1)).all())

    @property
    def tells(self) -> NDArray[np.bool_]:
        """At which sizes there are trials enough for a verdict, in processes enough; shape (m,).

        Of counts, and of a table that says nothing of processes, every one tells; of false times none.
        """
        if self.is_false:
            return np.zeros(len(self.sizes), dtype=np.bool_)
        numbers, processes = np.unique(self.processes, return_inverse=True)
        if self.metric not in TIMED or not (self.is_ours or len(numbers) > 1):
            return np.ones(len(self.sizes), dtype=np.bool_)
        there = np.isfinite(self.costs)
        seen = np.zeros((len(self.sizes), len(numbers)), dtype=np.bool_)
        rows, columns = np.nonzero(there)
        seen[rows, processes[columns]] = True
        enough = (there.sum(axis=1) >= TRIALS_LEAST) & (seen.sum(axis=1) >= PROCESSES_LEAST)
        return np.asarray(enough, dtype=np.bool_)

    def quantiles(self, *shares: float) -> Floats:
        """Quantiles over the heats at each size, shape (len(shares), m)."""
        return quantiles(self.costs, shares)


def shared_sizes(sizes: Iterable[Floats]) -> set[float]:
    """The sizes that all of some series have; none where there is no series."""
    every = [set(map(float, each)) for each in sizes]
    return set.intersection(*every) if every else set()


def arrange(
    trials: Trials,
    costs: Floats,
    beside: bool = False,
    is_ours: bool = False,
    false: Collection[str] = (),
    among: Collection[str] = (),
) -> list[Series]:
    """All series of a logbook, in the order in which they first appear.

    Args:
        trials: what was observed.
        costs: the cost of each trial, shape (rows,), NaN for one that is left out.
        beside: also those that stand beside time and are never ranked.
        is_ours: whether processes are those of a run of ours.
        false: contenders whose times are not those of their work.
        among: the metrics that are wanted; all where none is named.

    Calibration (heat 0) counts only at sizes that no later heat reached. Several trials of one heat at one design
    point are averaged.

    """
    if not len(trials):
        return []
    made = []
    by_series = np.argsort(trials.series, kind="stable")
    ends = np.searchsorted(trials.series[by_series], np.arange(len(trials.keys) + 1))
    for code, key in enumerate(trials.keys):
        if among and key[3] not in among:
            continue
        rows = by_series[ends[code] : ends[code + 1]]
        rows = rows[np.isfinite(costs[rows])]
        if len(rows) and (beside or key[3] not in BESIDE):
            own = _series(key, trials, costs, rows, is_ours)
            made.append(replace(own, is_false=True) if key[0] in false and key[3] in TIMED else own)
    return made


def _series(key: Key, trials: Trials, costs: Floats, rows: NDArray[np.intp], is_ours: bool) -> Series:
    sizes, row = np.unique(trials.size[rows], return_inverse=True)
    heats, column = np.unique(trials.heat[rows], return_inverse=True)
    shape = (len(sizes), len(heats))
    cell = row * shape[1] + column
    own = np.maximum(costs[rows], RESOLVED) if key[3] in TIMED else costs[rows]
    total = np.bincount(cell, weights=own, minlength=shape[0] * shape[1])
    count = np.bincount(cell, minlength=shape[0] * shape[1])
    table = np.full(shape[0] * shape[1], np.nan)
    np.divide(total, count, out=table, where=count > 0)
    table = table.reshape(shape)
    processes = np.ones(len(heats), dtype=np.int32)
    processes[column] = trials.process[rows]
    if heats[0] == 0 and len(heats) > 1:
        climbed_only = np.isnan(table[:, 1:]).all(axis=1)
        table[~climbed_only, 0] = np.nan
        if not climbed_only.any():
            table, heats, processes = table[:, 1:], heats[1:], processes[1:]
    return Series(*key, sizes, heats, processes, table, is_ours)
