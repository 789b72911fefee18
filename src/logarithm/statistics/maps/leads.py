"""Who leads where on a map: at the places that were measured, and on a grid all over it."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ...notation.numbers import rounded
from ...notation.places import Place
from ...notation.sizes import plain
from ...results.base import Interval
from ...results.maps import Lead, MapFinding
from ...results.pairs import LEADS, TIE, TIE_WITHIN, UNKNOWN
from ..comparison.pair import EFFECT
from ..readings.arrays import Floats
from ..uncertainty.level import exact_level, level_of
from .grids.grid import Grid
from .grids.places import OnMap
from .grids.surface import Fit, Surface
from .growth import MapGrowth
from .pair import PairOnMap

Pairs = Mapping[tuple[str, str], PairOnMap]
DRAWN_EVERY = 2  # line of the grid
NOBODY, SURE_MOST = -1, 9.0


@dataclass(frozen=True, slots=True)
class Field:
    """Contenders ranked at places.

    Attributes:
        costs: the logarithm of each cost, NaN where it was not measured, shape (contenders, g).
        leader: the number of the cheapest, -1 where nobody was measured, shape (g,).
        next: that of the next one, -1 where there is none.
        sure: how many times as far ahead of each other one the leader is as it must be to be known to lead.
        tied: where that and the next one are a tie.
        mean, reach: the logarithm of the next one's cost over the leader's, and how far it may be off.
    """

    costs: Floats
    leader: NDArray[np.int_]
    next: NDArray[np.int_]
    sure: Floats
    tied: NDArray[np.bool_]
    mean: Floats
    reach: Floats


@dataclass(frozen=True, slots=True)
class CostSurface:
    """The logarithm of a contender's cost anywhere on a map: its law, and what that leaves over."""

    growth: MapGrowth
    grid: Grid
    fit: Fit

    @classmethod
    def of(cls, on: OnMap, growth: MapGrowth, grid: Grid) -> CostSurface:
        """The surface of a contender that was measured."""
        logs = np.log(np.maximum(on.series.costs, 1e-300))
        level = exact_level(np.log(np.maximum(on.series.typical, 1e-300)))
        if not on.series.is_exact:
            level = level_of(logs, on.series.processes, on.series.is_ours)
        return cls(growth, grid, Fit.of(grid.positions(*on.at), level, level.typical - growth.log_cost(*on.at)))

    def at(self, first: Floats, second: Floats) -> Surface:
        """The surface at places, shape (g,)."""
        found = self.fit.at(self.grid.positions(first, second))
        return replace(found, mean=found.mean + self.growth.log_cost(first, second))


def ranked(
    maps: Sequence[OnMap],
    surfaces: Sequence[CostSurface],
    pairs: Pairs,
    where: tuple[Floats, Floats],
    inside: Sequence[NDArray[np.bool_]],
) -> Field:
    """Rank contenders at places.

    Args:
        maps: the costs of those who are ranked.
        surfaces: what each costs anywhere.
        pairs: each two of them compared.
        where: both sizes of the places, shape (g,).
        inside: where each was measured, shape (g,).
    """
    names = [each.series.contender for each in maps]
    costs = np.stack(
        [np.where(there, surface.at(*where).mean, np.nan) for surface, there in zip(surfaces, inside, strict=True)]
    )
    filled = np.where(np.isnan(costs), np.inf, costs)
    order = np.argsort(filled, axis=0, kind="stable")
    places = np.arange(costs.shape[1])
    leader = np.where(np.isfinite(filled[order[0], places]), order[0], NOBODY)
    second = np.full(len(places), NOBODY)
    if len(maps) > 1:
        second = np.where(np.isfinite(filled[order[1], places]), order[1], NOBODY)
    found = {pair: (compared.at(*where), compared.share) for pair, compared in pairs.items()}
    sure, tied = np.full(len(places), SURE_MOST), np.zeros(len(places), dtype=np.bool_)
    mean, reach = np.full(len(places), np.nan), np.full(len(places), np.nan)
    for number, name in enumerate(names):
        own = leader == number
        for rival, other in enumerate(names):
            if rival == number:
                continue
            against = own & np.isfinite(filled[rival])
            ratio = _of(found, name, other)
            if ratio is None:
                sure = np.where(against, 0.0, sure)
                continue
            # The rival's cost over the leader's.
            ahead, off, least = ratio
            sure = np.where(against, np.minimum(sure, ahead / np.maximum(least, EFFECT)), sure)
            tied |= against & (np.abs(ahead) + off <= math.log1p(TIE_WITHIN)) & (ahead <= least)
            near = against & (second == rival)
            mean, reach = np.where(near, ahead, mean), np.where(near, off, reach)
    return Field(costs, leader, second, np.clip(sure, 0.0, SURE_MOST), tied, mean, reach)


