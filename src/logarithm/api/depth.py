"""A logbook in depth: everything that was tried for one growth, and two contenders size by size."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING

from ..errors import LogarithmError
from ..report.text.depth import pair_in_depth
from ..report.text.growth import Candidate, Row, depth
from ..results.findings import Interval
from ..statistics.analyse import analyse, series_of
from ..statistics.comparison.pairs import duels_of
from .options import check_in

if TYPE_CHECKING:
    from rich.console import RenderableType

    from ..logbook.reading import Logbook
    from ..statistics.growth.exponent import Exponent
    from ..statistics.series import Series


def pairs_in_depth(
    logbook: Logbook, contenders: Sequence[str] = (), families: Sequence[str] = ()
) -> Iterator[RenderableType]:
    """Two contenders in depth: every crossover, who leads where, the ratio at each size.

    Args:
        logbook: what was measured.
        contenders: two, one against all others, or all pairs.
        families: all where there are none.

    Raises:
        LogarithmError: where a name is not there, or no two were measured at the same sizes.
    """
    check_in(logbook, logbook.path, contenders, families)
    findings = analyse(logbook)
    duels = duels_of(series_of(logbook)[0], {})
    wanted = [
        pair
        for pair in findings.pairs
        if (not families or pair.family in families) and (not contenders or {pair.one, pair.other} & set(contenders))
        if len(contenders) < 2 or {pair.one, pair.other} <= set(contenders)
    ]
    if not wanted:
        raise LogarithmError(f"{logbook.path} has no two contenders measured at the same sizes to compare there")
    for pair in wanted:
        found = duels[pair.family, pair.stage, pair.metric][pair.one, pair.other]
        rows = zip(found.sizes, found.ratio, found.low, found.high, strict=True)
        ratios = [(float(n), Interval(float(r), float(low), float(high))) for n, r, low, high in rows]
        yield pair_in_depth(pair, findings, ratios)


def growth_in_depth(
    logbook: Logbook, contenders: Sequence[str] = (), families: Sequence[str] = ()
) -> Iterator[RenderableType]:
    """Growth in depth: every order that was tried, residuals and local exponents by size.

    Raises:
        LogarithmError: where a name is not there, or nothing can be fitted.
    """
    import numpy as np

    from ..report.contents.tables import formula
    from ..statistics.forecasts import fitted

    check_in(logbook, logbook.path, contenders, families)
    for series, found in fitted(logbook, contenders, families):
        weights = {id(fit): weight for fit, weight in found.plausible}
        shown = [
            Candidate(
                str(fit.order),
                weights.get(id(fit), 0.0),
                formula(str(fit.order), fit.fixed, fit.linear, fit.scale, series.metric),
                fit.miss,
                fit.strays,
            )
            for fit in found.candidates
        ]
        slopes = np.gradient(np.log(series.typical), np.log(series.sizes))
        costs = found.cost(series.sizes)
        rows = [
            Row(float(n), float(y), float(y / c - 1) if n >= found.since else math.nan, float(slope))
            for n, y, c, slope in zip(series.sizes, series.typical, costs, slopes, strict=True)
        ]
        yield depth(_title(series), series.metric, shown, rows, _slopes(found.exponent), found.advice)


def _slopes(exponent: Exponent) -> str:
    """The two exponents in words."""
    measured = f"slope at the upper end, as measured: {exponent.value:.2f} ({exponent.low:.2f} to {exponent.high:.2f})"
    return f"{measured}; of the law behind it, if caches bend it: {exponent.law_low:.2f} to {exponent.law_high:.2f}"


def _title(series: Series) -> str:
    parts = [
        series.family,
        *([series.stage] if series.stage else []),
        *([series.metric] if series.metric != "time" else []),
    ]
    return f"{series.contender} on {', '.join(parts)}".replace("_", " ")
