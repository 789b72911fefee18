"""The clock, and the loops that stand between two readings of it.

The functions are taken from the standard library when this module loads, before any code under study runs, so
that a contender that replaces `time.perf_counter_ns` times only itself wrongly.
"""

from __future__ import annotations

import gc
import math
from collections.abc import Callable, Iterable, Sequence
from itertools import pairwise, repeat
from statistics import median
from time import perf_counter_ns, process_time_ns
from typing import Any

Call = Callable[[Any], Any]

now, busy = perf_counter_ns, process_time_ns
collect, enable_gc, disable_gc, freeze, pending = gc.collect, gc.enable, gc.disable, gc.freeze, gc.get_count

NANO = 1e-9
UNROLLED = 10
PACE_TURNS = 300


def one_call(call: Call, instance: Any) -> tuple[int, Any]:
    """Nanoseconds of a single call, and its answer: whoever holds it frees it outside the timing."""
    start = now()
    answer = call(instance)
    stop = now()
    return stop - start, answer


def many_calls(call: Call, instance: Any, rounds: int) -> int:
    """Nanoseconds of `UNROLLED * rounds` calls on one instance.

    Written out ten times, so that the loop's own cost is a tenth of a turn for each call and hardly needs
    taking off: what a processor does at the same time as a call cannot be subtracted from it.
    """
    turns = repeat(None, rounds)
    start = now()
    for _ in turns:
        call(instance)
        call(instance)
        call(instance)
        call(instance)
        call(instance)
        call(instance)
        call(instance)
        call(instance)
        call(instance)
        call(instance)
    return now() - start


def few_calls(call: Call, instance: Any, calls: int) -> int:
    """Nanoseconds of `calls` calls on one instance, one a turn."""
    turns = repeat(None, calls)
    start = now()
    for _ in turns:
        call(instance)
    return now() - start


def each_call(call: Call, arguments: Iterable[Any]) -> int:
    """Nanoseconds of one call for each argument, all made beforehand and freed afterwards."""
    start = now()
    for argument in arguments:
        call(argument)
    return now() - start


def paired_calls(calls: Sequence[Call], arguments: Sequence[Any]) -> int:
    """Nanoseconds of calling each of `calls` with its own argument: the methods of fresh objects."""
    pairs = zip(calls, arguments, strict=True)
    start = now()
    for call, argument in pairs:
        call(argument)
    return now() - start


def pace() -> int:
    """Nanoseconds of a fixed piece of work, the shorter of two: how fast the processor runs at this moment.

    On a shared machine a processor's speed changes by as much as a factor of two within a tenth of a second.
    Reading the pace before and after each trial lets the analysis tell a slow moment from a slow contender.
    """
    best = 0
    for _ in range(2):
        start = now()
        total = 0
        for i in range(PACE_TURNS):
            total += i * i & 7
        took = now() - start
        best = took if not best or took < best else best
    return best


def round_calls(calls: float) -> int:
    """A whole number of calls that the loops can make: a multiple of ten from ten on."""
    whole = max(1, math.ceil(calls))
    return whole if whole < UNROLLED else -(-whole // UNROLLED) * UNROLLED


def step() -> int:
    """The smallest rise of the clock that can be seen, in nanoseconds."""
    return min(rise for rise in _rises() if rise > 0)


def reading_cost() -> float:
    """Nanoseconds that one reading of the clock costs."""
    return median(_rises())


def loop_cost() -> float:
    """Nanoseconds that one turn of an empty loop costs."""
    turns = 10_000
    best = []
    for _ in range(15):
        empty = repeat(None, turns)
        start = now()
        for _ in empty:
            pass
        best.append((now() - start) / turns)
    return median(best)


def _rises() -> list[int]:
    readings = [now() for _ in range(2001)]
    return [later - earlier for earlier, later in pairwise(readings)]
