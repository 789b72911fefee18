"""Naming the growth of one series: by an exact form where counts have one, else by the fit; and judging its claim."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ...errors import AnalysisError, StudyError
from ...logbook.records import ContenderRecord
from ...notation import formulas
from ...notation.orders import parse
from ...results.findings import ClaimFinding, Findings, GrowthFinding, Interval, Plausible, Regime, WorkFinding, plain
from ...study.study import WORK_CLAIM
from ..series import NOISY, Series
from ..uncertainty.level import Level, exact_level, level_of
from ..work.order import Work
from ..work.witnesses import Price, by_both
from .exact import Exact, closed_form
from .exponent import SIZES_LEAST
from .fit import Growth, fit_growth

STARTED = 1.3  # a call that takes less than so many start-ups is mostly that
LEFT = 0.02  # of a call, what is left when the start-up is taken off, at least
MISSES, ASTRAY = 0.25, 0.7  # a law that misses so much typically, or so far (in the logarithm) somewhere, is none
EVERYWHERE = ("time", "steps")
"""The metrics that a claim without a name is for."""


def growth_of(series: Series, record: ContenderRecord, findings: Findings, work: Work | None = None) -> Growth | None:
    """Name the growth of one series, judge its claim, and add both to the findings.

    Args:
        series: costs or counts.
        work: what a call does, counted, where these are times and it is known.
        record: the contender, with its claims.
        findings: what is added to.
    """
    claim = claim_for(record, series)
    growth, price, advice = None, None, ""
    try:
        growth = named_growth(series, [claim] if claim and _is_order(claim) else [], record.startup or 0.0)
        growth, price = by_both(growth, work)
        exact, advice = growth.exact, growth.advice
    except AnalysisError as error:
        exact, advice = exact_form(series), str(error)
    is_law = growth is not None and (exact is not None or price is not None or _is_law(growth, series))
    if growth is not None and not is_law:
        slope = f"the slope is {growth.exponent.value:.2f} at the upper end"
        advice = f"no single law: {slope}, and even the best law is far off"
    order = exact.order if exact else growth.order if growth and is_law else None
    fits = growth.plausible if growth and is_law and not exact else ()
    found = GrowthFinding(
        contender=series.contender,
        family=series.family,
        metric=series.metric,
        stage=series.stage,
        order=order,
        plausible=[Plausible(order=str(fit.order), weight=round(w, 4)) for fit, w in fits],
        exponent=Interval(*(getattr(growth.exponent, end) for end in ("value", "low", "high"))) if growth else None,
        law=Interval(*(getattr(growth.exponent, end) for end in ("value", "law_low", "law_high"))) if growth else None,
        fixed=growth.best.fixed if growth else None,
        linear=growth.best.linear if growth else None,
        scale=growth.best.scale if growth else None,
        miss=0.0 if exact else growth.best.miss if growth else None,
        sizes=[plain(series.sizes[0]), plain(series.sizes[-1])],
        step=list(growth.best.step) if growth and growth.best.step and not exact else None,
        regimes=[Regime(plain(each.start), plain(each.end), each.order, each.why) for each in growth.regimes]
        if growth and not exact
        else [],
        advice="" if exact else advice,
        exact=exact.text if exact else None,
    )
    if exact:
        found.plausible = [Plausible(order=exact.order, weight=1.0)]
    if work is not None and price is not None:
        found.work = _work_finding(work, price)
        findings.claims += _on_work(series, record, found.work)
    findings.growth.append(found)
    if claim:
        findings.claims.append(_judged(claim, series, growth, found))
    return growth


def _is_law(growth: Growth, series: Series) -> bool:
    """Whether the first choice fits about as well as noise and a drift allow."""
    unsure = float(np.median(growth.level.error)) if series.metric in NOISY else 0.0
    return growth.best.miss <= MISSES + unsure and growth.best.strays <= ASTRAY + 3 * unsure


def _work_finding(work: Work, price: Price) -> WorkFinding:
    ends = [[plain(price.sizes[at]), float(price.seconds[at])] for at in (0, -1)]
    plausible = [Plausible(order=order, weight=round(weight, 4)) for order, weight in work.plausible]
    slope = Interval(price.slope, price.low, price.high)
    at = int(np.argmin(price.seconds))
    least = [float(price.sizes[at]), float(price.seconds[at])]
    return WorkFinding(work.order, plausible, work.exact.text if work.exact else None, ends, slope, price.says, least)


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
    found = fit_growth(series.sizes[there], series.costs[there], also, _level(series, there))
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
    return level_of(logs, series.lives, series.luck)


def exact_form(series: Series) -> Exact | None:
    """The formula of a count that is the same for every instance of a size; None where there is none."""
    if not series.is_exact:
        return None
    counts = np.nanmin(series.costs, axis=1)
    return closed_form([float(size) for size in series.sizes], [float(count) for count in counts])


def claim_for(record: ContenderRecord, series: Series) -> str | None:
    """The claim on a series: for its family and metric, its metric, its family, its stage, else for everything."""
    both = f"{series.family}, {series.metric}"
    for where in (both, series.metric, series.family, series.stage, None):
        for claim in record.claims:
            if claim.where != where or (where is None and series.stage is not None):
                continue
            if where in (both, series.metric) or series.metric in EVERYWHERE:
                return claim.order
    return None


def _is_order(claim: str) -> bool:
    try:
        parse(claim)
    except StudyError:
        return False
    return True


def _judged(claim: str, series: Series, growth: Growth | None, found: GrowthFinding) -> ClaimFinding:
    names = series.contender, series.family, series.stage, claim
    if not _is_order(claim):
        try:
            formula = formulas.parse(claim)
        except StudyError:
            # A logbook may come from anybody: what cannot be read cannot be judged.
            return ClaimFinding(*names, "undecided", None, series.metric)
        since = _differs(formula.holds, series)
        return ClaimFinding(*names, "holds" if since is None else "contradicted", since, series.metric)
    verdict = "undecided"
    if found.order is not None:
        verdict = _verdict(claim, found.order, found.plausible, found.exact is not None)
    if verdict == "contradicted" and series.metric == WORK_CLAIM and not found.exact and _differs_by_logs(claim, found):
        verdict = "undecided"  # a search sees small sizes, where terms that die out look like a logarithm
    since = _since(claim, growth, series) if verdict == "contradicted" else None
    return ClaimFinding(*names, verdict, since, series.metric)


def _differs_by_logs(claim: str, found: GrowthFinding) -> bool:
    """Whether an order that is plausible differs from the claimed one by logarithms only."""
    asked = parse(claim)
    orders = [parse(each.order) for each in found.plausible]
    return any(
        (order.power, order.base, order.factorial) == (asked.power, asked.base, asked.factorial) for order in orders
    )


def _on_work(series: Series, record: ContenderRecord, work: WorkFinding) -> list[ClaimFinding]:
    """Claims that are on the work alone, judged."""
    return [
        ClaimFinding(
            series.contender,
            series.family,
            series.stage,
            claim.order,
            _verdict(claim.order, work.order, work.plausible, work.exact is not None),
            None,
            WORK_CLAIM,
        )
        for claim in record.claims
        if claim.where == WORK_CLAIM and _is_order(claim.order)
    ]


def _verdict(claim: str, order: str, plausible: Sequence[Plausible], is_exact: bool) -> str:
    """What is to be said of a claimed order.

    Only growth that is faster than claimed contradicts: a slower one may have a term that is still to come.
    """
    ranks, asked = [parse(each.order).rank for each in plausible], parse(claim).rank
    if min(ranks) > asked:
        return "contradicted"
    if max(ranks) < asked:
        return "contradicted" if is_exact else "slower"
    return "holds" if claim == order else "undecided"


def _differs(holds: Callable[[int, float], bool], series: Series) -> int | float | None:
    """The first size at which a formula does not hold for every count."""
    for size, row in zip(series.sizes, series.costs, strict=True):
        if not all(holds(int(size), float(value)) for value in row[np.isfinite(row)]):
            return plain(size)
    return None


def _since(claim: str, growth: Growth | None, series: Series) -> int | float | None:
    """The size from which on the costs leave a contradicted claim to one side, and do not come back."""
    fit = next((each for each in growth.candidates if str(each.order) == claim), None) if growth else None
    if fit is None or (series.typical <= 0).any():
        return plain(series.sizes[0])
    off = np.log(series.typical / fit.cost(series.sizes))
    last = len(off) - 1
    while last > 0 and off[last - 1] * off[-1] > 0:
        last -= 1
    return plain(series.sizes[last])
