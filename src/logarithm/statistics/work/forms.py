"""Forms that counted work is held against, and the best one of each leading order.

Work is taken as a leading term with up to two lower ones, of any sign, by least squares of the relative error. What is
left over is irregular rather than random (halves are rounded, recursion ends at sizes of its own), and differs from
instance to instance. Forms are compared by

    m ln(χ²/m + 0.1) + 2 k m / (m - k - 1) + 8 max(0, ln(0.5 / share)) - 2 ln(rarity) + 1.5 (negative terms)

with χ² the sum of squares over the errors, the penalty on k terms of Hurvich and Tsai (Biometrika 76, 1989, 297-307),
and a term that asks for better evidence where the leading term is less than half of the work at the largest size.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from ...notation.orders import Order, parse
from ..growth.catalogue import COMMON_COUNTED, RARE_COUNTED, log_table
from ..readings.arrays import Floats, median

LOWER = tuple(map(parse, ("1", "log n", "sqrt n", "n", "n log n", "n^2", "n^2 log n", "n^3")))
CLOSELY = 0.03  # as the mean square in errors
TERMS_MOST, SHARE_LEAST, LEADS, LEADING, NEGATIVE = 2, 0.05, 0.5, 8.0, 1.5
WEIGHT_LEAST = 1e-3  # of the leading term, but for exponentials
SHARE_BEFORE = 0.01  # of the work, at the last size but two
HUGE = 600.0  # in the logarithm of a term


@dataclass(frozen=True, slots=True, eq=False)
class Form:
    """A choice of terms, the leading one first, fitted: its score, the lower the better, weights, typical miss."""

    score: float
    terms: tuple[Order, ...]
    weights: Floats
    miss: float
    chi: float


def least_chi(forms: dict[str, Form]) -> float:
    """How far off the best form is, as the mean square in errors."""
    return min(forms.values(), key=lambda form: form.score).chi


def best_forms(x: Floats, y: Floats, error: Floats) -> dict[str, Form]:
    """The best form of each leading order that fits at all; free ones only where none that has a name fits closely."""
    best = _best_of(_named_forms(), x, y, error)
    if best and least_chi(best) < CLOSELY:
        return best
    return best | _best_of(_free_forms(), x, y, error)


def _best_of(forms: _Forms, x: Floats, y: Floats, error: Floats) -> dict[str, Form]:
    best: dict[str, Form] = {}
    logs = log_table(forms.orders, x)
    table = np.exp(np.minimum(logs, HUGE))
    for many, group in forms.groups.items():
        if len(x) - many - 2 <= 0:
            continue
        kept = np.flatnonzero(logs[group.leading, -1] <= HUGE)
        columns = table[group.terms[kept]].transpose(0, 2, 1)
        scores, weights, misses, chis = _scored(columns, group.rare[kept], group.rarest[kept], y, error)
        for at in _firsts(scores, group.leading[kept]):
            form, score = group.forms[kept[at]], float(scores[at])
            name = str(form[0])
            if name not in best or score < best[name].score:
                best[name] = Form(score, form, weights[at], float(misses[at]), float(chis[at]))
    return best


def _firsts(scores: Floats, leading: NDArray[np.intp]) -> NDArray[np.intp]:
    """Of those that fit, the form of the lowest score of each leading order."""
    ranked = np.argsort(scores, kind="stable")[: np.count_nonzero(np.isfinite(scores))]
    return np.asarray(ranked[np.unique(leading[ranked], return_index=True)[1]], dtype=np.intp)


@dataclass(frozen=True, slots=True)
class _Group:
    """Forms of equally many terms, and which orders their terms are, (forms, terms), the leading ones first.

    `rare` is the logarithm of how common each is, `rarest` the least weight that its leading term may have.
    """

    forms: list[tuple[Order, ...]]
    terms: NDArray[np.intp]
    rare: Floats
    rarest: Floats

    @property
    def leading(self) -> NDArray[np.intp]:
        """The leading order of each, shape (forms,)."""
        return self.terms[:, 0]


@dataclass(frozen=True, slots=True)
class _Forms:
    """Forms that counts are held against: the orders in them, and the forms by how many terms they have."""

    orders: tuple[Order, ...]
    groups: dict[int, _Group]

    @classmethod
    def of(cls, forms: Iterable[tuple[Order, ...]]) -> _Forms:
        """The forms by how many terms they have."""
        by_terms: dict[int, list[tuple[Order, ...]]] = {}
        for form in forms:
            by_terms.setdefault(len(form), []).append(form)
        place: dict[Order, int] = {}
        groups = {}
        for many, group in by_terms.items():
            rarest = [WEIGHT_LEAST if form[0].base is None and not form[0].factorial else 0.0 for form in group]
            groups[many] = _Group(
                group,
                np.array([[place.setdefault(each, len(place)) for each in form] for form in group]),
                np.log([COMMON_COUNTED.get(str(form[0]), RARE_COUNTED) for form in group]),
                np.array(rarest),
            )
        return cls(tuple(place), groups)


@lru_cache(maxsize=1)
def _named_forms() -> _Forms:
    """Each order that has a name, alone and with up to two lower ones."""
    leading = [(order, [each for each in LOWER if each.rank < order.rank]) for order in map(parse, COMMON_COUNTED)]
    return _Forms.of(
        (order, *terms)
        for order, lower in leading
        for many in range(TERMS_MOST + 1)
        for terms in combinations(lower, many)
    )


@lru_cache(maxsize=1)
def _free_forms() -> _Forms:
    """Powers and exponentials that nobody has named, alone and with a constant."""
    powers = (Order(power=round(float(power), 2)) for power in np.arange(0.1, 5.0, 0.05))
    bases = (Order(base=round(float(base), 2)) for base in np.arange(1.02, 4.0, 0.01))
    free = [order for order in (*powers, *bases) if str(order) not in COMMON_COUNTED]
    return _Forms.of(form for order in free for form in ((order,), (order, LOWER[0])))


def _scored(
    columns: Floats, rare: Floats, rarest: Floats, y: Floats, error: Floats
) -> tuple[Floats, Floats, Floats, Floats]:
    """The score of each form (infinite where it does not fit), its weights, typical relative miss and mean square.

    Its terms are in `columns` of shape (forms, m, terms).
    """
    relative = columns / y[None, :, None]
    white = relative / error[None, :, None]
    size = np.abs(white).max(axis=1)
    white = white / size[:, None, :]
    ones = 1 / error
    normal = np.einsum("fmk,fml->fkl", white, white) + 1e-12 * np.eye(columns.shape[2])
    weights = np.linalg.solve(normal, np.einsum("fmk,m->fk", white, ones)[:, :, None])[:, :, 0]
    rest = np.einsum("fmk,fk->fm", white, weights) - ones
    weights = weights / size
    count, many = columns.shape[1:]
    chi = (rest**2).sum(axis=1)
    share = weights[:, 0] * columns[:, -1, 0] / y[-1]
    score = count * np.log(chi / count + 0.1) + 2 * many * count / (count - many - 1) - 2 * rare
    score += LEADING * np.maximum(0.0, np.log(LEADS / np.maximum(share, 1e-9))) + NEGATIVE * (weights[:, 1:] < 0).sum(
        axis=1
    )
    # No loop runs so rarely that its term has next to no weight; and a term that matters at the last size only is what
    # that size has of its own, and no law.
    before = weights[:, 0] * columns[:, -3, 0] / y[-3]
    score = np.where((weights[:, 0] > rarest) & (share >= SHARE_LEAST) & (before >= SHARE_BEFORE), score, np.inf)
    return score, weights, median(np.abs(rest * error[None, :])), chi / count
