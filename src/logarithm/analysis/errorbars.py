"""How sure a robust mean over heats is."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from scipy.special import stdtrit

from .series import Floats, median

CLEAR = 3.0  # standard errors by which two things must differ to be clearly different
CLEAR_SHARE = 0.99865  # the share of a normal distribution below so many
SHARP = 1.05  # the standard error of a robust mean, over that of the mean
HEATS_LEAST, LIVES_LEAST = 3, 4


def standard_error(values: Floats, typical: Floats, lives: NDArray[np.int32]) -> Floats:
    """The standard error of the robust mean of each row, shape (m,).

    It is the larger of two. One is the robust mean's, from the spread between heats; what a single size cannot tell
    is taken from all of them. The other comes from the spread between lives: heats of one life share that
    life's luck (where its memory lies, how its dictionaries are ordered), so they count for less than their number.

    Args:
        values: logarithms of costs or of ratios, shape (sizes, heats), NaN where there is none.
        typical: the robust mean of each row, shape (sizes,).
        lives: the life of each heat, shape (heats,).
    """
    count = np.isfinite(values).sum(axis=1)
    spread = 1.4826 * median(np.abs(values - typical[:, None]))
    common = float(np.median(spread[count >= HEATS_LEAST])) if (count >= HEATS_LEAST).any() else 0.05
    spread = np.where(count >= HEATS_LEAST, np.maximum(spread, (spread + common) / 2), np.maximum(common, 0.05))
    # Student's t: what few heats say of their own spread is itself unsure. What is known from other sizes
    # counts as two further heats.
    unsure = stdtrit(count + 1.0, CLEAR_SHARE) / CLEAR
    error = SHARP * unsure * np.maximum(spread, 1e-4) / np.sqrt(count)
    numbers = np.unique(lives)
    if len(numbers) < LIVES_LEAST:
        return np.asarray(error, dtype=np.float64)
    # One row a life, padded, so that all medians are taken at once; a life that never came to a size has none there.
    _, row = np.unique(lives, return_inverse=True)
    order = np.argsort(row, kind="stable")
    starts = np.searchsorted(row[order], np.arange(len(numbers)))
    column = np.empty(len(row), dtype=np.intp)
    column[order] = np.arange(len(row)) - starts[row[order]]
    padded = np.full((len(numbers), len(values), int(column.max()) + 1), np.nan)
    padded[row, :, column] = values.T
    medians = median(padded).T
    there = np.isfinite(medians).sum(axis=1)
    between = 1.4826 * median(np.abs(medians - median(medians)[:, None]))
    # What a single size says of the spread between lives is unsure, so it is raised halfway to what all say.
    shared = math.sqrt(float(np.nanmean(between**2))) if np.isfinite(between).any() else 0.0
    between = np.where(np.isfinite(between), np.maximum(between, (between + shared) / 2), shared)
    luck = stdtrit(np.maximum(there, 2.0), CLEAR_SHARE) / CLEAR * SHARP * between / np.sqrt(np.maximum(there, 1.0))
    return np.asarray(np.maximum(error, luck), dtype=np.float64)
