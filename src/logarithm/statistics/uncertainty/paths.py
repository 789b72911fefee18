"""Paths: curves that agree with levels at sizes, and with how smoothly costs drift between them.

What two fitted laws leave over of a ratio is neither nothing nor a straight line: caches fill, memory comes in larger
pieces. It is taken for a Gaussian process in log n with a Matérn covariance of 3/2, on a line of which nothing is
known (Rasmussen and Williams, Gaussian Processes for Machine Learning, 2006, 2.7 and 4.2). Its height and length are
those that make the levels most likely; a height estimated from few sizes is unsure, so paths spread a little more.
"""

from __future__ import annotations

import math

import numpy as np

from ..readings.arrays import Floats, median_of
from .level import Level

HEIGHTS = np.geomspace(0.003, 1.0, 13)
LENGTHS = (1.0, 2.0)
USUAL = 0.1  # a height, from which others are the less likely the farther their logarithm is
AHEAD = 0.15  # the drift that may come beyond the sizes, for each time these are multiplied by e
MORE = 1.3  # the spread of paths over that of the estimated height
LINE = 4.0  # the variance of the line that nothing is known of


def paths(
    x: Floats, level: Level, rest: Floats, grid: Floats, draws: int, seed: int = 20240229
) -> tuple[Floats, Floats]:
    """The mean curve, and curves drawn from all that agree with the levels.

    Args:
        x: positions of the sizes, such as their logarithms, shape (m,).
        level: the levels, for their errors.
        rest: what the laws leave over of the levels, shape (m,).
        grid: positions at which curves are wanted, shape (g,).
        draws: how many curves, an even number.
        seed: of the chance.

    Returns:
        the mean curve, shape (g,), and the drawn ones, shape (draws, g).
    """
    noise = level.own**2 + 1e-6
    height, length = likeliest(x, rest, noise, _line(x, x, x))
    own = height**2 * matern(x, x, length) + _line(x, x, x) + np.diag(noise)
    across = height**2 * matern(grid, x, length) + _line(grid, x, x)
    weights = np.linalg.solve(own, across.T).T
    mean = weights @ rest
    # Every chance is as likely as its opposite: each draw serves twice, once on either side of the mean.
    generator, half = np.random.default_rng(seed), draws // 2
    both = np.concatenate([grid, x])
    prior = (MORE * height) ** 2 * matern(both, both, length)
    smooth = generator.standard_normal((half, len(both))) @ np.linalg.cholesky(prior + 1e-10 * np.eye(len(both))).T
    errors = level.own * _student(generator, median_of(level.own_freedom), (half, len(x)))
    common = level.shared * _student(generator, level.shared_freedom, (half, 1))
    apart = smooth[:, : len(grid)] + (errors - smooth[:, len(grid) :]) @ weights.T + common
    return mean, np.asarray(np.concatenate([mean + apart, mean - apart]), dtype=np.float64)


def ahead(x: Floats, level: Level, rest: Floats, grid: Floats) -> tuple[Floats, Floats]:
    """How far costs are from a law, within the sizes and beyond them, and the standard error of that.

    Beyond the sizes the drift that was seen fades out, and there may be another that was not: the error grows
    with each time the size is multiplied by e.

    Args:
        x, level, rest, grid: as for `paths`; the law is taken as known, but for its height.

    Returns:
        both of shape (g,), in the logarithm of the cost.
    """
    noise, trend = level.own**2 + 1e-6, np.full((len(x), len(x)), LINE)
    height, length = likeliest(x, rest, noise, trend)
    own = (MORE * height) ** 2 * matern(x, x, length) + trend + np.diag(noise)
    across = (MORE * height) ** 2 * matern(grid, x, length) + LINE
    weights = np.linalg.solve(own, across.T).T
    left = (MORE * height) ** 2 + LINE - (weights * across).sum(axis=1)
    beyond = np.maximum(grid - x.max(), 0) + np.maximum(x.min() - grid, 0)
    error = np.sqrt(np.maximum(left, 0) + level.shared**2 + (AHEAD * beyond) ** 2)
    return np.asarray(weights @ rest, dtype=np.float64), np.asarray(error, dtype=np.float64)


def likeliest(
    x: Floats, rest: Floats, noise: Floats, trend: Floats, lengths: tuple[float, ...] = LENGTHS
) -> tuple[float, float]:
    """The height and length that make what laws leave over most likely, at positions of shape (m,) or (m, sizes)."""
    best = (math.inf, USUAL, 1.0)
    unlikely = np.log(HEIGHTS / USUAL) ** 2
    for length in lengths:
        own = HEIGHTS[:, None, None] ** 2 * matern(x, x, length) + trend + np.diag(noise)
        low = np.linalg.cholesky(own)
        z = np.linalg.solve(low, rest[None, :, None])[..., 0]
        scores = (z**2).sum(axis=1) + 2 * np.log(np.diagonal(low, axis1=1, axis2=2)).sum(axis=1) + unlikely
        at = int(scores.argmin())
        if scores[at] < best[0]:
            best = float(scores[at]), float(HEIGHTS[at]), length
    return best[1], best[2]


def matern(one: Floats, other: Floats, length: float) -> Floats:
    """The covariance of unit height between positions of shape (k,) or (k, sizes) and others; shape (k, m)."""
    between = one.reshape(len(one), 1, -1) - other.reshape(1, len(other), -1)
    apart = math.sqrt(3) * np.sqrt((between**2).sum(axis=2)) / length
    return np.asarray((1 + apart) * np.exp(-apart), dtype=np.float64)


def _line(one: Floats, other: Floats, x: Floats) -> Floats:
    return np.asarray(LINE + (one[:, None] - x.mean()) * (other - x.mean()), dtype=np.float64)


def _student(generator: np.random.Generator, freedom: float, shape: tuple[int, int]) -> Floats:
    """Student's t: the same number of degrees of freedom for all of a row, as errors were estimated together."""
    scale = np.sqrt(generator.chisquare(freedom, (shape[0], 1)) / freedom)
    return np.asarray(generator.standard_normal(shape) / scale, dtype=np.float64)
