"""Following a call: each thing that happens to its items, with the line it stands on and the variables after it.

The interpreter tells of each line that is executed, and counted instances of each thing that is done to them. The
variables are read from the frame of the function that does it, whatever they are called.
"""

from __future__ import annotations

import sys
import time
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from types import FrameType
from typing import Any

from ..items.counted import STANDS_FOR
from ..items.values import told_of_comparisons
from ..items.watching import unwatched, watching
from ..tallies import listening, quick
from .event import Event, State
from .pictures import in_words, is_small, parts_of, state, text
from .shapes import Shapes, shapes_of

INSIDE = ("<listcomp>", "<setcomp>", "<dictcomp>", "<genexpr>", "<lambda>")
EVENTS_MOST, WORDS_MOST = 5000, 70
UNSEEN_S_MOST = 2.0  # seconds that a call goes on after the last event that is kept
ENDLESS = "it did not end"
WORDS = {
    "read": "read {where}: {value}",
    "write": "write {where} = {value}",
    "swap": "swap {where} and {other}",
    "append": "append {value} to {name}",
    "insert": "insert {value} at {where}",
    "pop": "take {where}: {value}",
    "removal": "remove {where}",
    "look up": "look up {place} in {name}",
    "add": "add {place} to {name}",
    "sort": "sort {name}",
    "reverse": "reverse {name}",
    "rotate": "rotate {name}",
    "clear": "clear {name}",
}
KEYED = (set, frozenset)


@dataclass(slots=True)
class Followed:
    """All that happened, in order; `cut` where there was more; `failure` in words where the call gave no answer."""

    events: list[Event] = field(default_factory=list)
    cut: bool = False
    answer: Any = None
    failure: str = ""


class _Endless(BaseException):
    """Ends a call that goes on; no ordinary handler of the contender catches it."""


def followed(call: Callable[[], Any], files: set[str]) -> Followed:
    """Call something on counted instances, and write down what happens.

    Args:
        call: makes the call.
        files: the files whose functions are followed, as their code names them.
    """
    follower = _Follower(files)
    found = follower.found
    with listening(follower.tallied), watching(follower.happened), told_of_comparisons():
        before = sys.gettrace()
        sys.settrace(follower.trace)
        try:
            found.answer = call()
        except _Endless:
            found.failure = ENDLESS
        except (Exception, SystemExit) as error:
            found.failure = in_short(error)
        finally:
            sys.settrace(before)
    return found


@dataclass(slots=True)
class _Call:
    """One call of a function.

    Attributes:
        number: of the call.
        depth: how many calls below the first.
        line: that it is at.
        variables: when last looked at.
        passes: for the line of each loop how often it began.
        error: that leaves it, unless it is caught here.
    """

    number: int
    depth: int
    line: int
    variables: dict[str, State]
    passes: Counter[int] = field(default_factory=Counter)
    error: BaseException | None = None


