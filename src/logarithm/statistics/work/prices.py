"""Work by kinds: what a unit of each kind costs, seen from the times, and which orders the kinds leave open.

    time(n) = s · Σ wₖ pₖ cₖ(n) · n^d

with c the counts of kind k, p what a unit of it typically costs in steps, s the seconds of a step, and d a drift. The
logarithms of w and d are found by least squares with a normal prior (Gauss and Newton, some rounds): what a machine
does is near to what machines typically do, and a kind that hardly matters keeps its typical price.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from ...notation.kinds import PRICES
from ...notation.orders import parse
from ..growth.exact import Exact
from ..readings.arrays import Floats
from ..readings.series import Series
from .order import Carrier, Work, orders_of, work_of

SIZES_LEAST = 5  # that were both counted and timed
OFF, DRIFT, NOISE = 1.0, 0.2, 0.1  # how far prices, their drift, and times are typically off, in the logarithm
ROUNDS = 12
BEYOND = 2.0  # the largest size that was timed over that counted, from which on the law of each kind says what is there
SHARE_LEAST, RISING_LEAST, MATTERS = 0.02, 0.05, 0.2
"""Shares of the work at the largest size: from which on a kind has a say, its order stays open, and bounds the sum."""


def work_by_kinds(total: Series, kinds: Mapping[str, Series], timed: Series | None) -> Work | None:
    """The order of work that is counted by kinds.

    No order is plausible that none of the kinds has, but for a logarithm where their counts are irregular; none
    that grows more slowly than a kind that makes a fifth; and the sum is taken with the prices that the times show.

    Args:
        total: the counts, added up with typical prices, shape (m sizes, h instances).
        kinds: those of each kind, of the same shape.
        timed: the times of the same calls, where there are any.
    """
    counts = {kind: replace(total, costs=_at(each, total)) for kind, each in kinds.items()}
    sizes, steps = _extended(total, counts, timed)
    largest = {kind: float(np.nanmean(each[-1])) for kind, each in steps.items()}
    kept = [kind for kind, amount in largest.items() if amount > SHARE_LEAST * sum(largest.values())]
    if not kept:
        return work_of(total)
    weights = _weights(np.stack([np.nanmean(steps[kind], axis=1) for kind in kept], axis=1), sizes, timed)
    whole = replace(total, sizes=sizes, costs=np.einsum("k,kmh->mh", weights, np.stack([steps[kind] for kind in kept])))
    found = {kind: orders_of(counts[kind]) for kind in kept}
    amounts = np.array([largest[kind] for kind in kept]) * weights
    shares = dict(zip(kept, map(float, amounts / amounts.sum()), strict=True))
    bounding = [orders for kind, (orders, _) in found.items() if orders and shares[kind] >= MATTERS]
    least = max(map(_least, bounding), default=parse("1").rank)
    near = {each for orders, exact in found.values() for order in orders for each in _near(order, exact)}
    among = frozenset(each for each in near if parse(each).rank >= least)
    work = work_of(whole, among if all(orders for orders, _ in found.values()) else frozenset())
    if work is None:
        return None
    carriers = tuple(
        Carrier(kind, orders[0], exact, float(weight) * PRICES[kind], shares[kind])
        for (kind, (orders, exact)), weight in zip(found.items(), weights, strict=True)
        if orders
    )
    ends = float(total.sizes[0]), float(total.sizes[-1])
    return replace(work, carriers=carriers, plausible=_with_rising(work.plausible, shares, found), sizes=ends)


def _extended(total: Series, counts: Mapping[str, Series], timed: Series | None) -> tuple[Floats, Mapping[str, Floats]]:
    """The sizes and the steps of each kind, at larger ones too, which were timed only, by the law of the kind.

    At those that were counted alone where a kind has more than one order, or the others are hardly larger.
    """
    sizes, steps = total.sizes, {kind: PRICES[kind] * each.costs for kind, each in counts.items()}
    if timed is None or len(counts) < 2 or timed.sizes[-1] < BEYOND * sizes[-1]:
        return sizes, steps
    beyond = timed.sizes[timed.sizes > sizes[-1]]
    made: dict[str, Floats] = {}
    for kind, each in counts.items():
        law = work_of(each)
        if law is None or len(law.plausible) > 1:
            return sizes, steps
        rows = np.full((len(beyond), total.costs.shape[1]), np.nan)
        rows[:, 0] = PRICES[kind] * law.at(beyond)
        made[kind] = np.concatenate([steps[kind], rows])
    return np.concatenate([sizes, beyond]), made


def _with_rising(
    plausible: tuple[tuple[str, float], ...],
    shares: Mapping[str, float],
    found: Mapping[str, tuple[tuple[str, ...], Exact | None]],
) -> tuple[tuple[str, float], ...]:
    """Orders with their weights, and those of kinds that make little of the work now, and outgrow all of these."""
    fastest = max(parse(order).rank for order, _ in plausible)
    rising: dict[str, float] = {}
    for kind, (orders, _) in found.items():
        if orders and RISING_LEAST <= shares[kind] < MATTERS and parse(orders[0]).rank > fastest:
            rising[orders[0]] = rising.get(orders[0], 0.0) + shares[kind] / MATTERS / 2
    total = 1 + sum(rising.values())
    return tuple((order, weight / total) for order, weight in (*plausible, *rising.items()))


def _least(orders: Sequence[str]) -> tuple[float, ...]:
    """The rank of the slowest of a kind's orders, that without a logarithm in place of a rare one with two."""
    slowest = min(map(parse, orders), key=lambda order: order.rank)
    return (replace(slowest, logs=1.0) if slowest.logs > 1 else slowest).rank


