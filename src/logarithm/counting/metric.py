"""One metric of one call, by its name: what a search of a worst case and people's own test suites count."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import nullcontext
from typing import Any

from .code.item_counting import ITEMS
from .code.known import known_work
from .code.rewriting import rewritten
from .items.counted import counted
from .memory import allocated
from .steps import counted_lines, counted_steps
from .tallies import OPERATIONS, counting

WORK = "work"
Call = Callable[[], Any]


def count_metric(
    metric: str,
    make: Callable[[], Any],
    call_on: Callable[[Any], Call],
    code: Callable[..., Any],
    is_rewritten: bool = False,
) -> int | None:
    """How much of a metric one call takes; None where nothing is known under this name.

    Args:
        metric: steps, calls, memory (bytes at the peak), an operation on items, what the code tallies, or work: steps
            and what known operations do inside them, each counted as one.
        make: makes the instance; it is asked once for each call.
        call_on: gives the call on an instance, without arguments.
        code: the function or class that is called.
        is_rewritten: whether `code` runs inside `rewritten` already.

    >>> count_metric("comparisons", lambda: [3, 1, 2], lambda levels: lambda: max(levels), max)
    2
    """
    if metric == "memory":
        return allocated(call_on(make()))["memory"]
    if metric == "steps":
        return counted_steps(call_on(make()))
    if metric == "calls":
        return counted_lines(call_on(make())).calls
    if metric == WORK:
        instance = make()
        return counted_steps(call_on(make())) + round(known_work(call_on(instance), code, instance)[0].total)
    if metric in OPERATIONS:
        instance = counted(make())
        with nullcontext() if is_rewritten else rewritten(code, ITEMS), counting() as tallied:
            call_on(instance)()
        return tallied[metric]
    with counting() as tallied:
        call_on(make())()
    return tallied.get(metric)
