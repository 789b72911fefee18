"""Expectations on growth for people's own test suites: counted, not timed, so that they can stand anywhere."""

from __future__ import annotations

import copy
import random
from collections.abc import Callable, Sequence
from contextlib import nullcontext
from functools import partial
from typing import Any

from .counting.code.item_counting import ITEMS
from .counting.code.rewriting import rewritten
from .counting.metric import WORK, count_metric
from .counting.tallies import OPERATIONS
from .errors import AnalysisError, StudyError, named
from .notation import formulas, sizes
from .notation.orders import Order, parse, pretty
from .statistics.growth.exact import closed_form
from .statistics.growth.fit import fit_growth
from .worst_case.climb import climb
from .worst_case.stretch import stretched

SEED = 1
WORST_TRIES = 2000  # over the size
STEP_METRICS = ("steps", "calls")


def expect_order(
    function: Callable[[Any], Any],
    family: Callable[[int, random.Random], Any],
    order: str,
    metric: str = "work",
    sizes_of: str | Sequence[int] | None = None,
    worst: bool = False,
    keeps: Callable[[Any], bool] | None = None,
) -> None:
    """Raise an AssertionError where a function's cost grows faster than it should, or is not what it should be.

    Args:
        function: called with an instance.
        family: makes an instance from a size and a seeded `random.Random`.
        order: an order such as "n log n", which the cost may not exceed; or an exact formula such as "n*(n-1)/2",
            or a bound such as "<= 2*n".
        metric: work (instructions of the interpreter, and what known operations such as `sorted` or `list.insert` do
            inside them), steps (instructions alone), calls (of functions), comparisons, reads, writes, moves, swaps,
            hashes, or a tally.
        sizes_of: a list of sizes; 16 to 1024 if none is given, 8 to 64 for the worst case.
        worst: search for the inputs on which it does most, and judge those: the same ones each time.
        keeps: whether an instance that was searched for is one that may come.

    >>> def longest(waves, rng=None): return max(waves)
    >>> expect_order(longest, lambda n, rng: [rng.random() for _ in range(n)], "n - 1", metric="comparisons")

    Raises:
        AssertionError: where it does; the message says what was found instead.
        StudyError: where the order or the sizes cannot be read, or nothing counts the metric.
    """
    __tracebackhide__ = True  # pytest shows the line of the test, not of this library
    points = [int(size) for size in sizes.parse(sizes_of or ("8..64" if worst else "16..1024 *2"))]
    if worst:
        taken = _worst(function, family, metric, points, keeps)
    else:
        taken = [_count(function, family(size, random.Random(f"{SEED}/{size}")), metric) for size in points]
    if all(count is None for count in taken):
        known = named([WORK, *STEP_METRICS, *OPERATIONS])
        raise StudyError(f"nothing counts '{metric}': there are {known}, and what the code tallies")
    counts = [count or 0 for count in taken]
    name = getattr(function, "__name__", "the function")
    try:
        wanted: Order | None = parse(order)
    except StudyError:
        wanted = None
    if wanted is None:
        formula = formulas.parse(order)
        for size, count in zip(points, counts, strict=True):
            if not formula.holds(size, count):
                raise AssertionError(f"{name}: {metric} = {count} at n = {size}, not {order} as expected")
        return
    exact = closed_form(points, counts)
    if exact is not None:
        if parse(exact.order).rank > wanted.rank:
            raise AssertionError(f"{name}: {metric} = {exact.text}, faster growth than {pretty(order)}")
        return
    try:
        found = fit_growth(points, [max(count, 1) for count in counts], also=[order])
    except AnalysisError as error:
        raise StudyError(f"{name} cannot be judged: {error}") from None
    orders = [fit.order for fit, _ in found.plausible]
    if all(each.rank > wanted.rank for each in orders):
        shown = " or ".join(pretty(str(each)) for each in orders)
        last = f"{counts[-2]} at n = {points[-2]}, {counts[-1]} at n = {points[-1]}"
        grow = "grows" if metric == WORK else "grow"
        raise AssertionError(f"{name}: {metric} {grow} as {shown}, faster than {pretty(order)}: {last}")


