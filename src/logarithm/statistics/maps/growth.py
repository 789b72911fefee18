"""How a cost grows in two sizes, by both witnesses: counted work names the law, time says what each of its terms costs.

As with one size, the order of time is never below that of the work; where the price of a unit of work itself rises like
a power of a size, work is hidden in a compiled operation, and the law is that of time.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ...logbook.records import ContenderRecord
from ...notation import laws
from ...notation.laws import ONE, Law, Names, Term
from ...notation.metrics import TIMED
from ...notation.sizes import plain
from ...results.base import Interval
from ...results.findings import ClaimFinding, GrowthFinding, Plausible
from ..claims import claim_for
from ..readings.arrays import Floats
from ..readings.quantiles import student_quantile
from ..readings.series import Series
from .grids.places import OnMap
from .laws import GRAIN, MapLaw, is_beyond, law_of, values

TIME_GRAIN = 0.04  # what times are irregular by, relative: noise, caches
MISSES = 0.25  # a law that misses so much typically, relative, is none
STEEP = 0.35  # a price that rises with such a power of a size is no price
SLOPE_PLACES = 4
ERROR_LEAST = 0.01  # of a slope


@dataclass(frozen=True, slots=True)
class MapGrowth:
    """How one contender's cost grows on a map.

    Attributes:
        law: as it is named; None where it has no name.
        terms: what its terms weigh in the cost itself, in seconds or counts; empty where nothing fits.
        miss: the typical relative error of their sum.
        exponents: the slopes at the upper corner, by the names of the sizes.
        says: "work" where counted work names the law, "time" where time does alone.
        seen: both sizes and the costs, or the work, that name it, each of shape (m,).
        grain: what these are irregular by, relative.
    """

    law: MapLaw | None
    terms: tuple[tuple[Term, float], ...]
    miss: float
    exponents: dict[str, Interval]
    says: str
    seen: tuple[Floats, Floats, Floats] = (np.empty(0), np.empty(0), np.empty(0))
    grain: float = GRAIN

    def log_cost(self, first: Floats, second: Floats) -> Floats:
        """The natural logarithm of the cost by the law, at places of shape (k,); 0 where there is none."""
        if not self.terms:
            return np.zeros(len(first))
        columns = values([term for term, _ in self.terms], first, second)
        made = columns @ np.array([weight for _, weight in self.terms])
        return np.asarray(np.log(np.maximum(made, 1e-300)), dtype=np.float64)


def map_growth(on: OnMap, work: OnMap | None, names: Names) -> MapGrowth:
    """How a cost grows.

    Args:
        on: the costs.
        work: what a call does, counted; None where nobody knows.
        names: of both sizes.
    """
    first, second = on.at
    typical = on.series.typical
    grain = GRAIN if work is None else max(GRAIN, _irregular(work.series))
    by_work = None if work is None else law_of(*work.at, work.series.typical, grain)
    law, says = by_work, "work"
    seen = (first, second, typical) if work is None else (*work.at, work.series.typical)
    is_timed = on.series.metric in TIMED
    if by_work is None or (is_timed and _rises(typical / by_work.at(first, second), first, second)):
        seen, grain = (first, second, typical), TIME_GRAIN if is_timed else GRAIN
        law, says = law_of(*seen, grain), "time"
        if is_timed and not on.series.tells.any():
            law = None
    terms = _priced(law, first, second, typical) if law is not None else ()
    found = MapGrowth(law, terms, 0.0, _exponents(first, second, typical, names), says, seen, grain)
    rest = np.log(typical) - found.log_cost(first, second) if terms else np.zeros(1)
    miss = float(np.sqrt(np.mean(rest**2)))
    # What misses so much is no law of this cost.
    return replace(found, miss=miss, law=found.law if miss <= MISSES + max(grain, _irregular(on.series)) else None)


def _irregular(series: Series) -> float:
    """What costs at one place are irregular by, relative, on average over some trials or instances; 0 where none is."""
    several = np.isfinite(series.costs).sum(axis=1)
    rows = several > 1
    if not rows.any():
        return 0.0
    spread = np.nanstd(np.log(np.maximum(series.costs[rows], 1e-9)), axis=1, ddof=1)
    return float(np.sqrt(np.mean(spread**2 / several[rows])))


def _rises(price: Floats, first: Floats, second: Floats) -> bool:
    """Whether a price rises like a power of either size, over the upper part of the map."""
    slopes = _plane(first, second, price)
    return slopes is not None and max(slopes[0][0], slopes[1][0]) > STEEP


def _priced(law: MapLaw, first: Floats, second: Floats, costs: Floats) -> tuple[tuple[Term, float], ...]:
    """What each term of a law weighs in the costs: least squares of the relative error, none less than nothing."""
    kept = [term for term, weight in law.terms if weight > 0]
    kept = list(dict.fromkeys([*law.law.terms, *kept, Term(ONE, ONE)]))
    while kept:
        columns = values(kept, first, second)
        scale = columns.max(axis=0)
        weights = np.linalg.lstsq(columns / scale / costs[:, None], np.ones(len(costs)), rcond=None)[0]
        if (weights > 0).all():
            return tuple(zip(kept, map(float, weights / scale), strict=True))
        kept.pop(int(weights.argmin()))
    return ()


Slope = tuple[float, float]
"""A slope with how far it may be off, at 95 %."""


def _plane(first: Floats, second: Floats, costs: Floats) -> tuple[Slope, Slope] | None:
    """The slopes of a cost's logarithm in both sizes, over the upper part of a map; None where there is too little."""
    x, z = np.log(np.maximum(first, 1e-9)), np.log(np.maximum(second, 1e-9))
    upper = (x >= (x.min() + x.max()) / 2) & (z >= (z.min() + z.max()) / 2)
    if upper.sum() < SLOPE_PLACES or min(len(np.unique(x[upper])), len(np.unique(z[upper]))) < 2:
        upper = np.ones(len(x), dtype=np.bool_)
    design = np.stack([x[upper], z[upper], np.ones(upper.sum())], axis=1)
    if np.linalg.matrix_rank(design) < 3 or len(design) < SLOPE_PLACES:
        return None
    weights, *_ = np.linalg.lstsq(design, np.log(costs[upper]), rcond=None)
    rest = np.log(costs[upper]) - design @ weights
    free = len(design) - 3
    variance = float(rest @ rest) / max(free, 1)
    errors = np.sqrt(variance * np.diag(np.linalg.inv(design.T @ design)))
    reach = float(student_quantile(max(free, 1), 0.975)) * np.maximum(errors, ERROR_LEAST / 2)
    return (float(weights[0]), float(reach[0])), (float(weights[1]), float(reach[1]))


