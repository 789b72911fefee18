"""Growth named by both witnesses, as a finding: its order, those that cannot be ruled out, and where one law ends."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..errors import AnalysisError
from ..notation.metrics import TIMED
from ..notation.sizes import plain
from ..results.base import Interval
from ..results.findings import GrowthFinding, Plausible, Segment, WorkFinding
from .growth.exact import Exact
from .growth.fit import Growth
from .growth.naming import exact_form, named_growth
from .growth.straight import straight
from .readings.arrays import median_of
from .readings.series import Series
from .work.order import Work
from .work.witnesses import Price, by_both

STEEP, ALONE = 4.5, 0.2  # a power, and a share of the cost at the last size but one
MISSES, ASTRAY = 0.25, 0.7  # a law that misses so much typically, or so far (in the logarithm) somewhere, is none


@dataclass(frozen=True, slots=True)
class Named:
    """What a series was called: the finding, and the growth behind it; None where its sizes are too few."""

    finding: GrowthFinding
    growth: Growth | None


FALSE = "its time is not that of its work: see the notes"


def name_growth(series: Series, also: Sequence[str] = (), startup: float = 0.0, work: Work | None = None) -> Named:
    """Name the growth of one series.

    Args:
        series: costs or counts.
        also: orders to try beside those of the catalogue.
        startup: seconds that each call takes to start.
        work: what a call does, counted, where these are times and it is known.
    """
    growth, price = None, None
    try:
        if series.is_false:
            raise AnalysisError(FALSE)
        growth, price = by_both(named_growth(series, also, startup), work)
        exact, advice = growth.exact, growth.advice
    except AnalysisError as error:
        exact, advice = exact_form(series), str(error)
    is_law = growth is not None and (
        exact is not None or (growth.is_law and (price is not None or _fits(growth, series)))
    )
    if growth is not None and not is_law:
        slope = f"the slope is {growth.exponent.value:.2f} at the upper end"
        advice = f"no single law: {slope}, and even the best law is far off"
    found = GrowthFinding(
        contender=series.contender,
        family=series.family,
        metric=series.metric,
        stage=series.stage,
        sizes=[plain(series.sizes[0]), plain(series.sizes[-1])],
        advice="" if exact else advice,
        straight=straight(series) if growth is None and not exact else None,
        exact=exact.text if exact else None,
        work=_work_finding(work, price, growth) if work is not None and price is not None and growth else None,
        **_law(growth if is_law else None, exact),
        **_fit(growth, exact),
    )
    return Named(found, growth)


def _law(growth: Growth | None, exact: Exact | None) -> dict[str, Any]:
    """The fields that name a law; nothing in them where there is none."""
    if exact is not None:
        return {"order": exact.order, "plausible": [Plausible(order=exact.order, weight=1.0)]}
    fits = growth.plausible if growth is not None else ()
    plausible = [Plausible(order=str(fit.order), weight=round(weight, 4)) for fit, weight in fits]
    return {"order": growth.order if growth is not None else None, "plausible": plausible}


def _fit(growth: Growth | None, exact: Exact | None) -> dict[str, Any]:
    """The fields that describe the curve, whether or not it has a name."""
    if growth is None:
        nothing: dict[str, Any] = dict.fromkeys(("exponent", "law", "fixed", "linear", "scale", "step"))
        return {**nothing, "miss": 0.0 if exact else None, "segments": []}
    slope, best = growth.exponent, growth.best
    return {
        "exponent": Interval(slope.value, slope.low, slope.high),
        "law": Interval(slope.value, slope.law_low, slope.law_high),
        "fixed": best.fixed,
        "linear": best.linear,
        "scale": best.scale,
        "miss": 0.0 if exact else best.miss,
        "step": list(best.step) if best.step and not exact else None,
        "segments": []
        if exact
        else [Segment(plain(each.start), plain(each.end), each.order, each.why) for each in growth.regimes],
    }


def _fits(growth: Growth, series: Series) -> bool:
    """Whether the first choice fits about as well as noise and a drift allow."""
    unsure = median_of(growth.level.error) if series.metric in TIMED else 0.0
    is_near = growth.best.miss <= MISSES + unsure and growth.best.misfit <= ASTRAY + 3 * unsure
    return is_near and not _rests_on_one(growth)


def _rests_on_one(growth: Growth) -> bool:
    """Whether a steep law shows at the last size alone, where it may be one that lies apart."""
    best, last = growth.best, growth.at[-2:]
    is_steep = best.order.power >= STEEP or best.order.base is not None
    if not is_steep or len(last) < 2:
        return False
    before, at_end = 1 - (best.fixed + best.linear * last) / best.cost(last)
    return bool(before < ALONE < at_end)


def _work_finding(work: Work, price: Price, growth: Growth) -> WorkFinding:
    carrier = work.carrier(growth.order)
    seconds = price.seconds * (1.0 if carrier is None else carrier.price)
    ends = [[plain(price.sizes[at]), float(seconds[at])] for at in (0, -1)]
    plausible = [Plausible(order=order, weight=round(weight, 4)) for order, weight in work.plausible]
    slope = Interval(price.slope, price.low, price.high)
    at = int(np.argmin(seconds))
    least = [float(price.sizes[at]), float(seconds[at])]
    exact = work.exact if carrier is None else carrier.exact
    kind = None if carrier is None else carrier.kind
    return WorkFinding(work.order, plausible, exact.text if exact else None, ends, slope, price.says, least, kind)