def expect_faster(
    function: Callable[[Any], Any],
    other: Callable[[Any], Any],
    family: Callable[[int, random.Random], Any],
    since: int,
    metric: str = "work",
    until: int | None = None,
    times: float = 1.0,
) -> None:
    """Raise an AssertionError where a function does not do less than another one from some size on.

    It is counted, so the same code gives the same answer on every machine. Counting cannot speak of work that is done
    in compiled code; where that seems so, it says so.

    Args:
        function: must do less.
        other: than this one.
        family: makes an instance from a size and a seeded `random.Random`.
        since: the smallest size at which it must.
        metric: as for `expect_order`.
        until: the largest size that is looked at; sixteen times `since` if none is given.
        times: how many times as much the other must do.

    >>> def all_pairs(waves): return max(abs(a - b) for a in waves for b in waves)
    >>> def ends(waves):
    ...     low = high = waves[0]
    ...     for wave in waves: low, high = min(low, wave), max(high, wave)
    ...     return high - low
    >>> expect_faster(ends, all_pairs, lambda n, rng: [rng.random() for _ in range(n)], since=16, until=64)

    Raises:
        AssertionError: where it does not; the message says at which size, with both counts.
        StudyError: where nothing counts the metric, or the work of one is out of its sight.
    """
    __tracebackhide__ = True  # pytest shows the line of the test, not of this library
    points = [int(size) for size in sizes.parse(f"{since}..{until or 16 * since}")]
    names = [getattr(each, "__name__", "the function") for each in (function, other)]
    pairs = []
    for size in points:
        chance = f"{SEED}/{size}"
        counts = [_count(each, family(size, random.Random(chance)), metric) for each in (function, other)]
        if None in counts:
            raise StudyError(f"nothing counts '{metric}' in {names[counts.index(None)]}: take steps or comparisons")
        pairs.append((counts[0] or 0, counts[1] or 0))
    for which, name in enumerate(names):
        if metric in STEP_METRICS and len(points) > 1 and pairs[-1][which] <= pairs[0][which]:
            raise StudyError(
                f"{name} takes {pairs[0][which]} {metric} at n = {points[0]} and no more at n = {points[-1]}: its work "
                'is done in compiled code, which is not counted. Take metric="comparisons", or time it'
            )
    for size, (own, theirs) in zip(points, pairs, strict=True):
        if own * times >= theirs:
            wanted = "fewer" if times == 1.0 else f"at most one in {times:g}"
            raise AssertionError(
                f"{names[0]}: {metric} = {own} at n = {size}, {names[1]}: {theirs}; {wanted} expected from {since} on"
            )


def _worst(
    function: Callable[[Any], Any],
    family: Callable[[int, random.Random], Any],
    metric: str,
    points: list[int],
    keeps: Callable[[Any], bool] | None,
) -> list[int | None]:
    """The most that was found at each size, each search beginning with the pattern of the size before."""
    made: list[int | None] = []
    pattern: Any = None

    def cost(instance: Any) -> float | None:
        return _count(function, copy.deepcopy(instance), metric, is_rewritten=True)

    # Once for all: it takes longer than a count.
    with rewritten(function, ITEMS) if metric in OPERATIONS else nullcontext():
        for size in points:
            typical = family(size, random.Random(f"{SEED}/{size}"))
            starts = [] if pattern is None else [*stretched(pattern, typical)]
            found = climb(typical, cost, random.Random(f"{SEED}/{size}"), WORST_TRIES // size, starts, keeps)
            if found.worst is None:
                return [None]
            made.append(round(found.worst[0]))
            pattern = found.worst[1]
    return made


def _count(function: Callable[[Any], Any], instance: Any, metric: str, is_rewritten: bool = False) -> int | None:
    """One count; None where nothing is known under this name."""
    # Work takes two calls, and the first may change its instance.
    make = partial(copy.deepcopy, instance) if metric == WORK else lambda: instance
    return count_metric(metric, make, lambda made: partial(function, made), function, is_rewritten)