def _exponents(first: Floats, second: Floats, costs: Floats, names: Names) -> dict[str, Interval]:
    slopes = _plane(first, second, costs)
    if slopes is None:
        return {}
    return {
        name: Interval(slope, slope - reach, slope + reach) for name, (slope, reach) in zip(names, slopes, strict=True)
    }


def growth_finding(on: OnMap, found: MapGrowth, names: Names) -> GrowthFinding:
    """How a cost grows, as a finding: its law under `order`."""
    first, _ = on.at
    law = found.law
    plausible = (
        [] if law is None else [Plausible(each.spelled(names), round(weight, 4)) for each, weight in law.plausible]
    )
    return GrowthFinding(
        contender=on.series.contender,
        family=on.series.family,
        metric=on.series.metric,
        stage=on.series.stage,
        order=None if law is None else law.law.spelled(names),
        plausible=plausible,
        exponent=None,
        exponents=found.exponents,
        terms={term.spelled(names): weight for term, weight in found.terms},
        law=None,
        fixed=None,
        linear=None,
        scale=None,
        miss=found.miss if law is not None else None,
        step=None,
        sizes=[plain(float(first.min())), plain(float(first.max()))],
        segments=[],
        advice="" if law is not None else _why(on, found, names),
    )


def _why(on: OnMap, found: MapGrowth, names: Names) -> str:
    """Why a cost has no law."""
    if found.terms:
        return "no law that is known fits it"
    if on.series.metric in TIMED and not on.series.tells.any():
        return f"too few trials to name a law in {names[0]} and {names[1]}"
    return f"{len(on.at[0])} places are too few to name a law in {names[0]} and {names[1]}"


def claim_on(on: OnMap, found: MapGrowth, record: ContenderRecord, names: Names) -> ClaimFinding | None:
    """Whether the claim on a map holds; None where there is none. One in the first size alone holds at each second."""
    claim = claim_for(record, on.series)
    if claim is None:
        return None
    verdict = "undecided"
    if found.law is not None:
        asked = laws.parse(claim, names)
        verdict = _verdict(asked, found.law)
        # Logarithms hide in few places: only what no law within the claim comes near to contradicts it.
        if verdict == "contradicted" and not is_beyond(asked, *found.seen, found.grain):
            verdict = "undecided"
    return ClaimFinding(*on.series.who, claim, verdict, None, on.series.metric)


def _verdict(claim: Law, found: MapLaw) -> str:
    """What is to be said of a claimed law: only growth that is faster than claimed contradicts."""
    every = [law for law, _ in found.plausible]
    fits = [_is_alike(law, claim, found.is_below) for law in every]
    if fits[0]:
        return "holds"
    if any(fits):
        return "undecided"
    if not any(law.is_within(claim, found.is_below) for law in every):
        return "contradicted"
    return "slower" if all(law.is_within(claim, found.is_below) for law in every) else "undecided"


def _is_alike(one: Law, other: Law, is_below: bool) -> bool:
    return one.is_within(other, is_below) and other.is_within(one, is_below)
