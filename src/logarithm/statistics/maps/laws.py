"""The law of a cost that depends on two sizes: a sum of products of catalogue orders, by least squares.

Of counted work, or of times where nothing could be counted. Sums of up to four terms are grown one by one from the best
shorter ones, and compared by

    m ln(χ²/m + a) + 2 q m / (m - q - 1) + 2 Σ rarity + 4 (negative terms) + 8 Σ max(0, ln(0.5 / share))

with χ² the sum of squares of the relative error over what is irregular, m the places and q the terms; the penalty on
terms is that of Hurvich and Tsai (Biometrika 76, 1989, 297-307). A term that leads must be half of the cost somewhere
on the map: `share` is the most that it is. It is the same trade as that of one size (`statistics.work.order`).
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache
from itertools import product

import numpy as np
from numpy.typing import NDArray

from ...notation.laws import LEAST, MOST, RATIO, Law, Term, leading
from ...notation.orders import parse
from ..growth.catalogue import log_values
from ..readings.arrays import Floats

RARE: dict[str, float] = {
    **{"1": 0.0, "log n": 0.5, "sqrt n": 3.0, "n": 0.0, "n log n": 0.7, "n^1.5": 3.0, "n^2": 0.5},
    **{"n^2 log n": 2.5, "n^3": 1.5, "2^n": 2.0},
}
"""The orders that make terms, and how rare each is: minus the logarithm of how common."""
DEGREE_MOST, EXPONENTIAL_MOST = 4.0, 40.0  # the powers of both together; and the largest size that an exponential has
PLACES_LEAST, VALUES_LEAST = 8, 3  # of a map, and of either size
TERMS_MOST, KEPT = 4, 24
GRAIN, CLOSELY = 0.006, 0.3  # what counts are irregular by, relative; and how closely they are to be met
LEADS, NOWHERE, LEADING, NEGATIVE = 0.5, 0.2, 8.0, 4.0
PLAUSIBLE, TEMPER, BEYOND = 8.0, 2.0, 25.0  # in the score
OF_BOTH = 6.0  # how rare a term of both sizes is
BOTH_LOGS = 1.5  # how much rarer it is that one term has a logarithm of either size


@dataclass(frozen=True, slots=True)
class MapLaw:
    """How a cost grows in two sizes.

    Attributes:
        plausible: laws with their weights, the first choice first.
        terms: the first choice's terms with what each weighs; their sum is the cost.
        miss: the typical relative error of that sum.
        is_below: whether the second size was at most the first at every place.
    """

    plausible: tuple[tuple[Law, float], ...]
    terms: tuple[tuple[Term, float], ...]
    miss: float
    is_below: bool

    @property
    def law(self) -> Law:
        """The first choice."""
        return self.plausible[0][0]

    def at(self, first: Floats, second: Floats) -> Floats:
        """The cost at places, both sizes of shape (k,)."""
        columns = values([term for term, _ in self.terms], first, second)
        made = columns @ np.array([weight for _, weight in self.terms])
        return np.asarray(np.maximum(made, 1e-300), dtype=np.float64)


def values(terms: Iterable[Term], first: Floats, second: Floats) -> Floats:
    """The value of each term at each place, shape (places, terms)."""
    logs = [
        log_values(term.first, first) + log_values(term.second, second) + np.log(_of_both(term.both, first, second))
        for term in terms
    ]
    return np.asarray(np.exp(np.minimum(np.stack(logs, axis=1), 600.0)), dtype=np.float64)


def _of_both(both: str, first: Floats, second: Floats) -> Floats:
    """`notation.laws.of_both` at many places."""
    if both == RATIO:
        return np.asarray(np.log2(np.maximum(np.maximum(first / second, second / first), 2.0)), dtype=np.float64)
    if not both:
        return np.ones(len(first))
    return np.asarray(np.minimum(first, second) if both == LEAST else np.maximum(first, second), dtype=np.float64)


@lru_cache(maxsize=4)
def _catalogue(exponential: tuple[bool, bool], is_ordered: bool) -> tuple[tuple[Term, ...], Floats]:
    """The terms that laws are made of, and how rare each is, shape (terms,).

    Where one size is never larger than the other, the smaller and the larger of them are these two.
    """
    orders = {parse(text): rare for text, rare in RARE.items()}
    terms, rare = [], []
    for (one, rare_one), (other, rare_other) in product(orders.items(), repeat=2):
        if (one.base and not exponential[0]) or (other.base and not exponential[1]) or (one.base and other.base):
            continue
        degree = sum(order.power for order in (one, other) if not order.base)
        if degree <= DEGREE_MOST:
            terms.append(Term(one, other))
            rare.append(rare_one + rare_other + (BOTH_LOGS if one.logs and other.logs else 0.0))
    one, linear = parse("1"), parse("n")
    special = [Term(one, linear, RATIO), Term(linear, one, RATIO)]
    special += [] if is_ordered else [Term(one, one, LEAST), Term(one, one, MOST)]
    terms += special
    rare += [OF_BOTH] * len(special)
    return tuple(terms), np.array(rare)


def law_of(first: Floats, second: Floats, costs: Floats, grain: float = GRAIN) -> MapLaw | None:
    """The law of costs at places of a map; None where these are too few.

    Args:
        first, second: both sizes of each place, shape (m,).
        costs: more than 0, shape (m,).
        grain: what each is irregular by, relative.
    """
    if len(costs) < PLACES_LEAST or min(len(np.unique(first)), len(np.unique(second))) < VALUES_LEAST:
        return None
    forms = _Forms.of(first, second, costs, grain)
    terms, scale, scaled, is_below = forms.terms, forms.scale, forms.scaled, forms.is_below
    found = forms.grown()
    if not found:
        return None
    best = min(found)
    laws: dict[Law, float] = {}
    for score, rows, signs in found:
        if score <= best[0] + PLAUSIBLE:
            law = leading([terms[row] for row, weight in zip(rows, signs, strict=True) if weight > 0], is_below)
            laws[law] = min(laws.get(law, math.inf), score)
    odds = {law: math.exp((best[0] - score) / (2 * TEMPER)) for law, score in laws.items()}
    total = sum(odds.values())
    kept = {law: odd / total for law, odd in odds.items() if odd / total >= 0.05} or odds
    ranked = sorted(kept.items(), key=lambda each: -each[1])
    weights = tuple((terms[row], weight / scale[row]) for row, weight in zip(best[1], best[2], strict=True))
    rest = scaled[:, list(best[1])] @ np.array(best[2]) - 1
    return MapLaw(tuple(ranked), weights, float(np.sqrt(np.mean(rest**2))), is_below)


def is_beyond(claim: Law, first: Floats, second: Floats, costs: Floats, grain: float = GRAIN) -> bool:
    """Whether costs grow faster than is claimed, beyond doubt: no sum of terms that stay within it fits nearly as well.

    Args:
        claim: the law that is claimed.
        first, second, costs, grain: as for `law_of`.
    """
    every = _Forms.of(first, second, costs, grain)
    within = every.only([any(term.is_within(most, every.is_below) for most in claim.terms) for term in every.terms])
    found, kept = every.grown(), within.grown()
    if not found:
        return False
    return not kept or min(kept)[0] > min(found)[0] + BEYOND


Form = tuple[float, tuple[int, ...], tuple[float, ...]]
"""The score of a sum, its terms by number, and what each weighs."""


@dataclass(frozen=True, slots=True)
class _Forms:
    """All sums that are looked at.

    Attributes:
        terms: what they are made of.
        rare: how rare each term is.
        scale: the largest value of each.
        scaled: each over that and the cost, shape (m, terms).
        grain: what costs are irregular by, relative.
        is_below: whether the second size is at most the first everywhere.
    """

    terms: tuple[Term, ...]
    rare: Floats
    scale: Floats
    scaled: Floats
    grain: float
    is_below: bool

    @classmethod
    def of(cls, first: Floats, second: Floats, costs: Floats, grain: float) -> _Forms:
        """The sums for costs at places."""
        exponential = float(first.max()) <= EXPONENTIAL_MOST, float(second.max()) <= EXPONENTIAL_MOST
        is_below = bool((second <= first).all())
        terms, rare = _catalogue(exponential, is_below or bool((first <= second).all()))
        columns = values(terms, first, second)
        scale = columns.max(axis=0)
        return cls(terms, rare, scale, columns / scale / costs[:, None], grain, is_below)

    def only(self, kept: list[bool]) -> _Forms:
        """The sums of some of the terms."""
        rows = np.flatnonzero(kept)
        terms = tuple(self.terms[row] for row in rows)
        own = self.rare[rows], self.scale[rows], self.scaled[:, rows]
        return _Forms(terms, *own, self.grain, self.is_below)

    def grown(self) -> list[Form]:
        """Sums of one term, and what is made of the best ones by adding a term."""
        gram, right = self.scaled.T @ self.scaled, self.scaled.sum(axis=0)
        every = np.arange(len(self.terms))
        found: list[Form] = []
        rows = every[:, None]
        for _ in range(TERMS_MOST):
            fresh = sorted(self.scored(rows, gram, right))
            found += fresh[: 8 * KEPT]
            kept = [form[1] for form in fresh[:KEPT]]
            wider = {tuple(sorted((*form, int(one)))) for form in kept for one in every if one not in form}
            if not wider:
                break
            rows = np.array(sorted(wider))
        return found

    def scored(self, rows: NDArray[np.intp], gram: Floats, right: Floats) -> list[Form]:
        """The scores of sums, `rows` their terms, shape (sums, q)."""
        terms = rows.shape[1]
        m = len(self.scaled)
        if m - terms - 1 <= 0:
            return []
        own = gram[rows[:, :, None], rows[:, None, :]]
        own = own + 1e-12 * np.eye(terms) * np.trace(own, axis1=1, axis2=2)[:, None, None]
        weights = np.linalg.solve(own, right[rows][:, :, None])[:, :, 0]
        shares = self.scaled[:, rows] * weights  # (m, sums, q)
        chi = (((shares.sum(axis=2) - 1) / self.grain) ** 2).mean(axis=0)
        # Only what fits nearly as well as the best is looked at closely.
        score = m * np.log(chi + CLOSELY) + 2 * terms * m / (m - terms - 1) + 2 * self.rare[rows].sum(axis=1)
        score += NEGATIVE * (weights < 0).sum(axis=1)
        made: list[Form] = []
        for at in np.argsort(score)[: 6 * KEPT]:
            more = self._doubtful(rows[at], weights[at], shares[:, at, :])
            if math.isfinite(more):
                made.append((float(score[at]) + more, tuple(map(int, rows[at])), tuple(map(float, weights[at]))))
        return made

    def _doubtful(self, rows: NDArray[np.intp], weights: Floats, shares: Floats) -> float:
        """What makes a sum doubtful: a leading term that is nowhere half of the cost, or less than nothing."""
        terms = [self.terms[row] for row in rows]
        law = leading(terms, self.is_below)
        more = 0.0
        for term, weight, share in zip(terms, weights, shares.T, strict=True):
            if term not in law.terms:
                continue
            if weight <= 0:
                return math.inf
            most = float(share.max())
            if most < NOWHERE:
                return math.inf
            more += LEADING * max(0.0, math.log(LEADS / max(most, 1e-9)))
        return more