def _near(order: str, exact: Exact | None) -> set[str]:
    """An order, and where no formula gives every count, those with a logarithm more or less: counts are irregular."""
    own = parse(order)
    more = (0.0,) if exact is not None or own.base is not None or own.factorial else (-1.0, 0.0, 1.0)
    return {str(replace(own, logs=own.logs + each)) for each in more if own.logs + each >= 0}


def _at(series: Series, total: Series) -> Floats:
    """The counts of a kind in the places of the whole; a kind that a call has nothing of was not written down."""
    made = np.zeros(total.costs.shape)
    rows = np.searchsorted(total.sizes, series.sizes)
    columns = np.searchsorted(total.heats, series.heats)
    made[np.ix_(rows, columns)] = np.nan_to_num(series.costs)
    return np.where(np.isfinite(total.costs), made, np.nan)


def _weights(steps: Floats, sizes: Floats, timed: Series | None) -> Floats:
    """How many times as dear as typically a unit of each kind is, shape (k,), from steps of shape (m, k)."""
    ones = np.ones(steps.shape[1])
    if timed is None or len(ones) == 1:
        return ones
    both, counted, clocked = np.intersect1d(sizes, timed.sizes, return_indices=True)
    if len(both) < SIZES_LEAST:
        return ones
    x, y = np.log(both), np.log(timed.typical[clocked])
    steps = steps[counted]
    given = np.isfinite(y) & (steps.sum(axis=1) > 0)
    if given.sum() < SIZES_LEAST:
        return ones
    x, y, steps = x[given], y[given], steps[given]
    log_weights, drift = np.zeros(len(ones)), 0.0
    for _ in range(ROUNDS):
        parts = steps * np.exp(log_weights)
        whole = parts.sum(axis=1)
        off = y - np.log(whole) - drift * x
        # The seconds of a step are whatever fits, so levels are left out.
        slopes = np.column_stack([parts / whole[:, None], x])
        slopes, off = slopes - slopes.mean(axis=0), off - off.mean()
        prior = np.array([*ones / OFF, 1 / DRIFT])
        rows = np.vstack([slopes / NOISE, np.diag(prior)])
        rest = np.concatenate([off / NOISE, -prior * np.array([*log_weights, drift])])
        step = np.linalg.lstsq(rows, rest, rcond=None)[0]
        log_weights, drift = log_weights + step[:-1], drift + step[-1]
        if np.abs(step).max() < 1e-3:
            break
    return np.asarray(np.exp(log_weights), dtype=np.float64)
