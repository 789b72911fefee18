"""Regimes: ranges of sizes over which one law holds, and the kinks between them.

A single law, drift and step included, is held against every way to cut the sizes in two with a law of their own
on either side, each with a fixed cost or without. All are fitted under one covariance and so can be compared by
the same score; a cut is believed only where it gains clearly more than its terms cost.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from itertools import product

import numpy as np

from ...notation.orders import Order, parse
from ..readings.arrays import Floats
from .catalogue import shape
from .least_squares import weights_to_one

LAWS: tuple[Order, ...] = tuple(map(parse, ("1", "log n", "n", "n log n", "n^1.5", "n^2", "n^3")))
SIDE_LEAST = 4  # sizes on either side of a kink
MISFIT_MOST = 0.12  # where a single law is nowhere off by more than this, no kink is looked for
GAIN = 12.0  # by how much the score must fall
FIXED_MOST = 0.5  # a stretch over which the fixed cost is more than this share is called after it
FIXED_LEAST = 3  # sizes that make such a stretch


@dataclass(frozen=True, slots=True)
class Stretch:
    """From size `start` to `end` the cost grows as `order`; `why` it ends where the next begins.

    `why` is "" for the last; "fixed cost" where up to here that is most of the cost; "step" where the same law
    goes on at a higher cost; "kink" where another law begins.
    """

    start: float
    end: float
    order: str
    why: str = ""


@dataclass(frozen=True, slots=True)
class Kink:
    """Between the sizes at `index - 1` and `index` the law `before` gives way to another."""

    index: int
    before: Order
    score: float


def kink(x: Floats, y: Floats, whiten: Floats, freedom: float, single: float) -> Kink | None:
    """The best cut in two, where it beats a single law's score by enough; None where none does.

    Args:
        x, y: sizes and typical costs, shape (m,).
        whiten: what makes the logarithm of cost over law white noise, shape (m, m).
        freedom: degrees of freedom of the t.
        single: the score of the best single law.
    """
    best: Kink | None = None
    for width, (group, terms) in _cuts_by_width(tuple(map(float, x))).items():
        columns = terms / y[None, :, None]
        weights = weights_to_one(columns, whiten)
        for place in np.flatnonzero((weights > 0).all(axis=1)):
            index, before = group[place]
            miss = whiten @ np.log(columns[place] @ weights[place])
            parameters = width + 1
            spare = len(x) - parameters - 1
            if spare <= 0:
                continue
            score = (freedom + len(x)) * math.log1p(float(miss @ miss) / freedom) + 2 * parameters * len(x) / spare
            if best is None or score < best.score:
                best = Kink(index, before, score)
    return best if best is not None and best.score + GAIN < single else None


@lru_cache(maxsize=8)
def _cuts_by_width(sizes: tuple[float, ...]) -> dict[int, tuple[list[tuple[int, Order]], Floats]]:
    """The cuts with 2, 3 and 4 terms, and their terms, shape (cuts, m, terms). Series of a study share their sizes."""
    groups: dict[int, tuple[list[tuple[int, Order]], list[Floats]]] = {}
    for index, before, terms in _cuts(np.array(sizes)):
        names, columns = groups.setdefault(terms.shape[1], ([], []))
        names.append((index, before))
        columns.append(terms)
    return {width: (names, np.stack(columns)) for width, (names, columns) in sorted(groups.items())}


def _cuts(x: Floats) -> Iterator[tuple[int, Order, Floats]]:
    """Every cut with its two laws and their terms, zero on the side that they are not for."""
    shapes = {law: shape(law, x) for law in LAWS}
    for index in range(SIDE_LEAST, len(x) - SIDE_LEAST + 1):
        left = (np.arange(len(x)) < index).astype(np.float64)
        for before, after in product(LAWS, LAWS):
            if before == after:
                continue  # the same law on either side is a step, which is not a change of law
            for fixed_left, fixed_right in product((False, True), (False, True)):
                if (fixed_left and before == LAWS[0]) or (fixed_right and after == LAWS[0]):
                    continue
                terms = [shapes[before] * left, shapes[after] * (1 - left)]
                terms += [left] if fixed_left else []
                terms += [1 - left] if fixed_right else []
                yield index, before, np.stack(terms, axis=1)


def stretches(
    x: Floats, order: str, fixed: float, cost: Floats, step: float | None, found: Kink | None
) -> tuple[Stretch, ...]:
    """The ranges of sizes with their laws.

    Args:
        x: sizes, shape (m,).
        order: the law of the upper end.
        fixed: the fixed cost.
        cost: the fitted cost at each size, shape (m,).
        step: the size around which the same law comes to cost more, None where it does not.
        found: a change of law.
    """
    ends = float(x[0]), float(x[-1])
    if found is not None:
        middle = math.sqrt(float(x[found.index - 1] * x[found.index]))
        return (Stretch(ends[0], middle, str(found.before), "kink"), Stretch(middle, ends[1], order))
    if step is not None:
        return (Stretch(ends[0], step, order, "step"), Stretch(step, ends[1], order))
    mostly_fixed = int(np.sum(fixed > FIXED_MOST * cost))
    if order != "1" and FIXED_LEAST <= mostly_fixed < len(x):
        border = float(x[mostly_fixed])
        return (Stretch(ends[0], border, "1", "fixed cost"), Stretch(border, ends[1], order))
    return (Stretch(*ends, order),)
