"""The clock, and the loops that stand between two readings of it.

The functions are taken from the standard library when this module loads, before any code under study runs, so
that a contender that replaces `time.perf_counter_ns` times only itself wrongly.
"""

from __future__ import annotations

import gc
import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from itertools import pairwise
from statistics import median
from time import monotonic, perf_counter_ns, process_time_ns, thread_time_ns
from typing import Any

Call = Callable[[Any], Any]
Keep = Callable[[Any], None]
Ten = tuple[Any, Any, Any, Any, Any, Any, Any, Any, Any, Any]

now, busy, busy_here = perf_counter_ns, process_time_ns, thread_time_ns
seconds = monotonic  # by which runs are planned; tests put another clock here
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


def in_turn(call: Call, inputs: Iterable[Any], keep: Keep) -> int:
    """Nanoseconds of one call for each input. Every answer is kept, so that it is freed outside the timing."""
    start = now()
    for each in inputs:
        keep(call(each))
    return now() - start


def in_tens(call: Call, tens: Iterable[Ten], keep: Keep) -> int:
    """Nanoseconds of one call for each input, ten inputs a turn; the answers are kept, ten together.

    Written out ten times, so that the loop's own cost is a tenth of a turn for each call and hardly needs
    taking off: what a processor does at the same time as a call cannot be subtracted from it.
    """
    start = now()
    for a, b, c, d, e, f, g, h, i, j in tens:
        keep((call(a), call(b), call(c), call(d), call(e), call(f), call(g), call(h), call(i), call(j)))
    return now() - start


def in_tens_dropped(call: Call, tens: Iterable[Ten], keep: Keep) -> int:  # noqa: ARG001
    """The same for answers that cost nothing to free, such as numbers: they are dropped at once."""
    start = now()
    for a, b, c, d, e, f, g, h, i, j in tens:
        call(a)
        call(b)
        call(c)
        call(d)
        call(e)
        call(f)
        call(g)
        call(h)
        call(i)
        call(j)
    return now() - start


def in_pairs(pairs: Iterable[tuple[Call, Any]], keep: Keep) -> int:
    """Nanoseconds of one call of each function with its own input: the methods of objects."""
    start = now()
    for call, each in pairs:
        keep(call(each))
    return now() - start


async def awaited(call: Call, inputs: Iterable[Any], keep: Keep) -> int:
    """Nanoseconds of one call for each input, each waited for."""
    start = now()
    for each in inputs:
        keep(await call(each))
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


@dataclass(frozen=True, slots=True)
class Overheads:
    """What measuring itself costs, in nanoseconds: a reading of the clock, and for one call each kind of loop."""

    reading: float
    turn: float
    ten: float
    pair: float


def overheads() -> Overheads:
    """Measure what measuring costs: calls of a function that does nothing, in each loop, over the plainest of them.

    Loops without a call would tell too much: while a call runs, a processor does part of the loop's work beside it.
    The plainest loop is `in_tens_dropped`: nobody can call something with less than taking the input and calling it.
    """
    inputs: list[Any] = [None] * 2000
    tens: list[Any] = [(None,) * UNROLLED] * 200
    pairs: list[Any] = [(_nothing, None)] * 2000
    rows = []
    for _ in range(9):
        bare = in_tens_dropped(_nothing, tens, list[Any]().append)
        rows.append(
            (
                in_turn(_nothing, inputs, list[Any]().append) - bare,
                in_tens(_nothing, tens, list[Any]().append) - bare,
                in_pairs(pairs, list[Any]().append) - bare,
            )
        )
    turn, ten, pair = (max(0.0, median(column)) / len(inputs) for column in zip(*rows, strict=True))
    return Overheads(reading_cost(), turn, ten, pair)


def _nothing(_: Any) -> None:
    pass


def _rises() -> list[int]:
    readings = [now() for _ in range(2001)]
    return [later - earlier for earlier, later in pairwise(readings)]


def busy_elsewhere() -> int:
    """Nanoseconds of processor time that this process has used in other threads than this one."""
    return busy() - busy_here()
