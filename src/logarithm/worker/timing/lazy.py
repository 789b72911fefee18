"""Answers that only promise to compute, driven to their end: waited for, or exhausted."""

from __future__ import annotations

import inspect
import sys
from collections import deque
from collections.abc import Callable
from typing import Any

from ...notation import encoding

Run = Callable[[Any], Any]
"""Waits for an awaitable, and returns what it gives."""

PARTS_LOOKED_AT = 16


def promise_of(answer: Any) -> str:
    """What is returned in place of an answer; empty for an answer.

    >>> promise_of(iter([1])), promise_of((1, map(abs, [2]))), promise_of([1])
    ('iterator', 'nested', '')
    """
    if _is_future(answer):
        return "future"
    if inspect.isasyncgen(answer):
        return "nested"
    if inspect.isawaitable(answer):
        return "awaitable"
    if encoding.is_lazy(answer):
        return "iterator"
    if type(answer) in (tuple, list) and any(promise_of(part) for part in answer[:PARTS_LOOKED_AT]):
        return "nested"
    return ""


def driven(answer: Any, run: Run) -> Any:
    """The answer itself: promises are waited for, iterators become lists, also inside tuples and lists.

    Args:
        answer: what a contender returned.
        run: waits for an awaitable.
    """
    if inspect.isasyncgen(answer):
        return driven(run(_collected(answer)), run)
    promise = promise_of(answer)
    if promise == "future":
        return driven(answer.result(), run)
    if promise == "awaitable":
        return driven(run(answer), run)
    if promise == "iterator":
        return [driven(part, run) for part in answer]
    if promise == "nested":
        return type(answer)(driven(part, run) for part in answer)
    return answer


def _is_future(answer: Any) -> bool:
    """Whether an answer is a future of a pool; only who has imported them can return one, and importing takes long."""
    futures = sys.modules.get("concurrent.futures")
    return futures is not None and isinstance(answer, futures.Future)


async def _collected(items: Any) -> list[Any]:
    return [item async for item in items]


def driving(code: Callable[[Any], Any], promise: str, run: Run) -> Callable[[Any], Any]:
    """A contender's code as a function whose work is over when it returns, as quick as can be.

    Args:
        code: of one argument.
        promise: as `promise_of` tells.
        run: waits for an awaitable.
    """
    if promise == "future":
        return lambda instance: code(instance).result()
    if promise == "iterator":
        return lambda instance: deque(code(instance), maxlen=0)
    if promise:
        return lambda instance: driven(code(instance), run)
    return code