class _Follower:
    """Knows which call it is in, and what its variables were when something last happened."""

    def __init__(self, files: set[str]) -> None:
        self.shapes = {file: _shapes(file) for file in files}
        self.found = Followed()
        self.late = 0.0  # when a call that goes on without end is ended
        self.raised: BaseException | None = None
        self.calls: dict[FrameType, _Call] = {}
        self.entered, self.depth = 0, -1
        self.shown: tuple[int, dict[str, State]] = (0, {})
        self.before = self.shown
        self.counts: Counter[str] = Counter()
        self.begun = quick()

    def trace(self, frame: FrameType, event: str, given: Any) -> Any:
        """What the interpreter tells of: calls, lines, returns."""
        if frame.f_code.co_filename not in self.shapes or frame.f_code.co_name in INSIDE:
            return None
        if self.found.cut and time.monotonic() > self.late:
            raise _Endless
        with unwatched():
            if event == "call":
                self.enter(frame)
            elif event == "line":
                self.compare(frame)
                self.begin_line(frame)
            elif event == "exception":
                self.fail(frame, given[1])
            elif event == "return":
                self.compare(frame)
                self.leave(frame, given)
        return self.trace

    def enter(self, frame: FrameType) -> None:
        """A function begins."""
        self.depth, self.entered = self.depth + 1, self.entered + 1
        self.calls[frame] = _Call(self.entered, self.depth, frame.f_lineno, self.variables(frame))
        inside = ", ".join(f"{name}={text(value, 12)}" for name, value in _arguments(frame))
        words = f"{_called(frame)}({inside})"
        if self.depth:
            self.add("call", f"call {words}", frame, {}, words)
        else:
            self.add("begin", "begin" if self.entered == 1 else f"call {words}", frame, {}, words)

    def begin_line(self, frame: FrameType) -> None:
        """A line begins; in an outermost loop, after its first line, a pass does."""
        call, before, line = self.calls[frame], self.calls[frame].line, frame.f_lineno
        call.line, call.error = line, None
        last = self.shapes[frame.f_code.co_filename].passes.get(before)
        if last is not None and before < line <= last:
            call.passes[before] += 1
            self.add("pass", f"pass {call.passes[before]}", frame, {})

    def fail(self, frame: FrameType, error: BaseException) -> None:
        """An exception is raised here, or comes from a function that was called here."""
        if isinstance(error, StopIteration | GeneratorExit):
            return
        self.calls[frame].error = error
        if error is not self.raised:
            self.raised = error
            self.add("raise", shortened(f"raises {in_short(error)}"), frame, {})

    def leave(self, frame: FrameType, given: Any) -> None:
        """A function ends; those below it have ended before."""
        call = self.calls[frame]
        if call.depth > 0 and call.error is not None:
            self.add("return", f"{_called(frame)} gives no answer", frame, {}, type(call.error).__name__)
        elif call.depth > 0 and frame.f_code.co_name == "__init__":
            self.add("return", f"{_called(frame)} is made", frame, {})
        elif call.depth > 0:
            self.add("return", f"{frame.f_code.co_name} returns {text(given)}", frame, {}, text(given))
        del self.calls[frame]
        self.depth = call.depth - 1

    def compare(self, frame: FrameType) -> None:
        """Tell of variables that have another value, though nothing was seen to be done to them."""
        known = self.calls[frame].variables
        others = {name: found for name, found in self.variables(frame).items() if known.get(name) != found}
        if not others:
            return
        kind = "set" if all(map(is_small, others.values())) else "change"
        what = "; ".join(f"{name} = {in_words(found)}" for name, found in others.items())
        touched = {name: _differing(known.get(name), found) for name, found in others.items() if not is_small(found)}
        self.add(kind, shortened(what), frame, touched)

    def happened(self, kind: str, where: Any, about: tuple[Any, ...]) -> None:
        """Something was done to a counted value or container."""
        with unwatched():
            frame = self.own_frame()
            if frame is None:
                return
            if where is None:
                self.add("compare", f"compare {text(about[0], 16)} {kind} {text(about[1], 16)}", frame, {})
                return
            name, variable, row = _name_of(where, frame)
            keyed = isinstance(where, dict) or STANDS_FOR.get(type(where)) in KEYED
            if kind in ("sort", "reverse", "rotate", "clear"):
                about = (None,)
            place = text(about[0]) if keyed else about[0]
            value = text(about[1], 16) if len(about) > 1 else ""
            at = f"{name}[{place}]" if not keyed or isinstance(where, dict) else place
            other = f"{name}[{about[1]}]" if kind == "swap" else ""
            said = WORDS.get(kind, kind + " {where}")
            if kind == "read" and not value:
                said = "read {place} in {name}"
            what = said.format(where=at, value=value, name=name, place=place, other=other)
            places = [place, *([about[1]] if kind == "swap" else [])] if place is not None else []
            touched = places if row is None else [[row, each] for each in places] if type(row) is int else [row]
            if kind == "swap" and self.found.events and self.found.events[-1].kind == "write":
                # The write before it was its first half.
                self.found.events.pop()
                self.shown = self.before
            self.add(kind, what, frame, {variable: touched} if variable else {})

    def tallied(self, name: str, amount: int) -> None:
        """The code counted something itself."""
        self.counts[name] += amount
        with unwatched():
            frame = self.own_frame()
            if frame is not None:
                self.add(name, name if amount == 1 else f"{name} + {amount}", frame, {})

    def own_frame(self) -> FrameType | None:
        """The function of the contender that is at work."""
        frame: FrameType | None = sys._getframe(2)
        while frame is not None and frame not in self.calls:
            frame = frame.f_back
        return frame

    def add(self, kind: str, what: str, frame: FrameType, touched: dict[str, list[Any]], value: str = "") -> None:
        """Write an event down."""
        if len(self.found.events) >= EVENTS_MOST:
            if not self.found.cut:
                self.found.cut, self.late = True, time.monotonic() + UNSEEN_S_MOST
            return
        call = self.calls[frame]
        now = self.variables(frame)
        self.before = self.shown
        known = self.shown[1] if self.shown[0] == call.number else {}
        changed: dict[str, State | None] = {name: found for name, found in now.items() if known.get(name) != found}
        changed |= {name: None for name in known if name not in now}
        self.shown, call.variables = (call.number, now), now
        own = {name: count - self.begun[name] for name, count in quick().items() if count > self.begun[name]}
        tallies = {**own, **self.counts}
        where = call.line, frame.f_code.co_name, call.depth, call.number
        self.found.events.append(Event(kind, what, *where, touched, changed, tallies, value))

    def variables(self, frame: FrameType) -> dict[str, State]:
        """The variables of a function, those that it uses as heaps told as such."""
        found = _variables(frame)
        for name in self.shapes[frame.f_code.co_filename].heaps.get(frame.f_code.co_name, ()):
            if name in found and found[name][0] == "cells":
                found[name] = ["heap", found[name][1]]
        return found