def _of(
    found: Mapping[tuple[str, str], tuple[Surface, float]], name: str, other: str
) -> tuple[Floats, Floats, Floats] | None:
    """The logarithm of the other's cost over one's own, how far that may be off, and what it must be to be sure."""
    turned = (name, other) in found
    pair = found.get((name, other) if turned else (other, name))
    if pair is None:
        return None
    ratio, share = pair
    return (-ratio.mean if turned else ratio.mean), ratio.reach(), ratio.reach(share)


def drawn(
    place: Place, names: Sequence[str], maps: Sequence[OnMap], grid: Grid, field: Field, is_size: bool
) -> MapFinding:
    """A ranked grid as a finding, every other line of it."""
    shape = len(grid.first), len(grid.second)

    def thin(values: NDArray[np.generic]) -> NDArray[np.generic]:
        return values.reshape(shape)[::DRAWN_EVERY, ::DRAWN_EVERY]

    family, stage, metric = place
    return MapFinding(
        family=family,
        metric=metric,
        stage=stage,
        names=list(names),
        first=[rounded(each, 7) for each in grid.first[::DRAWN_EVERY]],
        second=[rounded(each, 7) for each in grid.second[::DRAWN_EVERY]],
        contenders=[each.series.contender for each in maps],
        leader=thin(field.leader).tolist(),
        sure=_cells(thin(field.sure)),
        tied=thin(field.tied).tolist(),
        factor=_cells(thin(np.exp(np.clip(field.mean, -300, 300)))),
        costs=[_cells(thin(np.exp(own))) for own in field.costs],
        is_size=is_size,
    )


def _cells(values: NDArray[np.generic]) -> list[list[float | None]]:
    return [[rounded(each) if math.isfinite(each) else None for each in row] for row in values.tolist()]


def leads(place: Place, maps: Sequence[OnMap], field: Field, where: tuple[Floats, Floats]) -> list[Lead]:
    """Who leads at each measured place, ranked there."""
    family, stage, metric = place
    names = [each.series.contender for each in maps]
    measured = [{(float(a), float(b)): row for row, (a, b) in enumerate(zip(*each.at, strict=True))} for each in maps]
    made = []
    for at, (first, second) in enumerate(zip(*where, strict=True)):
        who = int(field.leader[at])
        if who == NOBODY:
            continue
        after = int(field.next[at])
        factor = None
        if after != NOBODY and math.isfinite(field.mean[at]):
            low, high = field.mean[at] - field.reach[at], field.mean[at] + field.reach[at]
            factor = Interval(*(math.exp(min(each, 300.0)) for each in (float(field.mean[at]), low, high)))
        point = float(first), float(second)
        row = measured[who].get(point)
        made.append(
            Lead(
                family=family,
                metric=metric,
                stage=stage,
                first=plain(point[0]),
                second=plain(point[1]),
                leader=names[who],
                verdict=LEADS if after == NOBODY or field.sure[at] > 1 else TIE if field.tied[at] else UNKNOWN,
                next=names[after] if after != NOBODY else None,
                factor=factor,
                rounds=0 if row is None else int(np.isfinite(maps[who].series.costs[row]).sum()),
                costs={
                    name: float(each.series.typical[rows[point]])
                    for name, each, rows in zip(names, maps, measured, strict=True)
                    if point in rows
                },
            )
        )
    return made
