"""A workload: what the calls of a real program cost in all, by the costs that were measured and forecast."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from itertools import permutations
from typing import TYPE_CHECKING

import numpy as np

from ...errors import AnalysisError
from ...logbook.exchange.calls import Calls
from ...notation.sizes import plain
from ...results.tasks.forecast import FAR, FEW, NO_LAW, REACH
from ...results.workload import Hybrid, SizeClass, Weighing, WorkloadTotal
from ..forecasts import fitted
from ..growth.fit import Growth
from ..growth.forecast import Forecast, cost_at
from ..maps.forecasts import beyond_map, costs_on_map, fitted_maps
from ..maps.grids.places import OnMap
from ..maps.growth import MapGrowth
from ..readings.arrays import Floats

if TYPE_CHECKING:
    from ..analysis import Analysis

CLASSES = 4  # parts of the calls, by size
TOP = 0.1  # of the calls
POINTS_MOST = 200  # of a curve
BETTER = 0.98  # of the best one's total: a hybrid that saves less is none


Called = tuple[str, float, float | None]
"""What is called: the family, the size, and the second size where there is one."""


@dataclass(frozen=True, slots=True)
class Priced:
    """What a call costs one contender at each distinct place, shape (m,) each; `beyond` where that is forecast."""

    contender: str
    value: Floats
    low: Floats
    high: Floats
    beyond: Floats
    at: float | None = None
    why: str = ""


def weighed(analysis: Analysis, calls: Calls) -> tuple[list[WorkloadTotal], Weighing]:
    """What some calls cost with each contender, the cheapest first, and what follows from it.

    Args:
        analysis: of the logbook.
        calls: what is called how often. Those that name no family are of the first one that was measured.

    Raises:
        AnalysisError: where nothing that was measured tells of them.
    """
    logbook = analysis.logbook
    families = [record.name for record in logbook.families]
    usual = families[0] if families else ""
    counts: Counter[Called] = Counter()
    for (size, family, second), times in calls.counts.items():
        counts[family or usual, size, second] += times  # type: ignore[assignment]
    strange = sorted({family for family, _, _ in counts} - {*families})
    if strange:
        raise AnalysisError(f"{calls.source} names the family '{strange[0]}', which {logbook.path} does not have")
    order = sorted(counts, key=lambda key: key[1])
    many, sizes = np.array([float(counts[key]) for key in order]), np.array([size for _, size, _ in order])
    priced = [*(_priced_on_map(analysis, order) if logbook.slices else _priced(analysis, order))]
    if not priced:
        raise AnalysisError(f"{logbook.path} has too few sizes to weigh calls by: measure at least 4")
    totals = sorted((_total(each, many, sizes) for each in priced), key=lambda each: each.total or math.inf)
    known = [each for each in priced if each.at is None]
    if not known:
        return totals, Weighing(calls.source, [], [], None, _pairs(sizes, many), {})
    best = totals[0]
    near = [each.contender for each in totals if each.low is not None and each.low <= (best.total or 0.0)]
    return totals, Weighing(
        source=calls.source,
        best=[best.contender, *(name for name in near if name != best.contender)],
        classes=[*_classes(known, many, sizes)],
        hybrid=_hybrid(known, many, sizes, best.total or 0.0),
        sizes=_pairs(sizes, many),
        accumulated={each.contender: _some(sizes, np.cumsum(many * each.value)) for each in known},
    )


def _priced(analysis: Analysis, order: list[Called]) -> Iterator[Priced]:
    """What each contender costs at each call of one size."""
    growths: dict[tuple[str, str], Growth] = {}
    for series, growth in fitted(analysis):
        if series.metric == "time" and series.stage in (None, "use"):
            growths[series.contender, series.family] = growth
    for contender in dict.fromkeys(name for name, _ in growths):
        rows, why, missing = list[tuple[float, float, float, float]](), "", None
        for family, size, _ in order:
            own = growths.get((contender, family))
            found: Forecast | str = "" if own is None else cost_at(own, size)
            if isinstance(found, str):
                missing, why = size, found
                break
            rows.append((found.value, found.low, found.high, float(found.beyond > 1)))
        value, low, high, beyond = np.array(rows).T if missing is None else np.zeros((4, len(order)))
        yield Priced(contender, value, low, high, beyond, missing, why)


def _priced_on_map(analysis: Analysis, order: list[Called]) -> Iterator[Priced]:
    """What each contender costs at each call of two sizes."""
    found: dict[str, dict[str, tuple[OnMap, MapGrowth]]] = {}
    for on, growth in fitted_maps(analysis):
        if on.series.stage in (None, "use"):
            found.setdefault(on.series.contender, {})[on.series.family] = on, growth
    first, second = (np.array([key[at] for key in order], dtype=np.float64) for at in (1, 2))
    for contender, maps in found.items():
        costs, far = np.full((3, len(order)), np.nan), np.full(len(order), np.inf)
        without = np.zeros(len(order), dtype=np.bool_)
        for family, (on, growth) in maps.items():
            rows = np.array([key[0] == family for key in order])
            if on.series.tells.any() and rows.any():
                costs[:, rows] = costs_on_map(on, growth, first[rows], second[rows])
                far[rows] = beyond_map(on, first[rows], second[rows])
                # What follows no law is known between the places that were measured, and nowhere else.
                without[rows] = growth.law is None
        missing = np.flatnonzero(far > np.where(without, 1.0, REACH))
        at, why = (None, "") if not len(missing) else (float(first[missing[0]]), FEW)
        if len(missing) and np.isfinite(far[missing[0]]):
            why = NO_LAW if without[missing[0]] else FAR
        value, low, high = costs
        yield Priced(contender, value, low, high, (far > 1).astype(np.float64), at, why)


def _total(priced: Priced, many: Floats, sizes: Floats) -> WorkloadTotal:
    """The sum over all calls. What is uncertain at one size is so at the others: ends are added up."""
    calls = round(float(many.sum()))
    if priced.at is not None:
        return WorkloadTotal(priced.contender, calls, None, None, None, at=plain(priced.at), why=priced.why)
    total, low, high = (float(many @ ends) for ends in (priced.value, priced.low, priced.high))
    # The largest tenth of the calls, a size of which it holds a part taken by that part.
    left, top = TOP * float(many.sum()), 0.0
    for at in np.argsort(sizes)[::-1]:
        taken = min(left, float(many[at]))
        top += taken * float(priced.value[at])
        left -= taken
    share = float(many @ (priced.value * priced.beyond)) / total
    return WorkloadTotal(priced.contender, calls, total, low, high, share, top / total)


def _classes(known: list[Priced], many: Floats, sizes: Floats) -> Iterator[SizeClass]:
    """Who is best over each part of the calls, by size, in parts of about as many calls."""
    parts = np.minimum((np.cumsum(many) - many / 2) / many.sum() * CLASSES, CLASSES - 1e-9).astype(int)
    for part in np.unique(parts):
        here = parts == part
        totals: Mapping[str, float] = {each.contender: float(many[here] @ each.value[here]) for each in known}
        best = min(totals, key=lambda name: totals[name])
        ends = plain(float(sizes[here].min())), plain(float(sizes[here].max()))
        yield SizeClass(*ends, round(float(many[here].sum())), best, totals[best])


def _hybrid(known: list[Priced], many: Floats, sizes: Floats, best: float) -> Hybrid | None:
    """The best of taking one contender below a size and another one from there on; None where it saves too little."""
    found: Hybrid | None = None
    for before, after in permutations(known, 2):
        below, above = np.cumsum(many * before.value), np.cumsum((many * after.value)[::-1])[::-1]
        for at in np.flatnonzero(np.diff(sizes)) + 1:
            total = float(below[at - 1] + above[at])
            if total < BETTER * best and (found is None or total < found.total):
                found = Hybrid(before.contender, after.contender, plain(float(sizes[at])), total)
    return found


def _some(sizes: Floats, values: Floats) -> list[list[float]]:
    """Pairs at some of the sizes, both ends included."""
    rows = np.unique(np.linspace(0, len(sizes) - 1, min(len(sizes), POINTS_MOST)).astype(int))
    return _pairs(sizes[rows], values[rows])


def _pairs(sizes: Floats, values: Floats) -> list[list[float]]:
    return [[float(size), float(value)] for size, value in zip(sizes, values, strict=True)]
