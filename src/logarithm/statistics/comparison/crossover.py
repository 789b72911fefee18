"""Where a crossover lies: the size at which the ratio of two costs is one, with an interval.

The level of the log ratio at the sizes around a change of lead is followed by a curve, which is zero at the crossing.
Where the growth of both contenders is known, the curve starts from the ratio of their fitted costs, and what these
leave over is a smooth drift: a parametric start with a correction (Hjort and Glad, Annals of Statistics 23, 1995,
882-904), here a Gaussian process (Kennedy and O'Hagan, Journal of the Royal Statistical Society B 63, 2001, 425-464).
The interval is that of the zeros of all curves that agree with the levels, and takes in what runs around a call.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..readings.arrays import Floats, quantiles
from ..uncertainty.level import Level
from ..uncertainty.paths import paths

Law = Callable[[Floats], Floats]
"""The logarithm of the ratio of two fitted costs, at sizes of shape (k,)."""

DRAWS = 600
GRID = 64
AROUND = 0.015  # what runs around a call changes its cost by: a standard error that no number of processes lessens
SPREAD = 4.0  # sizes that rise by a larger factor lie on a logarithmic axis


@dataclass(frozen=True, slots=True)
class Crossing:
    """`before` leads below `size`, `after` above it; the 95 % interval is from `low` to `high`.

    Where sizes are too few for one, it `is_bracket`: somewhere between the measured sizes `low` and `high`.
    """

    before: str
    after: str
    size: float
    low: float
    high: float
    is_bracket: bool = False


@dataclass(frozen=True, slots=True)
class Axis:
    """Sizes, shape (m,), and their positions: logarithms where they rise by a large factor, else as they are."""

    sizes: Floats
    positions: Floats
    is_log: bool

    @classmethod
    def of(cls, sizes: Floats) -> Axis:
        """The axis of rising sizes."""
        is_log = bool(len(sizes) and sizes[0] > 0 and sizes[-1] > SPREAD * sizes[0])
        return cls(sizes, np.log(sizes) if is_log else sizes, is_log)

    def position(self, size: float) -> float:
        """The position of a size."""
        return math.log(size) if self.is_log else size

    def size(self, position: float) -> float:
        """The size at a position."""
        return math.exp(position) if self.is_log else position

    def middle(self, sizes: Sequence[float]) -> float:
        """The size amid some."""
        return self.size(sum(map(self.position, sizes)) / len(sizes))

    def apart(self, low: float, high: float) -> float:
        """How far two sizes are apart: the logarithm of their ratio, or their share of what the axis spans."""
        off = self.position(high) - self.position(low)
        return off if self.is_log else off / max(float(self.sizes[-1] - self.sizes[0]), 1e-300)


def locate(axis: Axis, level: Level, between: tuple[int, int], law: Law | None = None) -> tuple[float, float, float]:
    """A crossing and its 95 % interval, all as sizes.

    Args:
        axis: the sizes.
        level: the log ratio at each size, with its errors.
        between: the indices of the sizes on either side at which the lead is clear.
        law: what the fitted curves say.
    """
    # On an axis that does not rise by a large factor positions are brought to about one.
    scale = 1.0 if axis.is_log else max(float(np.abs(axis.positions).mean()), 1e-9)
    x = axis.positions / scale
    low, high = between
    if level.processes:
        level = replace(level, shared=math.hypot(level.shared, AROUND))
    grid = np.linspace(x[max(low - 1, 0)], x[min(high + 1, len(x) - 1)], GRID)
    base = law if law is not None else np.zeros_like
    start = base(np.exp(grid) if axis.is_log else grid * scale)
    mean, drawn = paths(x, level, level.typical - base(axis.sizes), grid, DRAWS)
    root = float(_zero(grid, (start + mean)[None], float(x[low] + x[high]) / 2)[0])
    roots = _zero(grid, start + drawn, root)
    ends = quantiles(roots, (0.025, 0.975))
    first, last = min(float(ends[0]), root), max(float(ends[1]), root)
    return axis.size(root * scale), axis.size(first * scale), axis.size(last * scale)


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
