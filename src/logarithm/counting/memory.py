"""What a call allocates: the peak of its memory, and the blocks it asks for. None of it is ever timed."""

from __future__ import annotations

import gc
import sys
import tracemalloc
from collections.abc import Callable
from typing import Any


def allocated(call: Callable[[], Any]) -> dict[str, int]:
    """The peak of memory that a call allocates, in bytes, and how many blocks its answer keeps.

    The call is made once before, so that what is made at a first call only is not counted.
    """
    call()
    gc.collect()
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

    before = sys.gettrace()
    sys.settrace(look)
    try:
        answer = call()
    finally:
        sys.settrace(before)
    look()
    del answer
    return seen
