"""From a logbook of two sizes to what its findings say of the whole map."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, field
from itertools import combinations

import numpy as np

from ...logbook.memory import Logbook
from ...notation.laws import Names
from ...notation.metrics import BESIDE, WORK
from ...notation.places import Key, Place
from ...results.findings import ClaimFinding, GrowthFinding
from ...results.maps import Boundary, Lead, MapFinding
from ..readings.series import Series
from .boundary import Curve, boundary, curves
from .grids.grid import Grid
from .grids.places import OnMap, on_maps
from .growth import MapGrowth, claim_on, growth_finding, map_growth
from .leads import CostSurface, drawn, leads, ranked
from .pair import PairOnMap, compare_on_map

MATTERS = 0.2  # of the points of a boundary


@dataclass(slots=True)
class Mapped:
    """What is concluded of a map, as the findings have it."""

    growth: list[GrowthFinding] = field(default_factory=list)
    claims: list[ClaimFinding] = field(default_factory=list)
    boundaries: list[Boundary] = field(default_factory=list)
    leads: list[Lead] = field(default_factory=list)
    maps: list[MapFinding] = field(default_factory=list)
    on: list[OnMap] = field(default_factory=list)
    laws: dict[Key, MapGrowth] = field(default_factory=dict)
    pairs: list[tuple[Place, PairOnMap]] = field(default_factory=list)


def mapped(logbook: Logbook, every: Sequence[Series], yardsticks: Collection[str]) -> Mapped:
    """What the slices of a logbook say together.

    Args:
        logbook: of two sizes.
        every: its series, those beside time among them.
        yardsticks: contenders that are not ranked.
    """
    names: Names = (logbook.study.names[0], logbook.study.names[1])
    is_size = logbook.study.is_second_size
    maps = on_maps(every, logbook.slices)
    works = {each.series.who: each for each in maps if each.series.metric == WORK}
    records = {record.name: record for record in logbook.contenders}
    found = Mapped(on=maps)
    places: dict[Place, list[tuple[OnMap, MapGrowth]]] = {}
    for each in maps:
        if each.series.metric in BESIDE:
            continue
        work = works.get(each.series.who) if each.series.metric == "time" else None
        growth = map_growth(each, work, names) if is_size else MapGrowth(None, (), 0.0, {}, "")
        found.laws[each.series.key] = growth
        if is_size:
            found.growth.append(growth_finding(each, growth, names))
            claim = claim_on(each, growth, records[each.series.contender], names)
            found.claims += [] if claim is None else [claim]
        if each.series.contender not in yardsticks:
            places.setdefault(each.series.place, []).append((each, growth))
    for place, group in places.items():
        if len(group) > 1:
            _on_place(place, group, names, is_size, found)
    return found


def _on_place(place: Place, group: list[tuple[OnMap, MapGrowth]], names: Names, is_size: bool, found: Mapped) -> None:
    """Who leads where, and the boundaries, at one place."""
    maps = [on for on, _ in group]
    grid = Grid.of(maps)
    pairs: dict[tuple[str, str], PairOnMap] = {}
    for (one, its), (other, others) in combinations(group, 2):
        compared = compare_on_map(one, other, (its, others), grid.positions)
        if compared is not None:
            pairs[compared.one, compared.other] = compared
            found.pairs.append((place, compared))
    inside = [grid.covered(each) for each in maps]
    surfaces = [CostSurface.of(on, growth, grid) for on, growth in group]
    field_of = ranked(maps, surfaces, pairs, grid.places, [each.ravel() for each in inside])
    found.maps.append(drawn(place, names, maps, grid, field_of, is_size))
    number = {each.series.contender: at for at, each in enumerate(maps)}
    leaders = {name: (field_of.leader == at).reshape(inside[0].shape) for name, at in number.items()}
    for pair, compared in pairs.items():
        both = inside[number[pair[0]]] & inside[number[pair[1]]]
        for curve in curves(compared, grid, both):
            matters = _is_between(curve, grid, leaders[pair[0]], leaders[pair[1]])
            found.boundaries.append(boundary(place, compared, curve, names, matters))
    where = maps[0].first, maps[0].second
    there = [np.isin(np.arange(len(where[0])), each.series.sizes.astype(int)) for each in maps]
    found.leads += leads(place, maps, ranked(maps, surfaces, pairs, where, there), where)


def _is_between(curve: Curve, grid: Grid, one: object, other: object) -> bool:
    """Whether a boundary separates two leaders: beside some of its points both are ahead of all others."""
    first, second = np.asarray(one), np.asarray(other)
    between = 0
    for point in curve.points:
        sizes = (point.across, point.at) if curve.is_along_second else (point.at, point.across)
        i, j = (
            int(np.abs(lines - size).argmin()) for lines, size in zip((grid.first, grid.second), sizes, strict=True)
        )
        near = (slice(max(i - 1, 0), i + 2), slice(max(j - 1, 0), j + 2))
        between += bool(first[near].any() and second[near].any())
    return between >= MATTERS * len(curve.points)
