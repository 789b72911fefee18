"""Work: the order of what a call does, counted. It has no noise, so few small sizes tell its order.

Work is the interpreter's steps and what known operations do inside them, added up. It is held against the forms of
`forms`, all sizes of it or, where these follow far better, the larger ones, or the powers of two.
A free power or base is told as the nearest one that has a name, where that does nearly as well. Work that goes in
stairs, because sizes are rounded to powers of two, is named by the law through their edges. Work that is more, or less,
by one factor at sizes between powers of two, because halves are odd there, is named without that factor; where it is
not by one factor, and the powers follow a law far better, by that.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ...notation.orders import Order
from ..growth.catalogue import COMMON_COUNTED, log_values, nearest
from ..growth.exact import Exact, closed_form
from ..readings.arrays import Floats
from ..readings.series import Series
from ..uncertainty.scatter import excess
from .forms import Form, best_forms, least_chi

SIZES_LEAST, SMALLEST = 5, 3  # sizes, and the smallest of them that tells of the order
WORK_SPAN_LEAST, SIZES_MANY = 8.0, 10  # the largest size over the smallest, at least, unless there are so many
NEAR = 0.02  # a law that typically misses by so little, where instances differ, is followed by all sizes
FIRST_OFF, SIZES_SURE, FAR_BETTER = 4, 7, 10.0  # a quarter of the sizes; so many left at least, so much better without
GRAIN = 0.004  # relative: what counts are irregular by
PLAUSIBLE, NEARLY, TEMPER = 6.0, 12.0, 2.0  # in the score
STAIRS = {"up": np.ceil, "down": np.floor}  # how sizes may be rounded to powers of two
FULL, STEEP = 1.5, 8.0  # sizes on a stair on average, and how many times as much stairs differ as the sizes on one
SIZES_HALF = 6  # left at least without the first half
CLOSE = 9.0  # as the mean square in errors: how near the rest must follow its law then
KIND_SIZES, IRREGULAR = 3, 0.02  # sizes of a kind, and scatter in the logarithm
CLEARLY = 2.0  # how many times less scatter there must be with a step
LEVEL = 0.01  # in the logarithm: what the sizes on a stair may differ by on average


@dataclass(frozen=True, slots=True)
class Carrier:
    """A kind of work.

    Attributes:
        kind: what is done.
        order: how the amount of it grows.
        exact: the formula that gives every amount, where there is one.
        price: what a unit of it costs, in units of the whole.
        share: of the whole at the largest size.
    """

    kind: str
    order: str
    exact: Exact | None
    price: float
    share: float


@dataclass(frozen=True, slots=True)
class Work:
    """How work grows.

    Attributes:
        plausible: orders with their weights, the first choice first.
        terms: the first choice's terms with what each weighs; their sum is the work.
        miss: the typical relative error of that sum.
        sizes: the smallest and the largest that were counted.
        exact: the formula that gives every count, where there is one.
        is_whole: whether it is known what all operations in it do.
        carriers: the kinds of work that matter, where it was counted by kinds.
        stairs: where it is that of sizes rounded to powers of two: up or down.
        between: by how much it is more at sizes between powers of two than a law through these says, in the logarithm.
    """

    plausible: tuple[tuple[str, float], ...]
    terms: tuple[tuple[Order, float], ...]
    miss: float
    sizes: tuple[float, float]
    exact: Exact | None = None
    is_whole: bool = False
    carriers: tuple[Carrier, ...] = ()
    stairs: str = ""
    between: float = 0.0

    @property
    def order(self) -> str:
        """The first choice as it is spelled."""
        return self.plausible[0][0]

    def carrier(self, order: str) -> Carrier | None:
        """The kind that carries an order: of those that grow so, the one with the largest share."""
        return max((each for each in self.carriers if each.order == order), key=lambda each: each.share, default=None)

    def at(self, sizes: Floats) -> Floats:
        """The work at sizes of shape (k,)."""
        sizes = _rounded(sizes, self.stairs) if self.stairs else sizes
        with np.errstate(over="ignore"):
            made = sum(
                (weight * np.exp(log_values(order, sizes)) for order, weight in self.terms), np.zeros(len(sizes))
            )
        made = made * np.exp(self.between * _is_between(sizes))
        return np.asarray(np.maximum(made, 1.0), dtype=np.float64)


def work_of(series: Series, among: frozenset[str] = frozenset()) -> Work | None:
    """The order of counted work, shape (m sizes, h instances); None where the sizes are too few or too near.

    Args:
        series: the counts.
        among: the only orders that it can have, where these are known and fit.
    """
    return _work_of(series.sizes.tobytes(), np.ascontiguousarray(series.costs).tobytes(), series.costs.shape, among)


@lru_cache(maxsize=1024)
def _work_of(sizes: bytes, costs: bytes, shape: tuple[int, int], among: frozenset[str]) -> Work | None:
    """The same, of what does not change while a run goes on."""
    return _named(np.frombuffer(sizes), np.frombuffer(costs).reshape(shape), among)


def orders_of(series: Series) -> tuple[tuple[str, ...], Exact | None]:
    """The plausible orders of counts, and the formula that gives every one, where there is one: quicker than `work_of`.

    Returns:
        none where the sizes are too few or too near.
    """
    if _is_same(series.costs):
        exact = closed_form(series.sizes.tolist(), np.nanmean(series.costs, axis=1).tolist())
        if exact is not None:
            return (exact.order,), exact
    work = work_of(series)
    return (tuple(order for order, _ in work.plausible), work.exact) if work is not None else ((), None)


def _named(sizes: Floats, costs: Floats, among: frozenset[str]) -> Work | None:
    rows = sizes >= SMALLEST if (sizes >= SMALLEST).sum() >= SIZES_LEAST else sizes > 0
    x, table = sizes[rows], costs[rows]
    if len(x) < SIZES_LEAST or (x[-1] < WORK_SPAN_LEAST * x[0] and len(x) < SIZES_MANY):
        return None
    stairs = _edges(x, table)
    if stairs is not None:
        work = _named(*stairs[1:], among)
        return work and replace(work, stairs=stairs[0], sizes=(float(sizes[0]), float(sizes[-1])))
    exact = closed_form(x.tolist(), np.maximum(np.nanmean(table, axis=1), 1.0).tolist()) if _is_same(table) else None
    best, between = _fitted(x, table)
    is_followed = not _is_same(table) and min((form.miss for form in best.values()), default=0.0) < NEAR
    for part, far in _parts(x, is_followed):
        if best and least_chi(best) > 1:
            rest, step = _fitted(x[part], table[part])
            if rest and FAR_BETTER * least_chi(rest) < least_chi(best) and least_chi(rest) < far:
                best, between = rest, step
    if not best:
        return None
    best = {name: form for name, form in best.items() if name in among} or best
    ranked = sorted(best.values(), key=lambda form: form.score)
    if exact is not None and exact.order in best:
        ranked = [best[exact.order]]
    free = [form for form in ranked if str(form.terms[0]) not in COMMON_COUNTED]
    near = best.get(str(nearest(free[0].terms[0]))) if ranked[0] in free else None
    if near is not None and near.score - free[0].score < NEARLY:
        ranked, free = [near, *(form for form in ranked if form not in (near, *free))], []
    # Of powers and bases that differ by a little, the best one stands for all.
    ranked = [form for form in ranked if form not in free[1:]]
    first = ranked[0]
    kept = [form for form in ranked if form.score - first.score < PLAUSIBLE]
    weights = [math.exp(-(form.score - first.score) / (2 * TEMPER)) for form in kept]
    plausible = tuple((str(form.terms[0]), weight / sum(weights)) for form, weight in zip(kept, weights, strict=True))
    terms = tuple(zip(first.terms, map(float, first.weights), strict=True))
    return Work(plausible, terms, first.miss, (float(sizes[0]), float(sizes[-1])), exact, between=between)


def _parts(x: Floats, is_followed: bool) -> Iterator[tuple[NDArray[np.bool_], float]]:
    """Sizes that an order may follow where it does not follow all, shape (m,), and how near it must follow these.

    Small inputs often take another course; an order is what the larger ones follow. What halves its input does so
    otherwise at sizes between powers of two; where that is not by one factor, the powers speak alone, unless one law
    `is_followed` by all sizes nearly.
    """
    at = np.arange(len(x))
    for fewer, least, far in ((len(x) // FIRST_OFF, SIZES_SURE, math.inf), (len(x) // 2, SIZES_HALF, CLOSE)):
        if len(x) - fewer >= least:
            yield at >= fewer, far
    powers = ~_is_between(x)
    if SIZES_LEAST <= powers.sum() < len(x) and not is_followed:
        yield powers, CLOSE


def _rounded(sizes: Floats, way: str) -> Floats:
    """Sizes rounded up or down to powers of two, shape (m,)."""
    return np.asarray(2.0 ** STAIRS[way](np.log2(sizes)), dtype=np.float64)


def _fitted(x: Floats, table: Floats) -> tuple[dict[str, Form], float]:
    """The best form of each order for counts of shape (m, h); and by how much more they are between powers of two."""
    y = np.maximum(np.nanmean(table, axis=1), 1.0)
    between = _off_powers(x, y)
    y = y * np.exp(-between * _is_between(x))
    error = np.hypot(_spread(table, y), GRAIN)
    if not _is_same(table) or np.isfinite(table).sum(axis=1).max() < 2:
        # Where instances differ, or nobody knows, no size is known better than its neighbours bear out.
        error = error * np.sqrt(excess(np.log(x), np.log(y), error**2))
    return best_forms(x, y, error), between


def _is_between(sizes: Floats) -> NDArray[np.bool_]:
    """Which sizes are no powers of two, shape (m,)."""
    return np.log2(sizes) % 1 > 0


def _off_powers(x: Floats, y: Floats) -> float:
    """By how much counts are more at sizes between powers of two, in the logarithm; 0 where they are not clearly.

    What halves its input again and again ends sooner, or later, where halves are odd. Where sizes of both kinds take
    turns, that hides how each kind grows. A parabola through all is held against one with a step for a kind.
    """
    between = _is_between(x)
    if min(between.sum(), (~between).sum()) < KIND_SIZES:
        return 0.0
    along = np.log(x) - np.log(x).mean()
    smooth = np.stack([np.ones_like(along), along, along**2], axis=1)
    stepped = np.column_stack([smooth, between])
    left, steps = [], np.zeros(1)
    for terms in (smooth, stepped):
        steps = np.linalg.lstsq(terms, np.log(y), rcond=None)[0]
        rest = np.log(y) - terms @ steps
        left.append(math.sqrt(float(rest @ rest) / max(len(x) - terms.shape[1], 1)))
    return float(steps[-1]) if left[0] > IRREGULAR and left[1] * CLEARLY < left[0] else 0.0


def _edges(x: Floats, table: Floats) -> tuple[str, Floats, Floats] | None:
    """The way in which work goes in stairs, with the edges and the counts on them; None where it does not.

    Then what differs between two sizes of one stair is next to nothing beside what differs from stair to stair.
    """
    logs = np.log(np.maximum(np.nanmean(table, axis=1), 1.0))
    for way in STAIRS:
        edges, stair = np.unique(_rounded(x, way), return_inverse=True)
        level = np.bincount(stair, logs) / np.bincount(stair)
        within, between = float(np.abs(logs - level[stair]).mean()), float(np.abs(np.diff(level)).mean())
        if len(edges) >= SIZES_LEAST and len(x) >= FULL * len(edges) and between > STEEP * max(within, GRAIN):
            if within < LEVEL:
                return way, edges, np.exp(level)[:, None]
            # A stair that is not level is known by its edge; of those that have none nothing is taken for a stair.
            at_edges = np.isin(x, edges)
            return (way, edges, np.exp(logs[at_edges])[:, None]) if at_edges.sum() == len(edges) else None
    return None


def _is_same(table: Floats) -> bool:
    return bool((np.nanmin(table, axis=1) == np.nanmax(table, axis=1)).all())


def _spread(table: Floats, y: Floats) -> Floats:
    """The relative standard error of the mean over instances; half its own, half what all sizes say."""
    count = np.isfinite(table).sum(axis=1)
    spread = np.nan_to_num(np.nanstd(table, axis=1) * np.sqrt(count / np.maximum(count - 1, 1))) / y
    several = count > 1
    common = math.sqrt(float(np.mean(spread[several] ** 2))) if several.any() else 0.0
    return np.asarray(np.sqrt((spread**2 + common**2) / 2 / count), dtype=np.float64)
