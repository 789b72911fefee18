"""Counting the interpreter's steps: instructions executed by Python code, by the line that they stand on.

From Python 3.12 on by sys.monitoring (PEP 669), before by tracing. Both give the same number run after run on one
version of Python. What an instruction does inside compiled code is one step however long it takes; how long is taken
down too, so that it can be told in which operation, and on which line, a cost hides.
"""

from __future__ import annotations

import dis
import linecache
import sys
from collections import Counter
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from itertools import islice
from time import perf_counter_ns as now
from types import CodeType, FrameType
from typing import Any, NamedTuple

TOOL = 4  # one of the two numbers of sys.monitoring that are free for everyone
HIDDEN_MOST, PLACES_MOST, TEXT_MOST = 40, 60, 60
ENDING_CALLS = ("set_events", "setprofile", "settrace")  # calls that end the counting itself
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
    "FORMAT_SIMPLE": "f-string",
    "BUILD_STRING": "f-string",
    "STORE_SLICE": "slicing",
}
NO_CALL = ("<listcomp>", "<setcomp>", "<dictcomp>", "<genexpr>", "<module>")


class Line(NamedTuple):
    """A line of code: how often it was run, and how many steps it took in all."""

    file: str
    line: int
    runs: int
    steps: int


class Operation(NamedTuple):
    """A known operation on a line: how much of a kind of work is done in it."""

    file: str
    line: int
    text: str
    kind: str
    amount: int


class Place(NamedTuple):
    """An operation on a line: nanoseconds until the next instruction, and how often it was met."""

    file: str
    line: int
    text: str
    spent: int
    times: int


@dataclass(slots=True)
class Steps:
    """Instructions that were executed in all, how many functions were entered, and each line's part."""

    total: int
    calls: int
    lines: list[Line]


@dataclass(slots=True)
class Hidden:
    """Work that steps do not show, because it is done by compiled code.

    Attributes:
        calls: how often each compiled function was called, by name.
        spent: nanoseconds between one instruction and the next, and how often, by the operation in between.
        places: the same by where the operation stands, the dearest first.
    """

    calls: Counter[str] = field(default_factory=Counter)
    spent: dict[str, tuple[int, int]] = field(default_factory=dict)
    places: list[Place] = field(default_factory=list)


class Keeping:
    """A call that keeps its answer; what it does itself is not counted."""

    def __init__(self, call: Callable[[], Any]) -> None:
        self.call = call
        self.answer: Any = None

    def __call__(self) -> None:
        """Make the call."""
        self.answer = self.call()


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
        if name in ENDING_CALLS:
            return
        self.calls[name] += 1
        if self.last is not None:
            self.names[self.last] = name
        # Taking the name down is not the function's work.
        self.since = now()

    def hidden(self) -> Hidden:
        """All that was taken, put together by operation and by place."""
        made = Hidden(self.calls)
        instructions: dict[CodeType, dict[int, dis.Instruction]] = {}
        places: dict[tuple[str, int, str], tuple[int, int]] = {}
        for key, times in self.count.items():
            code, offset = key
            if code not in instructions:
                instructions[code] = {each.offset: each for each in dis.get_instructions(code)}
            instruction = instructions[code].get(offset)
            name = self.names.get(key) or (_operation(instruction) if instruction else "")
            if not name:
                continue
            spent, before = made.spent.get(name, (0, 0))
            made.spent[name] = spent + self.time[key], before + times
            where = text_at(code, offset, name)
            spent, before = places.get(where, (0, 0))
            places[where] = spent + self.time[key], before + times
        dearest = sorted(made.spent, key=lambda name: -made.spent[name][0])[:HIDDEN_MOST]
        made.spent = {name: made.spent[name] for name in dearest}
        dear = sorted(places.items(), key=lambda each: -each[1][0])[:PLACES_MOST]
        made.places = [Place(*where, *taken) for where, taken in dear]
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

        _monitored(call, step, None, None)
        return total - _OVERHEAD

    def stepped(_: FrameType, event: str, __: Any) -> Any:
        nonlocal total
        if event == "opcode":
            total += 1
        return stepped

    def trace(frame: FrameType, _: str, __: Any) -> Any:
        frame.f_trace_opcodes, frame.f_trace_lines = True, False
        return stepped

    _traced(call, trace, None)
    return total


@dataclass(slots=True)
class _Met:
    """How often each instruction of some code was met, and how often the code was entered."""

    code: CodeType
    instructions: list[int]
    entered: int = 0


