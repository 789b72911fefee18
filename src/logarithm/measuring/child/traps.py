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
from statistics import median
from typing import Any

from ..shared import answers, clock
from .bench import Bench, as_bytes, copied

REPEATS = 5
REMEMBERED = 0.25  # a repeated instance that costs less than this share of a new one is remembered
TELLING = 3_000  # nanoseconds below which a call is too short to tell whether it remembers
FLAT = 150.0  # nanoseconds: a call as short as this does hardly more than return

TEXTS = {
    "lazy": "returns a {}, so nothing was computed: give it drain=True to time the work",
    "prints": "prints {} characters a call, and the time includes that",
    "changes": "changes its input, so each call is given a fresh copy, made outside the timing",
    "fickle": "gives different answers to one instance from call to call",
    "nothing": "returns nothing, so its answer cannot be compared",
    "remembers": "remembers earlier calls: a repeated instance costs {} of a new one, so its time is not the work's",
    "flat": "takes {} ns whatever the size: is the work done at all?",
    "tampers": "replaces {}; it is timed by Logarithm's own, and so are the others",
    "closes": "closes standard output",
    "parallel": "starts threads or processes, so it may use every processor: its time is wall time",
}


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


def traps(bench: Bench, family: str, size: Any, seed: int) -> dict[str, str]:
    """Return the traps of a contender at one instance: kind and detail. Raises whatever the contender raises."""
    make = bench.study.the_family(family).instance
    found: dict[str, str] = {}
    with counting_prints() as printed:
        instance, before = copied(make(size, seed))
        answer = bench.answer(instance)
        if printed.closed:
            found["closes"] = ""
    if printed.characters:
        found["prints"] = str(printed.characters)
    replaced = [name for module, name, genuine in GENUINE if getattr(module, name, None) is not genuine]
    if replaced:
        found["tampers"] = ", ".join(replaced)
    if answers.is_lazy(answer):
        return {**found, "lazy": type(answer).__name__}
    changed = before is not None and as_bytes(instance) != before
    if changed:
        found["changes"] = ""
    if answer is None:
        found["nothing"] = ""
    again = bench.answer(make(size, seed) if changed else instance)
    rule = bench.study.agreement
    with contextlib.suppress(answers.TooLargeError):
        one, other = answers.written(answer), answers.written(again)
        if not answers.agree(one, other, max(rule.within, 1e-12), rule.unordered) and bench.study.judge is None:
            found["fickle"] = ""
    new, repeated = [], []
    for number in range(REPEATS):
        fresh = make(size, seed + 1000 + number)
        new.append(clock.one_call(bench.answer, fresh)[0])
        # The same object again, unless it was used up: what is remembered may hang on the object or on its value.
        repeated.append(clock.one_call(bench.answer, make(size, seed + 1000 + number) if changed else fresh)[0])
    if median(new) > TELLING and median(repeated) < REMEMBERED * median(new):
        found["remembers"] = f"{100 * median(repeated) / median(new):.0f} %"
    return found


def flat(bench: Bench, family: str, small: Any, large: Any, seed: int) -> dict[str, str]:
    """Return a trap where a call is as short at a far larger size as at a small one, and hardly more than nothing."""
    if bench.timed(family, large, seed, bench.contender.stages[-1], 10, False).call > 10 * FLAT:
        return {}
    stage = bench.contender.stages[-1]
    # The least of a few, so that one slow moment does not hide it.
    costs = [min(bench.timed(family, size, seed, stage, 2000, False).call for _ in range(3)) for size in (small, large)]
    if large >= 8 * small and max(costs) < FLAT and costs[1] < 1.2 * costs[0]:
        return {"flat": f"{costs[1]:.0f}"}
    return {}
