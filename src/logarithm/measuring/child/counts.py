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
from .bench import Bench
from .driving import promise_of
from .pools import copied

CALLS_MOST = 40


def count(bench: Bench, request: Count) -> Counted | HiddenWork:
    """Count one call on a fresh instance."""
    make = partial(bench.study.the_family(request.family).instance, request.size, request.seed)
    instance = make()
    if request.wraps:
        instance = counted(instance, lists=request.wraps == "lists")
    call = called(bench, instance, request.stage, make)
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


def called(bench: Bench, instance: Any, stage: str | None, spare: Callable[[], Any]) -> Callable[[], Any]:
    """One call of a contender's stage, with nothing else around it; `spare` makes another instance like this one."""
    code = bench.contender.code
    if not inspect.isclass(code):
        return partial(bench.plain, instance) if _is_plain(bench, spare) else partial(bench.answer, instance)
    built: Any = code(**bench.contender.values)
    if stage == "build":
        return partial(built.build, instance)
    built.build(instance if isinstance(instance, CountedList) else copied(instance)[0])
    return partial(built.use, instance) if bench.use_asks else partial(built.use)


def _is_plain(bench: Bench, spare: Callable[[], Any]) -> bool:
    """Whether a contender's work is over when it returns. Found out once, by a call on a spare instance."""
    if bench.is_plain is None:
        waits = bench.is_async or bench.contender.options.finish is not None
        bench.is_plain = not waits and not promise_of(bench.plain(spare()))
    return bench.is_plain
