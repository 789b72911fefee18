"""Naming the growth of one series by itself: by an exact form where counts have one, else by the fit."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ...errors import AnalysisError
from ...notation.metrics import TIMED
from ..readings.series import Series
from ..uncertainty.level import Level, exact_level, level_of
from .exact import Exact, closed_form
from .exponent import SIZES_LEAST
from .fit import Growth, fit_growth

STARTED = 1.3  # a call that takes less than so many start-ups is mostly that
LEFT = 0.02  # of a call, what is left when the start-up is taken off, at least


def named_growth(series: Series, also: Sequence[str] = (), startup: float = 0.0) -> Growth:
    """The growth of a series over the sizes at which it is more than zero, with the exact form of its counts.

    Args:
        series: costs or counts.
        also: orders to try beside those of the catalogue.
        startup: seconds that each call takes to start, which are taken off before growth is named.

    Raises:
        AnalysisError: where the numbers cannot be used, or are too few.
    """
    if startup and series.metric == "time":
        return _beside_startup(series, also, startup)
    there = np.flatnonzero((series.costs > 0).any(axis=1) & ~(series.costs <= 0).any(axis=1))
    if not len(there):
        raise AnalysisError("it is zero at every size")
    level, is_timed = _level(series, there), series.metric in TIMED
    found = fit_growth(series.sizes[there], series.costs[there], also, level, may_begin=not is_timed)
    return replace(found, exact=exact_form(series))


def _beside_startup(series: Series, also: Sequence[str], startup: float) -> Growth:
    """The growth of what is left of the costs when the start-up is taken off; it is part of the curve again."""
    rows = np.flatnonzero(series.typical > STARTED * startup)
    if len(rows) < SIZES_LEAST:
        raise AnalysisError("most of it is start-up: measure larger sizes")
    costs = np.maximum(series.costs[rows] - startup, LEFT * series.costs[rows])
    found = named_growth(replace(series, sizes=series.sizes[rows], costs=costs), also)
    lifted = {id(fit): replace(fit, fixed=fit.fixed + startup) for fit in found.candidates}
    plausible = tuple((lifted[id(fit)], weight) for fit, weight in found.plausible)
    level = replace(found.level, typical=np.log(np.exp(found.level.typical) + startup))
    return replace(found, best=plausible[0][0], plausible=plausible, candidates=tuple(lifted.values()), level=level)


def _level(series: Series, there: NDArray[np.intp]) -> Level:
    """The level of a series at some sizes; of counts that repeat nothing is estimated."""
    logs = np.log(series.costs[there])
    if series.is_exact:
        return exact_level(np.nanmin(logs, axis=1))
    return level_of(logs, series.processes, series.is_ours)


def exact_form(series: Series) -> Exact | None:
    """The formula of a count that is the same for every instance of a size; None where there is none."""
    if not series.is_exact:
        return None
    counts = np.nanmin(series.costs, axis=1)
    return closed_form([float(size) for size in series.sizes], [float(count) for count in counts])
