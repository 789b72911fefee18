"""Expectations on growth for people's own test suites: counted, not timed, so that they can stand anywhere."""

from __future__ import annotations

import random
from collections.abc import Callable, Sequence
from functools import partial
from typing import Any

from .analysis.growth.exact import closed_form
from .analysis.growth.fit import fit_growth
from .counting.code.rewriting import rewritten
from .counting.items.counted import counted
from .counting.steps import counted_lines, counted_steps
from .counting.tallies import OPERATIONS, counting
from .errors import AnalysisError, StudyError, named
from .notation import formulas, sizes
from .notation.orders import Order, parse, pretty

SEED = 1
STEPS = ("steps", "calls")


def expect_order(
    function: Callable[[Any], Any],
    family: Callable[[int, random.Random], Any],
    order: str,
    metric: str = "steps",
    sizes_of: str | Sequence[int] = "16..1024 *2",
) -> None:
    """Raise an AssertionError where a function's cost grows faster than it should, or is not what it should be.

    Args:
        function: called with an instance.
        family: makes an instance from a size and a seeded `random.Random`.
        order: an order such as "n log n", which the cost may not exceed; or an exact formula such as "n*(n-1)/2",
            or a bound such as "<= 2*n".
        metric: steps (instructions of the interpreter), calls (of functions), comparisons, reads, writes, moves, swaps,
            hashes, or a tally.
        sizes_of: a ladder of sizes.

    >>> def longest(waves, rng=None): return max(waves)
    >>> expect_order(longest, lambda n, rng: [rng.random() for _ in range(n)], "n - 1", metric="comparisons")

    Raises:
        AssertionError: where it does; the message says what was found instead.
        StudyError: where the order or the ladder cannot be read, or nothing counts the metric.
    """
    ladder = [int(size) for size in sizes.ladder(sizes_of)]
    taken = [_count(function, family(size, random.Random(f"{SEED}/{size}")), metric) for size in ladder]
    if all(count is None for count in taken):
        known = named([*STEPS, *OPERATIONS])
        raise StudyError(f"nothing counts '{metric}': there are {known}, and what the code tallies")
    counts = [count or 0 for count in taken]
    name = getattr(function, "__name__", "the function")
    try:
        wanted: Order | None = parse(order)
    except StudyError:
        wanted = None
    if wanted is None:
        formula = formulas.parse(order)
        for size, count in zip(ladder, counts, strict=True):
            if not formula.holds(size, count):
                raise AssertionError(f"{name}: {metric} = {count} at n = {size}, not {order} as expected")
        return
    exact = closed_form(ladder, counts)
    if exact is not None:
        if parse(exact.order).rank > wanted.rank:
            raise AssertionError(f"{name}: {metric} = {exact.text}, faster growth than {pretty(order)}")
        return
    try:
        found = fit_growth(ladder, [max(count, 1) for count in counts], also=[order])
    except AnalysisError as error:
        raise StudyError(f"{name} cannot be judged: {error}") from None
    orders = [fit.order for fit, _ in found.plausible]
    if all(each.rank > wanted.rank for each in orders):
        shown = " or ".join(pretty(str(each)) for each in orders)
        last = f"{counts[-2]} at n = {ladder[-2]}, {counts[-1]} at n = {ladder[-1]}"
        raise AssertionError(f"{name}: {metric} grow as {shown}, faster than {pretty(order)}: {last}")


def _count(function: Callable[[Any], Any], instance: Any, metric: str) -> int | None:
    """One count; None where nothing is known under this name."""
    if metric in STEPS:
        call = partial(function, instance)
        return counted_steps(call) if metric == "steps" else counted_lines(call).calls
    if metric in OPERATIONS:
        with rewritten(function), counting() as tallied:
            function(counted(instance))
        return tallied[metric]
    with counting() as tallied:
        function(instance)
    return tallied.get(metric)
