"""Two contenders on a map: the logarithm of the ratio of their costs, as a surface, and where it changes sign."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from ...notation.metrics import TIMED
from ..comparison.pair import paired
from ..readings.arrays import Floats, median
from ..uncertainty.level import Level, exact_level, level_of
from ..uncertainty.repeated_looks import lead_share
from .grids.places import OnMap
from .grids.surface import Fit, Surface
from .growth import MapGrowth

PLACES_LEAST = 4
Positions = Callable[[Floats, Floats], Floats]
"""Makes positions of both sizes, shape (k, 2)."""


@dataclass(frozen=True, slots=True)
class PairOnMap:
    """Two contenders compared on a map.

    Attributes:
        one, other: their names.
        first, second: both sizes of the places that both were measured at, shape (m,).
        level: the log ratio there, with its errors.
        share: how surely a lead must be one on each side, so that over the whole map twins rarely get a leader.
        positions: where sizes lie.
        base: the log ratio of their laws.
        fit: what the level leaves over that.
    """

    one: str
    other: str
    first: Floats
    second: Floats
    level: Level
    share: float
    positions: Positions
    base: Callable[[Floats, Floats], Floats]
    fit: Fit

    def at(self, first: Floats, second: Floats) -> Surface:
        """The log ratio at other places, shape (g,)."""
        own = self.fit.at(self.positions(first, second))
        return replace(own, mean=own.mean + self.base(first, second))


def compare_on_map(
    one: OnMap, other: OnMap, growths: tuple[MapGrowth, MapGrowth], positions: Positions
) -> PairOnMap | None:
    """Compare two contenders; None where they have hardly a place in common."""
    both, rows, columns = np.intersect1d(one.series.sizes, other.series.sizes, return_indices=True)
    tells = one.series.tells[rows] & other.series.tells[columns]
    both, rows, columns = both[tells], rows[tells], columns[tells]
    if len(both) < PLACES_LEAST:
        return None
    ratios, processes = paired(one.series, other.series, rows, columns)
    is_exact = one.series.is_exact and other.series.is_exact
    level = (
        exact_level(median(ratios))
        if is_exact
        else level_of(ratios, processes, one.series.is_ours and one.series.metric in TIMED)
    )
    numbers = both.astype(int)

    def base(first: Floats, second: Floats) -> Floats:
        if not all(growth.terms for growth in growths):
            return np.zeros(len(first))
        return growths[0].log_cost(first, second) - growths[1].log_cost(first, second)

    share = lead_share(len(both))
    names = one.series.contender, other.series.contender
    at = one.first[numbers], one.second[numbers]
    fit = Fit.of(positions(*at), level, level.typical - base(*at))
    return PairOnMap(*names, *at, level, share, positions, base, fit)
