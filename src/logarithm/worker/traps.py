"""Traps: ways in which a contender makes its own timing worthless, looked for by a worker in rehearsal.

This runs beside the code under study and needs nothing but the standard library.
"""

from __future__ import annotations

import contextlib
import gc
import io
import sys
import time
from collections.abc import Iterator
from dataclasses import replace
from functools import partial
from typing import Any

from ..notation import encoding
from ..protocol import answers, clock
from ..protocol.requests import FindTraps, Timing
from .remembering import REPEATS, remembered
from .timing.bench import Bench
from .timing.lazy import driven, promise_of
from .timing.pools import copied, is_changed
from .unfinished import unfinished

FLAT = 150.0  # nanoseconds: a call as short as this does hardly more than return
NOTHING = 1.8  # or one that takes no longer than so many calls of nothing, where the processor is slow just now
DEAR = 100_000.0  # nanoseconds of a call that nobody takes for one that does nothing, however slow the moment

# What a contender may not touch without being told of: taken here before any of its code runs.
GENUINE = [
    (module, name, getattr(module, name))
    for module, names in (
        (
            time,
            ("perf_counter", "perf_counter_ns", "monotonic", "monotonic_ns", "process_time", "process_time_ns", "time"),
        ),
        (gc, ("collect", "disable", "enable", "freeze")),
    )
    for name in names
]


class Printed(io.TextIOBase):
    """A standard output that only counts what is written to it."""

    def __init__(self) -> None:
        self.characters = 0

    def write(self, text: str) -> int:
        """Count the characters."""
        self.characters += len(text)
        return len(text)

    def writable(self) -> bool:
        """It can be written to."""
        return True


@contextlib.contextmanager
def counting_prints() -> Iterator[Printed]:
    """Count what is printed to standard output and standard error."""
    printed, before = Printed(), (sys.stdout, sys.stderr)
    sys.stdout = sys.stderr = printed
    try:
        yield printed
    finally:
        sys.stdout, sys.stderr = before


def found(bench: Bench, request: FindTraps) -> dict[str, str]:
    """The traps of a contender at one instance: kind and detail. Raises whatever the contender raises."""
    seen = in_answers(bench, *request.pool)
    if not seen and bench.contender.stages == (None,) and not bench.is_async:
        return flat(bench, request)
    return seen


def in_answers(bench: Bench, family: str, size: Any, seed: int) -> dict[str, str]:
    """What shows in a few answers: printing, changes, promises, memory of earlier calls."""
    make = bench.study.the_family(family).instance
    told: dict[str, str] = {}
    with counting_prints() as printed:
        instance, before = copied(make(size, seed))
        answer = _undriven(bench, instance)
        if printed.closed:
            told["closes"] = ""
        promise = promise_of(answer)
        if promise:
            kind = type(answer).__name__
            if bench.contender.options.drain is False:
                return {**told, "lazy": kind}
            told["driven"] = kind
        answer = driven(answer, bench.run)
    if printed.characters:
        told["prints"] = str(printed.characters)
    replaced = [name for module, name, genuine in GENUINE if getattr(module, name, None) is not genuine]
    if replaced:
        told["tampers"] = ", ".join(replaced)
    changed = is_changed(instance, before, make(size, seed))
    if changed is not False:
        told["changes" if changed else "untold"] = ""
    if answer is None:
        told["nothing"] = ""
    # At the second call, so that a pool has started what it keeps.
    again = None

    def answered() -> None:
        nonlocal again
        again = bench.answer(make(size, seed) if changed is not False else instance)

    told |= unfinished(answered)
    rule = bench.study.agreement
    with contextlib.suppress(encoding.TooLargeError):
        one, other = encoding.described(answer), encoding.described(again)
        if not answers.agree(one, other, max(rule.within, 1e-12), rule.unordered) and bench.study.judge is None:
            told["fickle"] = ""
    numbers = range(seed + 1000, seed + 1000 + REPEATS)
    call = bench.answer if promise or not bench.is_function else bench.plain
    return told | remembered(call, partial(make, size), numbers, changed is not False)


def _undriven(bench: Bench, instance: Any) -> Any:
    """What a function returns, promise or answer; of stages and where there is a `finish`, the answer."""
    contender = bench.contender
    if contender.stages != (None,) or contender.options.finish is not None:
        return bench.answer(instance)
    return bench.plain(instance)


def flat(bench: Bench, request: FindTraps) -> dict[str, str]:
    """Return a trap where a call is as short at a far larger size as at a small one, and hardly more than nothing."""
    large = Timing(*request.pool, bench.contender.stages[-1], 10)
    if bench.contender.expression is not None or bench.timed(replace(large, calls=1)).call > DEAR:
        return {}
    if min(bench.timed(large).call for _ in range(5)) > 10 * FLAT:
        return {}
    ends = [replace(large, size=size, calls=2000) for size in (request.smallest, request.size)]
    # The least of some, in turn, so that slow moments do not hide it.
    rounds = [[*(bench.timed(end).call for end in ends), _of_nothing()] for _ in range(9)]
    small, cost, nothing = (min(each) for each in zip(*rounds, strict=True))
    is_short = max(small, cost) < max(FLAT, NOTHING * nothing)
    if request.size >= 8 * request.smallest and is_short and cost < 1.3 * small:
        return {"flat": f"{cost:.0f}"}
    return {}


def _of_nothing() -> float:
    """Nanoseconds of a call that does nothing, the loop around it included."""
    kept: list[Any] = []
    return clock.in_turn(lambda _: None, [None] * 2000, kept.append) / 2000
