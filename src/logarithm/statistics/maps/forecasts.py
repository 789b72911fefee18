"""Forecasts on a map: what a place that was not measured will cost, or how large a first size a time allows there."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterator
from typing import TYPE_CHECKING

import numpy as np

from ...errors import AnalysisError
from ...notation.laws import Names
from ...results.tasks.forecast import FAR, FEW, NO_LAW, NONE_FITS, REACH, Ahead, Forecast
from ..readings.arrays import Floats
from ..uncertainty.paths import AHEAD
from .grids.grid import Grid
from .grids.places import OnMap
from .grids.surface import Surface
from .growth import MapGrowth
from .leads import CostSurface

if TYPE_CHECKING:
    from ..analysis import Analysis

STEPS = 400  # sizes at which it is looked whether a call still takes no longer


def forecast_on_map(
    analysis: Analysis,
    first: float | None,
    second: float,
    within: float | None,
    only: Collection[str] = (),
    family: Collection[str] = (),
) -> Forecast:
    """What each contender will cost at a place, or how large a first size it manages within so many seconds.

    Args:
        analysis: of a logbook of two sizes.
        first, second: the place; no first size where it is looked for.
        within: seconds, where it is looked for.
        only, family: contenders and families; all where none is named.

    Raises:
        AnalysisError: where the second is not a size, or nothing was measured in time.
    """
    logbook = analysis.logbook
    names: Names = (logbook.study.names[0], logbook.study.names[1])
    if not logbook.study.is_second_size:
        raise AnalysisError(
            f"{names[1]} is not a size, so nothing is forecast beside it: say {names[1]} = a measured value"
        )
    rows = [_ahead(on, growth, first, second, within) for on, growth in fitted_maps(analysis, only, family)]
    if not rows:
        raise AnalysisError(f"{logbook.path} has no times to forecast from")
    return Forecast(str(logbook.path), first, within, rows, second, list(names))


def fitted_maps(
    analysis: Analysis, only: Collection[str] = (), family: Collection[str] = ()
) -> Iterator[tuple[OnMap, MapGrowth]]:
    """The times of some contenders and families on a map, of all where none is named, with their growth."""
    for each in analysis.map.on:
        is_asked = not only or each.series.contender in only
        if each.series.metric == "time" and is_asked and (not family or each.series.family in family):
            yield each, analysis.map.laws[each.series.key]


def _ahead(on: OnMap, growth: MapGrowth, first: float | None, second: float, within: float | None) -> Ahead:
    key = on.series.key
    if not on.series.tells.any():
        return Ahead(*key, why=FEW)
    if first is not None:
        beyond = float(beyond_map(on, np.array([first]), np.array([second]))[0])
        if beyond > (REACH if growth.law else 1.0):
            return Ahead(*key, beyond=beyond, why=FAR if growth.law else NO_LAW)
        value, low, high = costs_on_map(on, growth, np.array([first]), np.array([second]))[:, 0]
        return Ahead(*key, float(value), float(low), float(high), beyond)
    assert within is not None
    if growth.law is None:
        return Ahead(*key, why=NO_LAW)
    own = on.at[0]
    sizes = np.geomspace(float(own.min()), REACH * float(own.max()), STEPS)
    value, low, high = np.log(costs_on_map(on, growth, sizes, np.full(len(sizes), second))) - math.log(within)
    largest, least, most = (_last(sizes, column) for column in (value, high, low))
    if largest is None:
        return Ahead(*key, why=NONE_FITS)
    end = None if most is None or most >= sizes[-1] else most
    far = float(beyond_map(on, np.array([largest]), np.array([second]))[0])
    return Ahead(*key, largest, least or float(sizes[0]), end, far, is_least=largest >= sizes[-1])


def costs_on_map(on: OnMap, growth: MapGrowth, first: Floats, second: Floats) -> Floats:
    """What calls cost at places, less sure the farther these lie beyond what was measured.

    Args:
        on: what was measured.
        growth: how it grows.
        first, second: the places, shape (m,) each.

    Returns:
        The cost and both ends of its 95 % interval, shape (3, m).
    """
    found = CostSurface.of(on, growth, Grid.of([on])).at(first, second)
    far = np.log(np.maximum(beyond_map(on, first, second), 1.0))
    unsure = Surface(found.mean, np.hypot(found.error, AHEAD * far), found.freedom)
    reach = unsure.reach()
    return np.exp(np.stack([unsure.mean, unsure.mean - reach, unsure.mean + reach]))


def beyond_map(on: OnMap, first: Floats, second: Floats) -> Floats:
    """How many times the largest measured size places lie at, in the size in which that is more; shape (m,)."""
    own = on.at
    return np.asarray(np.maximum(first / own[0].max(), second / max(float(own[1].max()), 1e-300)), dtype=np.float64)


def _last(sizes: Floats, over: Floats) -> float | None:
    """The largest size up to which a cost stays within a limit, `over` the logarithm of their ratio."""
    late = np.flatnonzero(over > 0)
    if not len(late):
        return float(sizes[-1])
    at = int(late[0])
    if at == 0:
        return None
    share = over[at - 1] / (over[at - 1] - over[at])
    return float(math.exp(math.log(sizes[at - 1]) + share * math.log(sizes[at] / sizes[at - 1])))