def counted_lines(call: Callable[[], Any]) -> Steps:
    """The same by line, with the functions that were entered; this takes up to twice as long."""
    # By identity: to look code up by what it is takes longer than all the rest.
    met: dict[int, _Met] = {}
    if sys.version_info >= (3, 12):
        counts: dict[int, list[int]] = {}

        def step(code: CodeType, offset: int) -> None:
            try:
                counts[id(code)][offset] += 1
            except KeyError:
                found = met.setdefault(id(code), _Met(code, [0] * (len(code.co_code) + 2)))
                counts[id(code)] = found.instructions
                found.instructions[offset] += 1

        def start(code: CodeType, _: int) -> None:
            met.setdefault(id(code), _Met(code, [0] * (len(code.co_code) + 2))).entered += 1

        _monitored(call, step, None, start)
        return _steps(met.values())

    told: dict[int, Any] = {}

    def trace(frame: FrameType, _: str, __: Any) -> Any:
        code = frame.f_code
        frame.f_trace_opcodes, frame.f_trace_lines = True, False
        if id(code) not in met:
            met[id(code)] = _Met(code, [0] * (len(code.co_code) + 2))
            told[id(code)] = _stepping(met[id(code)].instructions)
        if frame.f_lasti < 0 or not code.co_flags & GENERATOR:
            met[id(code)].entered += 1
        return told[id(code)]

    _traced(call, trace, None)
    return _steps(met.values())


GENERATOR = 0x20 | 0x80 | 0x200


def _stepping(instructions: list[int]) -> Any:
    """What is told of each instruction of one function, and counts it: it is called for every single one."""

    def stepped(frame: FrameType, event: str, _: Any) -> Any:
        if event == "opcode":
            instructions[frame.f_lasti] += 1
        return stepped

    return stepped


def _steps(met: Iterable[_Met]) -> Steps:
    total = calls = 0
    lines: dict[tuple[str, int], tuple[int, int]] = {}
    for each in met:
        code = each.code
        if code.co_filename == __file__:
            continue
        total += sum(each.instructions)
        calls += each.entered if code.co_name not in NO_CALL else 0
        for start, end, line in code.co_lines():
            here = each.instructions[start:end]
            if line is None or not any(here):
                continue
            runs, steps = lines.get((code.co_filename, line), (0, 0))
            lines[code.co_filename, line] = max(runs, *here), steps + sum(here)
    ordered = sorted(lines.items())
    return Steps(total, max(calls - 1, 0), [Line(*where, *counted) for where, counted in ordered])


def hidden_work(call: Callable[[], Any]) -> Hidden:
    """Call something, and take down what each operation of its Python code costs. Slow: for a few sizes only."""
    taken = _Taken()
    if sys.version_info >= (3, 12):

        def called(_: CodeType, __: int, what: Any, ___: Any) -> None:
            if not hasattr(what, "__code__") and not isinstance(what, type):
                taken.call(what)

        _monitored(call, taken.step, called, None)
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


def undisturbed(one: Hidden, other: Hidden) -> Hidden:
    """Of two looks at the same call, the shorter time of each operation: what disturbs one seldom disturbs both."""
    spent = {name: min(taken, other.spent.get(name, taken)) for name, taken in one.spent.items()}
    again = {place[:3]: place for place in other.places}
    places = [min(place, again.get(place[:3], place), key=lambda each: each.spent) for place in one.places]
    return Hidden(one.calls, spent, sorted(places, key=lambda place: -place.spent))


def _operation(instruction: dis.Instruction) -> str:
    """An operation that may hide work, as people write it; empty for the others."""
    if instruction.opname == "BINARY_OP":
        return instruction.argrepr or "arithmetic"
    return SIGNS.get(instruction.opname, "")


def text_at(code: CodeType, offset: int, name: str = "") -> tuple[str, int, str]:
    """The file and line of an instruction, and what stands there of its operation; `name` where that is too long."""
    first, last, start, end = next(islice(code.co_positions(), offset // 2, None), (None, None, None, None))
    if first is None:
        return code.co_filename, code.co_firstlineno, name
    line = linecache.getline(code.co_filename, first).encode()
    text = line[start : end if last == first else len(line)].decode(errors="replace").strip()
    return code.co_filename, first, (text if 0 < len(text) <= TEXT_MOST else name or f"{text[: TEXT_MOST - 1]}…")


def _traced(call: Callable[[], Any], trace: Any, profile: Any) -> None:
    before = sys.gettrace(), sys.getprofile()
    sys.settrace(trace)
    sys.setprofile(profile)
    try:
        call()
    finally:
        sys.setprofile(None)
        sys.settrace(None)
        # Whoever counts in a test may be traced by a debugger or a measure of coverage, which go on.
        if before[1] is not None:
            sys.setprofile(before[1])
        if before[0] is not None:
            sys.settrace(before[0])


def _monitored(call: Callable[[], Any], step: Any, called: Any, start: Any) -> None:
    monitoring: Any = sys.monitoring  # type: ignore[attr-defined, unused-ignore]
    events = monitoring.events
    callbacks = {events.INSTRUCTION: step, events.CALL: called, events.PY_START: start}
    monitoring.use_tool_id(TOOL, "logarithm")
    try:
        wanted = 0
        for event, callback in callbacks.items():
            monitoring.register_callback(TOOL, event, callback)
            wanted |= event if callback is not None else 0
        monitoring.set_events(TOOL, wanted)
        call()
    finally:
        monitoring.set_events(TOOL, 0)
        for event in callbacks:
            monitoring.register_callback(TOOL, event, None)
        monitoring.free_tool_id(TOOL)


_OVERHEAD = 0
if sys.version_info >= (3, 12):
    # What the lines around the call itself are counted for.
    _OVERHEAD = counted_steps(int)
