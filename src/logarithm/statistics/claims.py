"""Claims held against what was found: an order holds, is contradicted, is slower than claimed, or undecided."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import msgspec
import numpy as np

from ..errors import StudyError
from ..logbook.records import ContenderRecord
from ..notation import formulas
from ..notation.metrics import RANKED_TIMES, TIMED
from ..notation.orders import parse
from ..notation.sizes import plain
from ..results.findings import ClaimFinding, GrowthFinding, Plausible, RunFinding
from ..results.tasks.machine import OTHERS_QUIET
from .growth.exponent import SIZES_LEAST, slope_of_order
from .growth.fit import Growth
from .naming import Named
from .readings.series import Series

EVERYWHERE = ("time", "steps")
"""The metrics that a claim without a name is for."""
FALLS = 0.2  # by so much time rises less than the work, in the exponent, where that is not seen to go on
FULL_CACHES = 0.25  # by so much time may rise more steeply than its law where data outgrow every cache


def judge_claims(record: ContenderRecord, series: Series, named: Named) -> list[ClaimFinding]:
    """The claims that a contender makes on a series, and on the work behind it, each with its verdict.

    Args:
        record: the contender.
        series: its costs or counts.
        named: how they grow.
    """
    work = named.finding.work
    found = []
    if work is not None:
        for each in record.claims:
            if each.where == "work" and is_order(each.order):
                is_exact = work.exact is not None and len(work.plausible) == 1
                verdict = _verdict(each.order, work.order, work.plausible, is_exact)
                names = *series.who, each.order, verdict
                found.append(ClaimFinding(*names, None, "work"))
    claim = claim_for(record, series)
    return [*found, *([_judged(claim, series, named.growth, named.finding)] if claim else [])]


def doubted(claims: Sequence[ClaimFinding], found: GrowthFinding, run: RunFinding) -> list[ClaimFinding]:
    """The same, with what the moment does not bear left undecided.

    On a machine that is too busy, no claim on time is contradicted. On one that others use, none is by time alone: the
    counted work must grow faster than is claimed.
    """
    if not run.too_busy and (run.others or 0.0) < OTHERS_QUIET:
        return list(claims)
    made = []
    for each in claims:
        work = parse(found.work.order) if found.work is not None and is_order(each.claim) else None
        within = work is None or work.rank <= parse(each.claim).rank
        if each.verdict == "contradicted" and each.metric in RANKED_TIMES and (run.too_busy or within):
            each = msgspec.structs.replace(each, verdict="undecided", since=None)
        made.append(each)
    return made


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


def is_order(claim: str) -> bool:
    """Whether a claim is an order, and not an exact formula."""
    try:
        parse(claim)
    except StudyError:
        return False
    return True


def _judged(claim: str, series: Series, growth: Growth | None, found: GrowthFinding) -> ClaimFinding:
    names = *series.who, claim
    if not is_order(claim):
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
    if verdict == "contradicted" and series.metric in TIMED and _may_be(claim, growth, series, found):
        verdict = "undecided"
    if verdict == "contradicted" and series.metric == "work" and not found.exact and _differs_by_logs(claim, found):
        verdict = "undecided"  # a search sees small sizes, where terms that die out look like a logarithm
    since = _since(claim, growth, series) if verdict == "contradicted" else None
    return ClaimFinding(*names, verdict, since, series.metric)


def _may_be(claim: str, growth: Growth | None, series: Series, found: GrowthFinding) -> bool:
    """Whether time may rise as is claimed all the same: where work does not speak for its order, slopes must.

    Few trials contradict nothing.
    """
    if growth is None or series.tells.sum() < SIZES_LEAST:
        return True
    if found.work is not None and found.work.says == "work":
        # Time that rises so much less does not bear out that the work goes on as it does at the sizes counted.
        return found.work.slope.value < -FALLS
    return slope_of_order(parse(claim), growth.at) >= growth.exponent.law_low - FULL_CACHES


def _differs_by_logs(claim: str, found: GrowthFinding) -> bool:
    """Whether an order that is plausible differs from the claimed one by logarithms only."""
    asked = parse(claim)
    orders = [parse(each.order) for each in found.plausible]
    return any(
        (order.power, order.base, order.factorial) == (asked.power, asked.base, asked.factorial) for order in orders
    )


def _verdict(claim: str, order: str, plausible: Sequence[Plausible], is_exact: bool) -> str:
    """What is to be said of a claimed order.

    Only growth that is faster than claimed contradicts: a slower one may have a term that is still to come.
    """
    orders, asked = [parse(each.order) for each in plausible], parse(claim)
    if parse(order).is_alike(asked):
        return "holds"
    if any(each.is_alike(asked) for each in orders):
        return "undecided"
    if min(each.rank for each in orders) > asked.rank:
        return "contradicted"
    if max(each.rank for each in orders) < asked.rank:
        return "contradicted" if is_exact else "slower"
    return "undecided"


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
