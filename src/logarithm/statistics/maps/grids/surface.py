"""A surface over both sizes: what is known of a logarithm of a cost, or of a ratio, at places that were not measured.

What laws leave over is taken for a Gaussian process in the logarithms of both sizes with a Matérn covariance of 3/2, on
a plane of which nothing is known (Rasmussen and Williams, Gaussian Processes for Machine Learning, 2006, 2.7 and 4.2);
it is `uncertainty.paths` with one more size.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ...readings.arrays import Floats, median_of
from ...readings.quantiles import student_quantile
from ...uncertainty.level import SURE_SHARE, Level
from ...uncertainty.paths import likeliest, matern

LENGTHS = (1.0, 2.0, 4.0)  # over which drifts change, in logarithms: two sizes tell of longer ones than one does
MORE = 1.1  # the spread over that of the estimated height
OFFSET, TILT = 4.0, 0.05  # the variances of the plane: of its height, and of its slope in either logarithm


@dataclass(frozen=True, slots=True)
class Surface:
    """What is known at some places: the mean and its standard error, shape (g,); `freedom` is that of the errors."""

    mean: Floats
    error: Floats
    freedom: float

    def reach(self, share: float = SURE_SHARE) -> Floats:
        """How far from the mean the truth lies at most, with so large a share on each side."""
        return np.asarray(float(student_quantile(self.freedom, share)) * self.error, dtype=np.float64)


@dataclass(frozen=True, slots=True)
class Fit:
    """What was measured of a surface, and what follows for all other places.

    Attributes:
        middle: of the places.
        x: the places, from their middle, shape (m, 2).
        rest: what laws leave over there, shape (m,).
        own: its covariance, shape (m, m).
        spread, length: the height of what varies, squared, and over which distance it does.
        shared, freedom: the error that all places have in common, and the degrees of freedom of all errors.
    """

    middle: Floats
    x: Floats
    rest: Floats
    own: Floats
    spread: float
    length: float
    shared: float
    freedom: float

    @classmethod
    def of(cls, places: Floats, level: Level, rest: Floats) -> Fit:
        """The surface through levels at places.

        Args:
            places: the logarithms of both sizes, shape (m, 2).
            level: the levels there, for their errors.
            rest: what laws leave over of the levels, shape (m,).
        """
        middle = places.mean(axis=0)
        x = places - middle
        noise = level.own**2 + 1e-6
        plane = _plane(x, x)
        height, length = likeliest(x, rest, noise, plane, LENGTHS)
        spread = (MORE * height) ** 2
        own = spread * matern(x, x, length) + plane + np.diag(noise)
        few = median_of(level.own_freedom) * math.sqrt(len(rest))
        freedom = min(few, level.shared_freedom * 2) if level.shared else few
        return cls(middle, x, rest, own, spread, length, level.shared, max(freedom, 2.0))

    def at(self, grid: Floats) -> Surface:
        """The surface at other places, shape (g, 2)."""
        to = grid - self.middle
        across = self.spread * matern(to, self.x, self.length) + _plane(to, self.x)
        weights = np.linalg.solve(self.own, across.T).T
        left = self.spread + OFFSET + TILT * (to**2).sum(axis=1) - (weights * across).sum(axis=1)
        error = np.sqrt(np.maximum(left, 1e-12) + self.shared**2)
        return Surface(np.asarray(weights @ self.rest), np.asarray(error), self.freedom)


def _plane(one: Floats, other: Floats) -> Floats:
    return np.asarray(OFFSET + TILT * (one @ other.T), dtype=np.float64)
