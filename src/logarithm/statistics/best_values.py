"""Which value of a level, or of an axis that is no size, costs least, and which cost about as much."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import Any

import numpy as np

from ..logbook.memory import Logbook
from ..logbook.records import WITHOUT_SIZE, ContenderRecord
from ..notation.places import Place
from ..notation.sizes import plain
from ..results.best_values import BestValue
from ..results.pairs import TIE_WITHIN
from .comparison.pair import pair_of
from .comparison.pairs import PairComparisons, places
from .readings.arrays import Floats
from .readings.series import Series, shared_sizes
from .uncertainty.level import level_of

VALUES_LEAST = 3  # of an axis


def best_values_of(logbook: Logbook, series: list[Series], comparisons: PairComparisons) -> Iterator[BestValue]:
    """The best values of the axis, where it is no size, and of the levels of each contender.

    Args:
        logbook: what was varied in it.
        series: the costs.
        comparisons: of all pairs.
    """
    axis = logbook.study.axis
    for each in series if axis not in ("size", WITHOUT_SIZE) else ():
        if each.tells.sum() >= VALUES_LEAST:
            yield _along(each, axis)
    families: dict[tuple[str, str], list[ContenderRecord]] = {}
    for record in logbook.contenders:
        for name in record.levels if record.base else ():
            others = {key: value for key, value in record.levels.items() if key != name}
            families.setdefault((f"{record.base}{sorted(others.items()) or ''}", name), []).append(record)
    for (_, name), records in families.items():
        for place, group in places(series).items():
            there = [(record, each) for record in records for each in group if each.contender == record.name]
            if len(there) > 1 and axis == "size":
                yield from _among(place, name, there, comparisons)


def _along(series: Series, axis: str) -> BestValue:
    """The best value of an axis: others are alike that cost as much within a tie, or are not known to cost more."""
    rows = np.flatnonzero(series.tells)
    costs = series.typical[rows]
    logs: Floats = np.log(np.maximum(series.costs[rows], 1e-300))
    reach = level_of(logs, series.processes, series.is_ours).reach()
    at = int(np.argmin(costs))
    behind = np.log(np.maximum(costs, 1e-300) / max(costs[at], 1e-300))
    alike = (behind <= np.log1p(TIE_WITHIN)) | (behind <= np.hypot(reach, reach[at]))
    # What lies apart from the best one is another valley, and may be there by chance.
    first, last = at, at
    while first > 0 and alike[first - 1]:
        first -= 1
    while last + 1 < len(costs) and alike[last + 1]:
        last += 1
    values = [plain(float(value)) for value in series.sizes[rows]]
    return _made(series.contender, series.place, axis, None, values, costs, at, range(first, last + 1))


def _among(
    place: Place, name: str, there: Sequence[tuple[ContenderRecord, Series]], comparisons: PairComparisons
) -> Iterator[BestValue]:
    """The best value of a level at the largest size that all of them reached."""
    shared = shared_sizes(each.sizes[each.tells] for _, each in there)
    if not shared:
        return
    size = max(shared)
    costs = np.array([float(each.typical[each.sizes == size][0]) for _, each in there])
    at = int(np.argmin(costs))
    pairs = comparisons.get(place, {})
    alike = []
    for number, (_, each) in enumerate(there):
        pair = pair_of(pairs, there[at][1].contender, each.contender) if number != at else None
        if number == at or costs[number] <= (1 + TIE_WITHIN) * costs[at] or (pair and not pair.sign(size)):
            alike.append(number)
    values = [record.levels[name] for record, _ in there]
    yield _made(there[0][0].base, place, name, size, values, costs, at, alike)


def _made(
    who: str,
    place: Place,
    name: str,
    size: float | None,
    values: list[Any],
    costs: Floats,
    at: int,
    near: Iterable[int],
) -> BestValue:
    worst, alike = int(np.argmax(costs)), list(near)
    least = max(float(costs[at]), 1e-300)
    family, stage, metric = place
    return BestValue(
        contender=who,
        family=family,
        stage=stage,
        metric=metric,
        name=name,
        size=None if size is None else plain(size),
        best=values[at],
        cost=float(costs[at]),
        alike=[values[number] for number in alike],
        within=max(float(costs[number]) for number in alike) / least - 1,
        dearest=values[worst],
        times=float(costs[worst]) / least,
        is_flat=len(alike) == len(values),
    )
