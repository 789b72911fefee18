"""The grid that a map is drawn on: where sizes lie, and which places of it somebody measured."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...comparison.crossover import Axis
from ...readings.arrays import Floats
from .places import OnMap

LINES = 61  # of a grid, either way
SPAN = 5.0  # the length that an axis has which does not rise by a large factor, as positions


@dataclass(frozen=True, slots=True)
class Direction:
    """One size of a map: its positions are logarithms where it rises by a large factor, else shares of its range."""

    low: float
    high: float
    is_log: bool

    @classmethod
    def of(cls, sizes: Floats) -> Direction:
        """The direction of measured sizes."""
        rising = np.unique(sizes)
        return cls(float(rising[0]), float(rising[-1]), Axis.of(rising).is_log)

    def positions(self, sizes: Floats) -> Floats:
        """The positions of sizes."""
        if self.is_log:
            return np.asarray(np.log(sizes), dtype=np.float64)
        return np.asarray(SPAN * (sizes - self.low) / max(self.high - self.low, 1e-300), dtype=np.float64)

    def lines(self, many: int = LINES) -> Floats:
        """Sizes at equal distances, both ends included."""
        spaced = np.geomspace if self.is_log else np.linspace
        return np.asarray(spaced(self.low, self.high, many), dtype=np.float64)


@dataclass(frozen=True, slots=True)
class Grid:
    """The grid of a map; `first` and `second` are the sizes of its lines, shapes (g,) and (h,)."""

    across: Direction
    down: Direction
    first: Floats
    second: Floats

    @classmethod
    def of(cls, maps: Sequence[OnMap]) -> Grid:
        """The grid of the places that some contenders were measured at."""
        at = [each.at for each in maps]
        across = Direction.of(np.concatenate([first for first, _ in at]))
        down = Direction.of(np.concatenate([second for _, second in at]))
        return cls(across, down, across.lines(), down.lines())

    def positions(self, first: Floats, second: Floats) -> Floats:
        """The positions of places, shape (k, 2)."""
        return np.stack([self.across.positions(first), self.down.positions(second)], axis=1)

    @property
    def places(self) -> tuple[Floats, Floats]:
        """Both sizes of every place of it, line by line of the first, shape (g h,)."""
        first, second = np.meshgrid(self.first, self.second, indexing="ij")
        return first.ravel(), second.ravel()

    def covered(self, on: OnMap) -> NDArray[np.bool_]:
        """Which places lie within those that a contender was measured at, shape (g, h).

        Between two values of the second size the ends of the first are taken to go straight from one to the other.
        """
        first, second = on.at
        values = np.unique(second)
        ends = np.array([[first[second == value].min(), first[second == value].max()] for value in values])
        at, to = self.down.positions(values), self.down.positions(self.second)
        low, high = (np.interp(to, at, self.across.positions(ends[:, which])) for which in (0, 1))
        inside = (to >= at[0] - 1e-9) & (to <= at[-1] + 1e-9)
        x = self.across.positions(self.first)[:, None]
        return np.asarray((x >= low - 1e-9) & (x <= high + 1e-9) & inside, dtype=np.bool_)
