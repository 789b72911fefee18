"""Regimes: ranges of sizes over which one law holds, and the kinks between them.

A single law, drift and step included, is held against every way to cut the sizes in two with a law of their own
on either side, each with a fixed cost or without. All are fitted under one covariance and so can be compared by
the same score; a cut is believed only where it gains clearly more than its terms cost.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache
from itertools import permutations, product

import numpy as np

from ...notation.orders import Order, parse
from ..readings.arrays import Floats
from .catalogue import shape
from .least_squares import weights_to_one

LAWS: tuple[Order, ...] = tuple(map(parse, ("1", "log n", "n", "n log n", "n^1.5", "n^2", "n^3")))
CONSTANT = 0  # which of the laws that is
LEFT, RIGHT = 0, 1  # of a cut
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
    for width, (group, terms) in _cuts(tuple(map(float, x))).items():
        spare = len(x) - width - 2
        columns = terms / y[None, :, None]
        weights = weights_to_one(columns, whiten)
        fitting = np.flatnonzero((weights > 0).all(axis=1))
        if spare <= 0 or not len(fitting):
            continue
        miss = np.log(np.einsum("fmk,fk->fm", columns[fitting], weights[fitting])) @ whiten.T
        squares = np.einsum("fm,fm->f", miss, miss)
        least = int(squares.argmin())
        score = (freedom + len(x)) * math.log1p(float(squares[least]) / freedom) + 2 * (width + 1) * len(x) / spare
        if best is None or score < best.score:
            index, before = group[fitting[least]]
            best = Kink(index, before, score)
    return best if best is not None and best.score + GAIN < single else None


@lru_cache(maxsize=8)
def _cuts(sizes: tuple[float, ...]) -> dict[int, tuple[list[tuple[int, Order]], Floats]]:
    """Every cut by how many terms it has, with these, shape (cuts, m, terms). Series of a study share their sizes."""
    x, cuts = np.array(sizes), range(SIDE_LEAST, len(sizes) - SIDE_LEAST + 1)
    shapes = np.stack([shape(law, x) for law in LAWS])
    is_left = np.arange(len(x)) < np.array(cuts)[:, None, None, None]
    made = {}
    for width, choices in _choices().items():
        laws, sides = np.array(choices).transpose(2, 0, 1)
        # A term is zero on the side that it is not for.
        terms = shapes[laws] * (is_left == (sides[..., None] == LEFT))
        names = [(index, LAWS[choice[0][0]]) for index in cuts for choice in choices]
        made[width] = names, np.ascontiguousarray(terms.reshape(-1, width, len(x)).transpose(0, 2, 1))
    return made


@lru_cache(maxsize=1)
def _choices() -> dict[int, list[list[tuple[int, int]]]]:
    """The choices of 2, 3 and 4 terms, each as which of the laws it is, and for which side of a cut."""
    found: dict[int, list[list[tuple[int, int]]]] = {2: [], 3: [], 4: []}
    # The same law on either side is a step, which is not a change of law.
    for before, after in permutations(range(len(LAWS)), 2):
        for fixed in product((False, True), (False, True)):
            if (fixed[LEFT] and before == CONSTANT) or (fixed[RIGHT] and after == CONSTANT):
                continue
            terms = [(before, LEFT), (after, RIGHT), *((CONSTANT, side) for side in (LEFT, RIGHT) if fixed[side])]
            found[len(terms)].append(terms)
    return found


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
