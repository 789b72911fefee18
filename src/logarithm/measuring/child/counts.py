"""Counting one call of a contender: what it tallies, allocates, or takes in steps. None of it is ever timed."""

from __future__ import annotations

import inspect
from collections.abc import Callable
from functools import partial
from typing import Any

from ...counting.counted import CountedList, counted
from ...counting.memory import allocated
from ...counting.steps import counted_steps, hidden_work
from ...counting.tallies import counting
from ..shared.messages import Count, Counted, HiddenWork
from .bench import Bench, copied

CALLS_MOST = 40


def count(bench: Bench, request: Count) -> Counted | HiddenWork:
    """Count one call on a fresh instance."""
    instance = bench.study.the_family(request.family).instance(request.size, request.seed)
    if request.wraps:
        instance = counted(instance, lists=request.wraps == "lists")
    call = called(bench, instance, request.stage)
    if request.way == "steps":
        return Counted(values={"steps": counted_steps(call)})
    if request.way == "hidden":
        found = hidden_work(call)
        return HiddenWork(calls=dict(found.calls.most_common(CALLS_MOST)), spent=found.spent)
    if request.way == "memory":
        return Counted(values=allocated(call))
    with counting() as tallied:
        call()
    return Counted(values=dict(tallied))


def called(bench: Bench, instance: Any, stage: str | None) -> Callable[[], Any]:
    """One call of a contender's stage, with nothing else around it."""
    code = bench.contender.code
    if not inspect.isclass(code):
        contender = bench.contender
        plain = not (bench.is_async or contender.options.drain or contender.options.finish)
        return partial(code, instance, **contender.values) if plain else partial(bench.answer, instance)
    built: Any = code(**bench.contender.values)
    if stage == "build":
        return partial(built.build, instance)
    built.build(instance if isinstance(instance, CountedList) else copied(instance)[0])
    return partial(built.use, instance) if bench.use_asks else partial(built.use)