def in_short(error: BaseException) -> str:
    """An exception in a line.

    >>> in_short(IndexError("list index out of range"))
    'IndexError: list index out of range'
    """
    said = " ".join(str(error).split())
    return f"{type(error).__name__}: {said}" if said else type(error).__name__


def _shapes(file: str) -> Shapes:
    try:
        return shapes_of(Path(file).read_text(encoding="utf-8"))
    except (OSError, UnicodeDecodeError):
        return Shapes()


def _variables(frame: FrameType) -> dict[str, State]:
    """The variables of a function, with the containers that its own object holds."""
    found: dict[str, State] = {}
    for name, value in frame.f_locals.items():
        if name.startswith((".", "__")):
            continue
        if name == "self":
            for part, inside in parts_of(value).items():
                pictured = state(inside)
                if pictured is not None:
                    found[f"self.{part}"] = pictured
            continue
        pictured = state(value)
        if pictured is not None:
            found[name] = pictured
    return found


def _called(frame: FrameType) -> str:
    """The name by which a function is called: that of its class, where it makes an object."""
    name = frame.f_code.co_name
    return type(frame.f_locals["self"]).__name__ if name == "__init__" and "self" in frame.f_locals else name


def _arguments(frame: FrameType) -> list[tuple[str, Any]]:
    code = frame.f_code
    names = code.co_varnames[: code.co_argcount + code.co_kwonlyargcount]
    return [(name, frame.f_locals[name]) for name in names if name in frame.f_locals and name != "self"]


def _name_of(where: Any, frame: FrameType) -> tuple[str, str, Any]:
    """What a container is called where it is worked on, the variable that holds it, and under which place of that."""
    values = {name: value for name, value in frame.f_locals.items() if not name.startswith(".")}
    for name, value in values.items():
        if value is where:
            return name, name, None
    for name, value in values.items():
        kind = STANDS_FOR.get(type(value), type(value))
        if kind is list:
            for at, part in enumerate(list.__iter__(value)):
                if part is where:
                    return f"{name}[{at}]", name, at
        elif isinstance(value, dict):
            for key, part in dict.items(value):
                if part is where:
                    return f"{name}[{text(key)}]", name, text(key)
        elif kind not in STANDS_FOR.values():
            for part_name, part in parts_of(value).items():
                if part is where:
                    return f"{name}.{part_name}", f"{name}.{part_name}", None
    return "a slice", "", None


def shortened(words: str) -> str:
    """Words of at most a line."""
    return words if len(words) <= WORDS_MOST else words[: WORDS_MOST - 1] + "…"


def _differing(before: State | None, now: State) -> list[Any]:
    """The places of a container at which it is not as it was."""
    if before is None or before[0] != now[0] or now[0] not in ("cells", "heap", "letters", "chain"):
        return []
    return [at for at, cell in enumerate(now[1]) if at >= len(before[1]) or before[1][at] != cell]
