"""Counting the interpreter's steps: instructions executed by Python code, with the compiled operations they call.

From Python 3.12 on by sys.monitoring (PEP 669), before by tracing. Both give the same number run after run on one
version of Python. What an instruction does inside compiled code is one step however long it takes; how long is taken
down too, so that it can be told in which operation a cost hides.
"""

from __future__ import annotations

import dis
import sys
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from time import perf_counter_ns as now
from types import CodeType, FrameType
from typing import Any

TOOL = 4  # one of the two numbers of sys.monitoring that are free for everyone
HIDDEN_MOST = 40
OWN = ("set_events", "setprofile", "settrace")  # calls that end the counting itself
SIGNS = {
    "CONTAINS_OP": "in",
    "COMPARE_OP": "comparing",
    "BINARY_SUBSCR": "[…]",
    "BINARY_SLICE": "slicing",
    "STORE_SUBSCR": "[…] =",
    "DELETE_SUBSCR": "del […]",
    "LIST_EXTEND": "list.extend",
    "FOR_ITER": "for",
    "UNPACK_SEQUENCE": "unpacking",
    "FORMAT_VALUE": "f-string",
    "BUILD_STRING": "f-string",
    "STORE_SLICE": "slicing",
}


@dataclass(slots=True)
class Hidden:
    """Work that steps do not show, because it is done by compiled code.

    Attributes:
        calls: how often each compiled function was called, by name.
        spent: nanoseconds between one instruction and the next, and how often, by the operation in between.
    """

    calls: Counter[str] = field(default_factory=Counter)
    spent: dict[str, tuple[int, int]] = field(default_factory=dict)


class _Taken:
    """Instructions as they come: how often each was met, and the time until the next one."""

    def __init__(self) -> None:
        self.count: Counter[tuple[CodeType, int]] = Counter()
        self.time: Counter[tuple[CodeType, int]] = Counter()
        self.names: dict[tuple[CodeType, int], str] = {}
        self.calls: Counter[str] = Counter()
        self.last: tuple[CodeType, int] | None = None
        self.since = 0

    def step(self, code: CodeType, offset: int) -> None:
        """One instruction is about to be executed."""
        at = now()
        if self.last is not None:
            self.time[self.last] += at - self.since
        key = (code, offset)
        self.count[key] += 1
        self.last = key
        self.since = now()

    def call(self, what: Any) -> None:
        """A compiled function is about to be called by the last instruction."""
        name = name_of(what)
        if name in OWN:
            return
        self.calls[name] += 1
        if self.last is not None:
            self.names[self.last] = name
        # Taking the name down is not the function's work.
        self.since = now()

    def hidden(self) -> Hidden:
        """All that was taken, put together by operation."""
        made = Hidden(self.calls)
        operations: dict[CodeType, dict[int, str]] = {}
        for key, times in self.count.items():
            code, offset = key
            if code not in operations:
                operations[code] = {each.offset: _operation(each) for each in dis.get_instructions(code)}
            name = self.names.get(key) or operations[code].get(offset, "")
            if name:
                spent, before = made.spent.get(name, (0, 0))
                made.spent[name] = spent + self.time[key], before + times
        dearest = sorted(made.spent, key=lambda name: -made.spent[name][0])[:HIDDEN_MOST]
        made.spent = {name: made.spent[name] for name in dearest}
        return made


def name_of(what: Any) -> str:
    """A compiled function as people call it: list.pop, sorted."""
    owner = getattr(what, "__self__", None)
    name = str(getattr(what, "__name__", type(what).__name__))
    if owner is None or type(owner).__name__ == "module":
        return str(getattr(what, "__qualname__", name))
    return f"{owner.__name__ if isinstance(owner, type) else type(owner).__name__}.{name}"


def counted_steps(call: Callable[[], Any]) -> int:
    """Call something, and count the instructions of all Python code that runs meanwhile in this thread."""
    total = 0
    if sys.version_info >= (3, 12):

        def step(_: CodeType, __: int) -> None:
            nonlocal total
            total += 1

        _monitored(call, step, None)
        return total - _OVERHEAD

    def trace(frame: FrameType, event: str, _: Any) -> Any:
        nonlocal total
        if event == "opcode":
            total += 1
        elif event == "call":
            frame.f_trace_opcodes = True
            frame.f_trace_lines = False
        return trace

    _traced(call, trace, None)
    return total


def hidden_work(call: Callable[[], Any]) -> Hidden:
    """Call something, and take down what each operation of its Python code costs. Slow: for a few sizes only."""
    taken = _Taken()
    if sys.version_info >= (3, 12):

        def called(_: CodeType, __: int, what: Any, ___: Any) -> None:
            if not hasattr(what, "__code__") and not isinstance(what, type):
                taken.call(what)

        _monitored(call, taken.step, called)
        return taken.hidden()

    def trace(frame: FrameType, event: str, _: Any) -> Any:
        if event == "opcode":
            taken.step(frame.f_code, frame.f_lasti)
        elif event == "call":
            frame.f_trace_opcodes = True
            frame.f_trace_lines = False
        return trace

    def profile(_: FrameType, event: str, what: Any) -> None:
        if event == "c_call" and what is not sys.setprofile:
            taken.call(what)

    _traced(call, trace, profile)
    return taken.hidden()


def _operation(instruction: dis.Instruction) -> str:
    """An operation that may hide work, as people write it; empty for the others."""
    if instruction.opname == "BINARY_OP":
        return instruction.argrepr or "arithmetic"
    return SIGNS.get(instruction.opname, "")


def _traced(call: Callable[[], Any], trace: Any, profile: Any) -> None:
    sys.settrace(trace)
    sys.setprofile(profile)
    try:
        call()
    finally:
        sys.setprofile(None)
        sys.settrace(None)


def _monitored(call: Callable[[], Any], step: Any, called: Any) -> None:
    monitoring: Any = sys.monitoring  # type: ignore[attr-defined, unused-ignore]
    events = monitoring.events
    monitoring.use_tool_id(TOOL, "logarithm")
    try:
        monitoring.register_callback(TOOL, events.INSTRUCTION, step)
        monitoring.register_callback(TOOL, events.CALL, called)
        monitoring.set_events(TOOL, events.INSTRUCTION | (events.CALL if called else 0))
        call()
    finally:
        monitoring.set_events(TOOL, 0)
        monitoring.register_callback(TOOL, events.INSTRUCTION, None)
        monitoring.register_callback(TOOL, events.CALL, None)
        monitoring.free_tool_id(TOOL)


_OVERHEAD = 0
if sys.version_info >= (3, 12):
    # What the lines around the call itself are counted for.
    _OVERHEAD = counted_steps(int)
