"""The slices of a map put side by side: one table of costs, a row for each place (first size, second size)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from ....logbook.memory import Slice
from ....notation.places import Key
from ...readings.arrays import Floats
from ...readings.series import Series


@dataclass(frozen=True, slots=True)
class OnMap:
    """The costs of one contender over a map.

    Attributes:
        series: its costs, whose sizes are the numbers of places; its family is the whole one.
        first, second: both sizes of all places of the map by number, shape (places,).
    """

    series: Series
    first: Floats
    second: Floats

    @property
    def at(self) -> tuple[Floats, Floats]:
        """Both sizes of the places that it was measured at, shape (m,)."""
        rows = self.series.sizes.astype(int)
        return self.first[rows], self.second[rows]


def on_maps(series: Sequence[Series], slices: Mapping[str, Slice]) -> list[OnMap]:
    """The series of slices, those of one contender, family, stage and metric together."""
    own = [each for each in series if each.family in slices]
    points: dict[str, dict[tuple[float, float], int]] = {}
    grouped: dict[Key, list[Series]] = {}
    for each in own:
        part = slices[each.family]
        known = points.setdefault(part.family, {})
        for size in each.sizes:
            known.setdefault((float(part.second), float(size)), len(known))
        grouped.setdefault((each.contender, part.family, each.stage, each.metric), []).append(each)
    made = []
    for key, group in grouped.items():
        # The places are numbered for all contenders of a family alike.
        order = sorted(points[key[1]])
        number = {place: at for at, place in enumerate(order)}
        first, second = (np.array([place[which] for place in order]) for which in (1, 0))
        made.append(OnMap(_together(key, group, slices, number), first, second))
    return made


def _together(
    key: Key, group: Sequence[Series], slices: Mapping[str, Slice], number: Mapping[tuple[float, float], int]
) -> Series:
    """Slices of one contender as one series over places."""
    heats = np.unique(np.concatenate([each.heats for each in group]))
    processes = np.ones(len(heats), dtype=np.int32)
    rows: list[tuple[int, Floats]] = []
    for each in group:
        columns = np.searchsorted(heats, each.heats)
        processes[columns] = each.processes
        for size, costs in zip(each.sizes, each.costs, strict=True):
            row = np.full(len(heats), np.nan)
            row[columns] = costs
            rows.append((number[float(slices[each.family].second), float(size)], row))
    rows.sort(key=lambda each: each[0])
    at = np.array([place for place, _ in rows], dtype=np.float64)
    return Series(*key, at, heats, processes, np.stack([row for _, row in rows]), group[0].is_ours)
