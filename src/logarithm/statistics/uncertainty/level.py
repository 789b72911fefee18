"""Levels: the typical value at each size, with the error that processes, places and trials leave.

A value is the logarithm of a cost or of a ratio. With i for sizes, l for processes and h for heats,

    value(i, h) = level(i) + process(l) + place(i, l) + trial(i, h)

All heats of a process share what is that process's own: where its memory lies, how its dictionaries are ordered. So a
process counts once, however many heats it has, and a level is the mean over processes of their own means. Its error
comes from how far processes lie apart (Kalibera and Jones, Rigorous benchmarking in reasonable time, ISMM 2013): the
part that all sizes of a process share, and the part that each size has of its own, which trials are in too.

Few processes say little of how far processes lie apart, so what is known of it beforehand counts as two more: a scaled
inverse chi-squared law, by which the level follows Student's t (Gelman et al., Bayesian Data Analysis, 2013, 3.3;
Smyth, Statistical Applications in Genetics and Molecular Biology 3, 2004, for many sizes at once). Two parts of
different freedom are put together by Satterthwaite's rule (Biometrics Bulletin 2, 1946, 110-114).

Spikes are taken in: values farther from a size's middle than three times its spread count as that far (winsorized;
Huber, Robust Statistics, 1981, 1.5), and no process is thrown away for them.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..readings.arrays import Floats, median, median_of
from ..readings.quantiles import student_quantile
from .scatter import excess, freedom_of

# what processes are known to differ by, as a standard deviation, and how much that counts
BETWEEN, BETWEEN_FREEDOM = 0.025, 2.0
TRIAL, TRIAL_FREEDOM = 0.02, 1.0  # the same for what each size of a process has of its own, trials included
TRIAL_ALONE = 0.06  # the same where no size has a second trial, which would show what a slow moment does
ALL_FREEDOM = 2.0  # how much it counts, in processes, that sizes are alike
ONE_PROCESS = 0.03  # the spread of a single process that nobody can see: a standard error
MANY = 60.0  # degrees of freedom of what is known
SPIKE, FEW_VALUES = 3.0, 6.0  # robust standard deviations; with so few values, twice as many
SURE_SHARE = 0.975
WIDEST = 3.2  # of logarithms: over four sizes that rise by a factor of three and more, no parabola follows a curve


@dataclass(frozen=True, slots=True)
class Level:
    """What is typical at each size, and how sure that is.

    Attributes:
        typical: shape (m,).
        own: the standard error that each size has of its own, shape (m,).
        shared: the standard error that all sizes share, from the spread between processes.
        own_freedom, shared_freedom: degrees of freedom of both; the first has shape (m,).
        processes: how many processes were seen; 0 where nothing is known of processes.
    """

    typical: Floats
    own: Floats
    shared: float
    own_freedom: Floats
    shared_freedom: float
    processes: int

    @property
    def error(self) -> Floats:
        """The standard error at each size, shape (m,)."""
        return np.asarray(np.hypot(self.own, self.shared), dtype=np.float64)

    def reach(self, share: float = SURE_SHARE) -> Floats:
        """How far from the typical value the true one lies at most, with so large a share on each side, shape (m,)."""
        return reach((self.own, self.own_freedom), (np.full_like(self.own, self.shared), self.shared_freedom), share)

    def at(self, rows: NDArray[np.intp] | NDArray[np.bool_] | slice) -> Level:
        """The level of some of the sizes."""
        return replace(self, typical=self.typical[rows], own=self.own[rows], own_freedom=self.own_freedom[rows])

    def after(self, times: float) -> Level:
        """What is to be expected of a level with so many times the processes."""
        root, many = math.sqrt(times), round(self.processes * times)
        own, shared = self.own / root, self.shared / root
        return Level(self.typical, own, shared, self.own_freedom * times, self.shared_freedom * times, many)

    def scattered(self, x: Floats, is_log: bool) -> Level:
        """The level with errors no smaller than the scatter between neighbours, at positions `x`, shape (m,).

        What is known of errors by scatter is known from few neighbours.
        """
        more = excess(x, self.typical, np.maximum(self.own, 1e-9) ** 2, WIDEST if is_log else math.inf)
        freedom = 1 / (1 / more / self.own_freedom + (1 - 1 / more) / freedom_of(len(x)))
        return replace(self, own=self.own * np.sqrt(more), own_freedom=freedom)

    def through(self, weights: Floats) -> Level:
        """The level of weighted means over sizes, by weights of shape (k, m) whose rows sum to 1."""
        squares = weights**2 * self.own**2
        own = squares.sum(axis=1)
        freedom = own**2 / np.maximum((squares**2 / self.own_freedom).sum(axis=1), 1e-300)
        return replace(self, typical=np.asarray(weights @ self.typical), own=np.sqrt(own), own_freedom=freedom)


def reach(one: tuple[Floats, Floats], other: tuple[Floats, float], share: float) -> Floats:
    """Student's t for a sum of two errors of different freedom, times its standard error; shapes as given."""
    squares = one[0] ** 2, other[0] ** 2
    total = squares[0] + squares[1]
    freedom = total**2 / np.maximum(squares[0] ** 2 / one[1] + squares[1] ** 2 / other[1], 1e-300)
    return np.asarray(student_quantile(freedom, share) * np.sqrt(total), dtype=np.float64)


