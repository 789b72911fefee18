"""Where a crossover lies: the size at which the ratio of two costs is one, with an interval.

The typical log ratio at the sizes around a change of lead is smoothed and set to zero. Where the growth of both
contenders is known, the smoother starts from the ratio of their fitted curves and adds a local straight line to
what these leave over, as Hjort and Glad do with densities (Annals of Statistics 23, 1995, 882-904): the curves
bring the bend, so that more sizes can help. Else it is a local parabola. The weights are the tricube's (Cleveland,
Journal of the American Statistical Association 74, 1979, 829-836).

The interval comes from drawing the lives anew, or the heats where there are few lives: the bootstrap of Efron and
Tibshirani, An Introduction to the Bootstrap (1993), chapters 12 and 13, for a small sample widened by Student's t.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.special import stdtrit

from ..series import Floats, location

Law = Callable[[Floats], Floats]
"""The logarithm of the ratio of two fitted costs, at sizes of shape (k,)."""

DRAWS = 500
DRAWN_LEAST, DRAWN_MOST = 4, 100  # of fewer, drawing anew says too little; of more, nothing that the error does not
LINE, PARABOLA = (10, 1), (8, 2)  # how many sizes, and which degree
NARROWER = 3  # how many sizes fewer the second opinion has, by which the curve's own fault is judged
REACH = 1.15  # the weight falls to nothing a little beyond the farthest size
TURNS = 5
GRID = 120
SPREAD = 4.0  # sizes that rise by a larger factor lie on a logarithmic axis


@dataclass(frozen=True, slots=True)
class Crossing:
    """`before` leads below `size`, `after` above it; the 95 % interval is from `low` to `high`."""

    before: str
    after: str
    size: float
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class Axis:
    """Sizes, shape (m,), and their positions: logarithms where they rise by a large factor, else as they are."""

    sizes: Floats
    positions: Floats
    is_log: bool

    @classmethod
    def of(cls, sizes: Floats) -> Axis:
        """The axis of rising sizes."""
        is_log = bool(sizes[0] > 0 and sizes[-1] > SPREAD * sizes[0])
        return cls(sizes, np.log(sizes) if is_log else sizes, is_log)

    def size(self, position: float) -> float:
        """The size at a position."""
        return math.exp(position) if self.is_log else position


def locate(
    axis: Axis,
    ratios: Floats,
    lives: NDArray[np.int32],
    error: Floats,
    between: tuple[int, int],
    law: Law | None = None,
) -> tuple[float, float, float]:
    """A crossing and its 95 % interval, all as sizes.

    No curve is quite the true one. How far it leads astray is judged by a second one through fewer sizes; the
    interval is widened by as much as the two differ beyond what noise explains.

    Args:
        axis: the sizes.
        ratios: log ratios, shape (sizes, heats), NaN where there is none.
        lives: the life of each heat.
        error: the standard error at each size.
        between: the indices of the sizes on either side at which the lead is clear.
        law: what the fitted curves say.
    """
    typical = location(ratios)
    draws, widen = _drawn(ratios, typical, lives, error)
    curves = np.concatenate([typical[None], draws])
    window, degree = LINE if law is not None else PARABOLA
    roots = _roots(axis, curves, between, window, degree, law)
    narrower = _roots(axis, curves, between, window - NARROWER, degree, law)
    apart = narrower - roots
    astray = max(0.0, abs(float(apart[0])) - float(apart[1:].std()))
    low, high = np.quantile(roots[1:], [0.025, 0.975])
    root = float(roots[0])
    below, above = max(root - float(low), 0.0) * widen + astray, max(float(high) - root, 0.0) * widen + astray
    return axis.size(root), axis.size(root - below), axis.size(root + above)


def _roots(axis: Axis, curves: Floats, between: tuple[int, int], window: int, degree: int, law: Law | None) -> Floats:
    """Positions at which smoothed curves are zero, shape (len(curves),); the first curve says where they are sought."""
    x = axis.positions
    bounds = x[between[0]], x[between[1]]
    reach = (bounds[1] - bounds[0]) / 2
    grid = np.linspace(max(bounds[0] - reach, x[0]), min(bounds[1] + reach, x[-1]), GRID)
    base = law if law is not None else np.zeros_like
    start = base(np.exp(grid) if axis.is_log else grid)
    rest = curves - base(axis.sizes)
    centre, found = float(np.mean(bounds)), np.empty(0)
    for _ in range(TURNS):
        near = np.sort(np.argsort(np.abs(x - centre))[: min(window, len(x))])
        weight = (1 - (np.abs(x[near] - centre) / (REACH * np.abs(x[near] - centre).max() + 1e-12)) ** 3) ** 3
        root_weight = np.sqrt(np.maximum(weight, 1e-6))
        terms = min(degree, len(near) - 1) + 1
        solve = np.linalg.pinv(np.vander(x[near] - centre, terms) * root_weight[:, None]) * root_weight
        smooth = start + (rest[:, near] @ solve.T) @ np.vander(grid - centre, terms).T
        found = _zero(grid, smooth, centre)
        if abs(found[0] - centre) < 1e-3 * reach:
            break
        centre = float(found[0])
    return found


def _zero(grid: Floats, smooth: Floats, centre: float) -> Floats:
    """Where each row changes sign nearest to `centre`, between two points of the grid; where none does, its least."""
    flips = smooth[:, :-1] * smooth[:, 1:] <= 0
    away = np.where(flips, np.abs(grid[:-1] - centre), np.inf)
    at = away.argmin(axis=1)
    rows = np.arange(len(smooth))
    one, other = smooth[rows, at], smooth[rows, at + 1]
    share = np.divide(one, one - other, out=np.full(len(one), 0.5), where=one != other)
    crossing = grid[at] + np.clip(share, 0, 1) * (grid[at + 1] - grid[at])
    return np.asarray(np.where(np.isfinite(away[rows, at]), crossing, grid[np.abs(smooth).argmin(axis=1)]))


def _drawn(ratios: Floats, typical: Floats, lives: NDArray[np.int32], error: Floats) -> tuple[Floats, float]:
    """Typical ratios of lives or heats drawn anew, shape (DRAWS, sizes), and by how much to widen what they say."""
    generator = np.random.default_rng(20240229)
    numbers, life = np.unique(lives, return_inverse=True)
    by_life = len(numbers) >= DRAWN_LEAST
    count = len(numbers) if by_life else ratios.shape[1]
    if not DRAWN_LEAST <= count <= DRAWN_MOST or ratios.shape[1] > DRAWN_MOST:
        return typical + error * generator.standard_normal((DRAWS, len(typical))), 1.0
    drawn = generator.integers(count, size=(DRAWS, count))
    if by_life:
        # How often each heat is drawn, with its life; repeated columns carry it.
        times = np.stack([np.bincount(draw, minlength=count) for draw in drawn])[:, life]
        draws = np.stack([_again(ratios, row, typical) for row in times])
    else:
        draws = _filled(location(ratios[:, drawn].swapaxes(0, 1)), typical)
    widen = float(stdtrit(count - 1.0, 0.975)) / 1.96 * math.sqrt(count / (count - 1))
    # A robust mean of few values moves in jumps; a little normal noise of its own size smooths them.
    return draws + 0.2 * error * generator.standard_normal(draws.shape), widen


def _again(ratios: Floats, times: NDArray[np.intp], typical: Floats) -> Floats:
    return _filled(location(np.repeat(ratios, times, axis=1)), typical)


def _filled(drawn: Floats, typical: Floats) -> Floats:
    return np.where(np.isfinite(drawn), drawn, typical)
