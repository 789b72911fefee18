"""Generalised least squares of many small models at once."""

from __future__ import annotations

import numpy as np

from ..readings.arrays import Floats

RIDGE = 1e-10


def weights_to_one(columns: Floats, whiten: Floats) -> Floats:
    """The weights of each model's terms that come nearest to 1 at every size.

    Solved by normal equations with columns of equal length, and a ridge that only matters where two terms are
    all but the same.

    Args:
        columns: f models of k terms at m sizes, relative to the costs, shape (f, m, k).
        whiten: what makes the misfit white noise, shape (m, m).

    Returns:
        shape (f, k).
    """
    white = whiten @ columns
    normal = white.transpose(0, 2, 1) @ white
    size = np.sqrt(np.einsum("fkk->fk", normal))
    normal = normal / (size[:, :, None] * size[:, None, :]) + RIDGE * np.eye(columns.shape[2])
    right = white.transpose(0, 2, 1) @ whiten.sum(axis=1) / size
    return np.asarray(np.linalg.solve(normal, right[:, :, None])[:, :, 0] / size, dtype=np.float64)