def exact_level(values: Floats) -> Level:
    """The level of numbers without error, such as counts that repeat to the last one; shape (m,)."""
    none = np.zeros_like(values)
    return Level(values, none, 0.0, np.full_like(values, MANY), MANY, 0)


def level_of(values: Floats, processes: NDArray[np.int32], is_ours: bool = True) -> Level:
    """The level of some values.

    Args:
        values: logarithms, shape (m sizes, h heats), NaN where there is none; at least one at each size.
        processes: the process of each heat, shape (h,).
        is_ours: whether processes are known to be processes; not where a table gives repetitions of which nobody knows.
    """
    numbers, process = np.unique(processes, return_inverse=True)
    clipped = _without_spikes(values)
    known = is_ours or len(numbers) > 1
    # Without processes each heat stands for itself.
    groups = process if known and len(numbers) > 1 else np.arange(values.shape[1])
    means, counts = _by_group(clipped, groups)
    there = counts > 0
    many = there.sum(axis=1)
    within = _within(clipped, groups, means, counts)
    # A process with few heats at a size says less of it.
    weight = np.where(there, 1.0 / (BETWEEN**2 + within / np.maximum(counts, 1)), 0.0)
    weight /= weight.sum(axis=1, keepdims=True)
    typical = np.nansum(weight * np.where(there, means, 0.0), axis=1)
    effective = 1.0 / (weight**2).sum(axis=1)
    apart = np.where(there, means - typical[:, None], np.nan)
    if len(numbers) < 2 or not known:
        alone = TRIAL_ALONE if is_ours and not (many > 1).any() else TRIAL
        spread = _moderated(np.nansum(apart**2, axis=1), np.maximum(many - 1, 0), alone)
        one = ONE_PROCESS if is_ours else 0.0
        # One process says nothing of that spread: what is known of it is all there is. Spreads are half their own, half
        # of all.
        freedom = 2.0 * np.maximum(many - 1, 0) + TRIAL_FREEDOM
        return Level(typical, np.sqrt(spread / effective), one, freedom, MANY, len(numbers) if is_ours else 0)
    count = len(numbers)
    each = there.sum(axis=0)
    common = np.nansum(apart, axis=0) / np.maximum(each, 1)
    rest = apart - common[None, :]
    # What a process has of its own at a size: its place, and what its trials leave, of which a few leave more than
    # many.
    noise = np.where(there, within / np.maximum(counts, 1), 0.0)
    cells_free = max(float(there.sum()) - len(typical) - count + 1, 1.0)
    left = cells_free / float(there.sum())
    place = max(float(np.nansum(rest**2)) - left * float(noise.sum()), 0.0) / cells_free
    place = (TRIAL_FREEDOM * TRIAL**2 / 4 + cells_free * place) / (TRIAL_FREEDOM + cells_free)
    cell = np.where(there, place + noise, np.inf)
    expected = (weight**2 * np.where(there, place + noise, 0.0)).sum(axis=1)
    own = expected * _excess(np.nansum(rest**2 / cell, axis=1), left * many)
    # The common part of a process holds the mean of what its sizes have of their own; that is nothing they share.
    from_sizes = float(np.mean(np.where(there, place + noise, 0.0).sum(axis=0) / np.maximum(there.sum(axis=0), 1) ** 2))
    between_square = max(float((common**2).sum()) - (count - 1) * from_sizes, 0.0)
    shared_free = count - 1 + BETWEEN_FREEDOM
    between_each = (BETWEEN_FREEDOM * BETWEEN**2 + between_square) / shared_free
    # A size that took part in a few of the processes has what is their own.
    own += between_each * np.maximum(1 / effective - 1 / count, 0.0)
    return Level(typical, np.sqrt(own), math.sqrt(between_each / count), left * many + ALL_FREEDOM, shared_free, count)


