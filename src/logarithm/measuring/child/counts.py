"""The child side of counting: what one call allocates, tallies, or takes in steps. None of it is ever timed."""

from __future__ import annotations

import inspect
import sys
import tracemalloc
from collections.abc import Callable
from functools import partial
from typing import Any

from ...counting.counted import CountedList, counted
from ...counting.steps import counted_steps, hidden_work
from ...counting.tallies import counting
from ..shared.clock import collect
from .bench import Bench, copied

CALLS_MOST = 40


def count(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """Count one call on a fresh instance.

    Args:
        bench: the contender's.
        request: with `kind`, `family`, `size`, `seed`, `stage`, and `wraps`: what in the instance is to count too:
            nothing (empty), its "values", or its "lists" too.

    Returns:
        `values`: what was counted, by metric; for hidden work `calls` and `spent` by operation.
    """
    instance = bench.study.the_family(request["family"]).instance(request["size"], request["seed"])
    if request.get("wraps"):
        instance = counted(instance, lists=request["wraps"] == "lists")
    call = called(bench, instance, request["stage"])
    if request["kind"] == "steps":
        return {"values": {"steps": counted_steps(call)}}
    if request["kind"] == "hidden":
        found = hidden_work(call)
        return {"calls": dict(found.calls.most_common(CALLS_MOST)), "spent": found.spent}
    if request["kind"] == "memory":
        return {"values": allocated(call)}
    with counting() as tallied:
        call()
    return {"values": dict(tallied)}


def called(bench: Bench, instance: Any, stage: str | None) -> Callable[[], Any]:
    """One call of a contender's stage, with nothing else around it."""
    code = bench.contender.code
    if not inspect.isclass(code):
        contender = bench.contender
        plain = not (bench.is_async or contender.drain or contender.finish)
        return partial(code, instance, **contender.values) if plain else partial(bench.answer, instance)
    built: Any = code(**bench.contender.values)
    if stage == "build":
        return partial(built.build, instance)
    built.build(instance if isinstance(instance, CountedList) else copied(instance)[0])
    return partial(built.use, instance) if bench.use_asks else partial(built.use)


def allocated(call: Callable[[], Any]) -> dict[str, int]:
    """The peak of memory that a call allocates, in bytes, and how many blocks its answer keeps.

    The call is made once before, so that what is made at a first call only is not counted.
    """
    call()
    collect()
    tracemalloc.start()
    try:
        before, _ = tracemalloc.get_traced_memory()
        tracemalloc.reset_peak()
        answer = call()
        _, peak = tracemalloc.get_traced_memory()
    finally:
        tracemalloc.stop()
    del answer
    return {"memory": peak - before, "allocations": blocks(call)}


def blocks(call: Callable[[], Any]) -> int:
    """How many blocks of memory a call asks for, as seen between its lines.

    What a compiled function asks for and gives back before it returns is not seen. Looked at twice, since what the
    first look itself keeps is not the call's.
    """
    _blocks(call)
    return _blocks(call)


def _blocks(call: Callable[[], Any]) -> int:
    seen, last = 0, sys.getallocatedblocks()

    def look(*_: Any) -> Any:
        nonlocal seen, last
        held = sys.getallocatedblocks()
        if held > last:
            seen += held - last
        last = held
        return look

    sys.settrace(look)
    try:
        answer = call()
    finally:
        sys.settrace(None)
    look()
    del answer
    return seen
