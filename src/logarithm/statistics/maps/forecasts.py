"""Forecasts on a map: what a place that was not measured will cost, or how large a first size a time allows there."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterator

import numpy as np

from ...errors import AnalysisError
from ...logbook.memory import Logbook
from ...notation.laws import Names
from ...notation.metrics import WORK
from ...results.forecast import FAR, FEW, NONE_FITS, REACH, Ahead, Forecast
from ..analyse import every_series
from ..arrays import Floats
from ..uncertainty.paths import AHEAD
from .grid import Grid
from .growth import MapGrowth, map_growth
from .leads import CostSurface
from .places import OnMap, on_maps
from .surface import Surface

STEPS = 400  # sizes at which it is looked whether a call still takes no longer


def forecast_on_map(
    logbook: Logbook,
    first: float | None,
    second: float,
    within: float | None,
    only: Collection[str] = (),
    family: Collection[str] = (),
) -> Forecast:
    """What each contender will cost at a place, or how large a first size it manages within so many seconds.

    Args:
        logbook: of two sizes.
        first, second: the place; no first size where it is looked for.
        within: seconds, where it is looked for.
        only, family: contenders and families; all where none is named.

    Raises:
        AnalysisError: where the second is not a size, or nothing was measured in time.
    """
    names: Names = (logbook.study.names[0], logbook.study.names[1])
    if not logbook.study.is_second_size:
        raise AnalysisError(
            f"{names[1]} is not a size, so nothing is forecast beside it: say {names[1]} = a measured value"
        )
    maps = on_maps(every_series(logbook)[0], logbook.slices)
    works = {each.series.who: each for each in maps if each.series.metric == WORK}
    rows = [
        _ahead(each, map_growth(each, works.get(each.series.who), names), first, second, within)
        for each in maps
        if each.series.metric == "time"
        and (not only or each.series.contender in only)
        and (not family or each.series.family in family)
    ]
    if not rows:
        raise AnalysisError(f"{logbook.path} has no times to forecast from")
    return Forecast(str(logbook.path), first, within, rows, second, list(names))


def _ahead(on: OnMap, growth: MapGrowth, first: float | None, second: float, within: float | None) -> Ahead:
    key = on.series.key
    if growth.law is None:
        return Ahead(*key, why=FEW)
    if first is not None:
        beyond = _beyond(on, first, second)
        if beyond > REACH:
            return Ahead(*key, beyond=beyond, why=FAR)
        found = _surface(on, growth, np.array([first]), second)
        value, low, high = (math.exp(each) for each in next(_ends(found)))
        return Ahead(*key, value, low, high, beyond)
    assert within is not None
    own = on.at[0]
    sizes = np.geomspace(float(own.min()), REACH * float(own.max()), STEPS)
    ends = np.array([*_ends(_surface(on, growth, sizes, second))]) - math.log(within)
    largest, least, most = (_last(sizes, column) for column in (ends[:, 0], ends[:, 2], ends[:, 1]))
    if largest is None:
        return Ahead(*key, why=NONE_FITS)
    end = None if most is None or most >= sizes[-1] else most
    far = _beyond(on, largest, second)
    return Ahead(*key, largest, least or float(sizes[0]), end, far, is_least=largest >= sizes[-1])


def _surface(on: OnMap, growth: MapGrowth, first: Floats, second: float) -> Surface:
    """The logarithm of the cost, less sure the farther it lies beyond what was measured."""
    found = CostSurface.of(on, growth, Grid.of([on])).at(first, np.full(len(first), second))
    far = [math.log(max(_beyond(on, float(size), second), 1.0)) for size in first]
    return Surface(found.mean, np.hypot(found.error, AHEAD * np.array(far)), found.freedom)


def _ends(found: Surface) -> Iterator[tuple[float, float, float]]:
    """The mean and both ends of its interval."""
    for mean, reach in zip(found.mean, found.reach(), strict=True):
        yield float(mean), float(mean - reach), float(mean + reach)


def _beyond(on: OnMap, first: float, second: float) -> float:
    """How many times the largest measured size a place lies at, in the size in which that is more."""
    own = on.at
    return max(first / float(own[0].max()), second / float(own[1].max()))


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