def _excess(squares: Floats, free: Floats) -> Floats:
    """By how much the variance of each size exceeds what is expected. That all are alike counts as two processes more.

    Args:
        squares: sums of squares over the expected variance, shape (m,).
        free: how many of them are free.
    """
    return np.asarray((squares + ALL_FREEDOM) / (free + ALL_FREEDOM), dtype=np.float64)


def _moderated(squares: Floats, free: NDArray[np.int_], known: float) -> Floats:
    """Variances of each size, from sums of squares; half from the size itself, half from what all sizes say.

    `known` is the standard deviation that is known beforehand.
    """
    total_free = float(free.sum())
    pooled = (TRIAL_FREEDOM * known**2 + float(squares.sum())) / (TRIAL_FREEDOM + total_free)
    alike = np.maximum(free, 1.0)
    return np.asarray((squares + alike * pooled) / (free + alike), dtype=np.float64)


def _without_spikes(values: Floats) -> Floats:
    """Values with spikes drawn in to three robust standard deviations from the middle of their size."""
    count = np.isfinite(values).sum(axis=1)
    middle = median(values)
    scale = 1.4826 * median(np.abs(values - middle[:, None]))
    common = median_of(scale[count > 2]) if (count > 2).any() else 0.05
    # Few heats may lie close together by chance.
    scale = np.where(count > 2, np.maximum(scale, (scale + common) / 2), max(common, 0.05))
    # Of a few values nobody can tell which is a spike.
    bound = (SPIKE * np.maximum(scale, 1e-4) * (1 + FEW_VALUES / np.maximum(count, 1)))[:, None]
    return np.asarray(np.clip(values, middle[:, None] - bound, middle[:, None] + bound), dtype=np.float64)


def _by_group(values: Floats, group: NDArray[np.intp]) -> tuple[Floats, Floats]:
    """Means and counts of each group of heats at each size, both of shape (m, groups)."""
    order = np.argsort(group, kind="stable")
    starts = np.flatnonzero(np.diff(group[order], prepend=-1))
    finite = np.isfinite(values)[:, order]
    counts = np.add.reduceat(finite, starts, axis=1, dtype=np.float64)
    sums = np.add.reduceat(np.where(finite, values[:, order], 0.0), starts, axis=1)
    return np.divide(sums, counts, out=np.zeros_like(sums), where=counts > 0), counts


def _within(values: Floats, group: NDArray[np.intp], means: Floats, counts: Floats) -> Floats:
    """The variance of heats within groups at each size, shape (m, 1)."""
    rest = np.nansum((values - means[:, group]) ** 2, axis=1)
    free = np.maximum(counts - 1, 0).sum(axis=1)
    pooled = (rest.sum() + 1e-6) / (free.sum() + 1.0)
    return np.asarray(((rest + 5 * pooled) / (free + 5))[:, None], dtype=np.float64)
