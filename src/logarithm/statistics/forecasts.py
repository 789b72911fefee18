"""Forecasts of a whole logbook: what a size that was not measured will cost, or how large a size a cost allows."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterator
from typing import TYPE_CHECKING

from ..errors import AnalysisError
from ..notation.places import Key
from ..results.tasks.forecast import FAILS, FEW, REACH, Ahead, Forecast
from .growth.exponent import SIZES_LEAST
from .growth.fit import Growth
from .growth.forecast import Forecast as Size
from .growth.forecast import cost_at, size_within
from .maps.forecasts import forecast_on_map
from .readings.series import Series

if TYPE_CHECKING:
    from .analysis import Analysis


def fitted(
    analysis: Analysis, only: Collection[str] = (), family: Collection[str] = ()
) -> Iterator[tuple[Series, Growth]]:
    """The series of some contenders and families, of all where none is named, with their growth.

    Raises:
        AnalysisError: where the axis is not a size, or no series has sizes enough.
    """
    book = analysis.logbook
    if book.study.axis != "size":
        raise AnalysisError(f"{book.path} varies {book.study.axis}, not the size: growth is named for sizes only")
    any_fitted = False
    for series, found in analysis.growths.items():
        if (not only or series.contender in only) and (not family or series.family in family):
            any_fitted = True
            yield series, found
    if not any_fitted:
        raise AnalysisError(f"{book.path} has too few sizes to name growth: measure at least 4")


def forecast(
    analysis: Analysis,
    at: float | None = None,
    within: float | None = None,
    only: Collection[str] = (),
    family: Collection[str] = (),
    second: float | None = None,
) -> Forecast:
    """What each contender will cost at a size, or how large a size it manages within so many seconds.

    Args:
        analysis: of the logbook.
        at: the size, of two sizes the first.
        within: seconds.
        only, family: contenders and families; all where none is named.
        second: of two sizes, the second.

    Raises:
        AnalysisError: where neither or both are given, or nothing can be forecast.
    """
    if (at is None) == (within is None):
        raise AnalysisError("say either --at SIZE, such as --at 20000, or --within TIME, such as --within 1s")
    logbook = analysis.logbook
    if logbook.slices:
        if second is None:
            first, name = logbook.study.names
            raise AnalysisError(
                f"{logbook.path} has two sizes: say --at {first}=1e6,{name}=64, or --within 1s --at {name}=64"
            )
        return forecast_on_map(analysis, at, second, within, only, family)
    return Forecast(str(logbook.path), at, within, [*_ahead(analysis, at, within, only, family)])


def _ahead(
    analysis: Analysis, at: float | None, within: float | None, only: Collection[str], family: Collection[str]
) -> Iterator[Ahead]:
    fails: dict[tuple[str, str], float] = {}
    for failure in analysis.logbook.failures:
        who = failure.contender, failure.family
        fails[who] = min(float(failure.size), fails.get(who, math.inf))
    for series, found in fitted(analysis, only, family):
        names = series.key
        failing = fails.get(names[:2], math.inf)
        if at is None and series.metric != "time":
            continue
        if series.tells.sum() < SIZES_LEAST:
            yield Ahead(*names, why=FEW)
        elif at is not None and at >= failing:
            yield Ahead(*names, fails=failing, why=FAILS)
        elif at is not None:
            cost = cost_at(found, at)
            exact = found.exact.text if found.exact is not None else ""
            if isinstance(cost, str):
                yield Ahead(*names, beyond=at / found.sizes[1], why=cost)
            else:
                yield Ahead(*names, cost.value, cost.low, cost.high, cost.beyond, exact=exact)
        else:
            assert within is not None
            yield _largest(names, size_within(found, within), failing)


def _largest(names: Key, limit: Size | str, failing: float) -> Ahead:
    """The largest size within a time, or why there is none."""
    if isinstance(limit, str):
        return Ahead(*names, why=limit)
    if math.isfinite(failing) and limit.value >= failing:
        return Ahead(*names, fails=failing, why=FAILS)
    high = limit.high if math.isfinite(limit.high) else None
    return Ahead(*names, limit.value, limit.low, high, limit.beyond, is_least=high is None and limit.beyond >= REACH)
