"""The messages between a parent and a worker: requests one way, replies the other, each a line of JSON.

A message is a dataclass of plain values. Its line is an object with the message's name under `kind` and every field
by its name. The child trusts its parent and reads lines here; the parent trusts nobody and reads them in
`parent.replies`. This module needs the standard library alone.
"""

from __future__ import annotations

import json
from dataclasses import dataclass, field, fields
from typing import Any

from ..counting.walk.event import Event

Number = int | float

NOT_ENCLOSED = "not enclosed"  # begins what a process says that cannot enclose itself
POOL_MOST = 4096  # instances that a trial takes in turn
AWAY, AWAY_LEAST = 0.1, 2_000_000  # others had the processor for this share of so many nanoseconds at least


def seed_of(pool: int, number: int) -> int:
    """The seed of an instance of a pool; the first one's is the pool's own."""
    return pool + 1_000_000 * number


class Message:
    """What all messages can. A dataclass would write this for each of them, and a worker would start the later."""

    __slots__ = ()

    def __eq__(self, other: object) -> bool:
        return type(self) is type(other) and plain_of(self) == plain_of(other)

    def __hash__(self) -> int:
        return hash(repr(self))

    def __repr__(self) -> str:
        return f"{type(self).__name__}({', '.join(f'{key}={value!r}' for key, value in plain_of(self).items())})"


@dataclass(slots=True, eq=False, repr=False)
class Limits(Message):
    """What a worker must keep to.

    Attributes:
        room: bytes of memory it may fill with instances that it keeps.
        memory: bytes of memory it may fill in all; None for no bound.
        processor: the one it is kept to; None where it may use all.
        start: seconds that it may take until it says that it is ready.
    """

    room: float = float(2**30)
    memory: float | None = None
    processor: int | None = None
    start: float = 20.0


@dataclass(slots=True, eq=False, repr=False)
class Request(Message):
    """Something asked about one instance: the family's, of this size, from this seed."""

    family: str
    size: Number
    seed: int


@dataclass(slots=True, eq=False, repr=False)
class Answer(Request):
    """Answer the instance, and let the referee judge where there is one."""


@dataclass(slots=True, eq=False, repr=False)
class Attempt(Request):
    """Find out whether the instance works at all."""


@dataclass(slots=True, eq=False, repr=False)
class FindTraps(Request):
    """Look for what makes the contender's timing worthless; `smallest` is the first size of its ladder."""

    smallest: Number


@dataclass(slots=True, eq=False, repr=False)
class Calibrate(Request):
    """Find how many calls of a stage last `target` nanoseconds, and how many instances a trial must take in turn.

    `most` is the largest number of instances to try; 1 where one is repeated on purpose. Making them may take
    `making` nanoseconds.
    """

    stage: str | None
    target: int
    most: int = POOL_MOST
    making: int = 20_000_000


@dataclass(slots=True, eq=False, repr=False)
class Timing(Request):
    """How calls are to be timed.

    Attributes:
        stage: the one to call; None for a function.
        calls: how many of them.
        instances: how many are taken in turn; `seed` is the pool's, and `seed_of` says those of the others.
        first: the number of the instance to begin with.
        copies: whether each call needs a copy of its own.
        promise: what is returned in place of an answer, which is then waited for or exhausted: "awaitable",
            "future", "iterator", "nested", or nothing.
    """

    stage: str | None
    calls: int
    instances: int = 1
    first: int = 0
    copies: bool = False
    promise: str = ""


@dataclass(slots=True, eq=False, repr=False)
class TakeTrial(Timing):
    """Time some calls, after `warm` untimed ones."""

    warm: int = 0


@dataclass(slots=True, eq=False, repr=False)
class WarmUp(Timing):
    """Time trial after trial until they are steady, for at most `most` nanoseconds."""

    most: int = 0


@dataclass(slots=True, eq=False, repr=False)
class Count(Request):
    """Count one call of a stage: `way` is steps, lines, hidden, memory, tallies or work.

    `wraps` says what in the instance counts too: nothing (empty), its "values", or "all", containers as well.
    """

    stage: str | None
    way: str
    wraps: str = ""


@dataclass(slots=True, eq=False, repr=False)
class Walk(Request):
    """Tell what a call does on a small instance, event by event."""


@dataclass(slots=True, eq=False, repr=False)
class Search(Request):
    """Search for the instance on which most is done.

    Attributes:
        stage: what is called.
        metric: what is counted.
        tries: how many changes at most.
        longest: seconds that one count may take.
        starts: instances to begin with, written down by `notation.encoding`.
    """

    stage: str | None
    metric: str
    tries: int
    longest: float
    starts: list[Any] = field(default_factory=list)


@dataclass(slots=True, eq=False, repr=False)
class AnswerGiven(Message):
    """Answer an instance that is given, written down by `notation.encoding`."""

    instance: Any


@dataclass(slots=True, eq=False, repr=False)
class Give(Request):
    """Keep an instance that is given, as the family's of this size and seed."""

    instance: Any


@dataclass(slots=True, eq=False, repr=False)
class Take(Message):
    """Take instances that are given, to be called on next."""

    instances: list[Any]


@dataclass(slots=True, eq=False, repr=False)
class CallAll(Message):
    """Call on each instance that was taken, one after another."""


@dataclass(slots=True, eq=False, repr=False)
class Expect(Request):
    """Make instances, of this seed and the next ones, `count` in all, and say what the answers to them are."""

    count: int = 1


@dataclass(slots=True, eq=False, repr=False)
class Judge(Message):
    """Let the referee say whether an answer to an instance is right, both written down."""

    instance: Any
    answer: Any


@dataclass(slots=True, eq=False, repr=False)
class Case(Message):
    """What a process that runs handed-in code is told of it, once, before all requests.

    Attributes:
        name: of the contender.
        file: the name of its file, without a folder.
        text: what is in the file, byte by byte.
        function: the one to call.
        families: their names.
        room: an empty folder to build the enclosure on; in there the code runs where no enclosure is asked for.
        hidden: the study's folder.
        enclosed: whether it must be.
        limits: the fields of a `Limits`.
        within, unordered: how answers must agree.
    """

    name: str
    file: str
    text: str
    function: str
    families: list[str]
    room: str
    hidden: str
    enclosed: bool
    limits: dict[str, Any]
    within: float = 0.0
    unordered: bool = False


@dataclass(slots=True, eq=False, repr=False)
class TimeStartUp(Request):
    """Time a start on an empty instance. For programs that are started anew at each call."""


REQUESTS = (
    *(Answer, Attempt, FindTraps, Calibrate, TakeTrial, WarmUp, Count, Walk, Search, AnswerGiven),
    *(Give, Take, CallAll, Expect, Judge),
)


@dataclass(slots=True, kw_only=True, eq=False, repr=False)
class Reply(Message):
    """The end of a request. `threads` there are now in the process; `started`: it has started some, or processes."""

    threads: int = 1
    started: bool = False


@dataclass(slots=True, kw_only=True, eq=False, repr=False)
class Ready(Reply):
    """The study is loaded; `python` is the version that runs it; `repeats`: it can hold one instance only."""

    python: str = ""
    repeats: bool = False


@dataclass(slots=True, kw_only=True, eq=False, repr=False)
class Began(Reply):
    """The instance is made: from here on the time counts against the ceiling."""


@dataclass(slots=True, kw_only=True, eq=False, repr=False)
class Failure(Reply):
    """The request came to nothing: `reason` in a word or two, `detail` in a line."""

    reason: str
    detail: str = ""


@dataclass(slots=True, kw_only=True, eq=False, repr=False)
class Done(Reply):
    """It works."""


@dataclass(slots=True, kw_only=True, eq=False, repr=False)
class Answered(Reply):
    """An answer.

    Attributes:
        answer: written down by `answers.written`; None with `too_large` where it has too many parts, or is `lazy`.
        lazy: the type of an answer that only promises to compute.
        right: what the referee says; None without one.
        too_large: whether it has too many parts to be compared.
    """

    answer: Any = None
    lazy: str | None = None
    right: bool | None = None
    too_large: bool = False

    @property
    def comparable(self) -> bool:
        """Whether there is an answer that can be compared."""
        return self.lazy is None and not self.too_large


@dataclass(slots=True, kw_only=True, eq=False, repr=False)
class CallsMade(Reply):
    """The answers to all instances that were taken, written down; `too_large` where one has too many parts."""

    answers: list[Any] = field(default_factory=list)
    too_large: bool = False


@dataclass(slots=True, kw_only=True, eq=False, repr=False)
class Expected(Reply):
    """Instances and the right answers to them, written down."""

    instances: list[Any] = field(default_factory=list)
    answers: list[Any] = field(default_factory=list)


@dataclass(slots=True, kw_only=True, eq=False, repr=False)
class Judged(Reply):
    """Whether an answer is right; where the referee raised, `detail` says what."""

    right: bool = False
    detail: str = ""


@dataclass(slots=True, kw_only=True, eq=False, repr=False)
class TrapsFound(Reply):
    """Traps by kind, each with a detail."""

    traps: dict[str, str] = field(default_factory=dict)


@dataclass(slots=True, kw_only=True, eq=False, repr=False)
class Timed(Reply):
    """One trial, in nanoseconds.

    Attributes:
        calls: how many calls were made.
        elapsed: nanoseconds between the readings of the clock, `overhead` of them its own and the loop's.
        cpu: nanoseconds of processor time; None where they cannot be read.
        pace: what a fixed piece of work took right before and right after.
        during: what it took during a long trial, as it is read now and then; 0 where it was not.
        peak: the most bytes of memory the process ever held; 0 where it was not looked at.
    """

    calls: int
    elapsed: int
    cpu: int | None = None
    overhead: float = 0.0
    pace: tuple[int, int] = (0, 0)
    during: int = 0
    peak: int = 0

    @property
    def call(self) -> float:
        """Nanoseconds of one call, at least a part of one."""
        return max(self.elapsed - self.overhead, 1.0) / self.calls

    @property
    def is_away(self) -> bool:
        """Whether the processor was elsewhere for much of the time: taken by others, or not needed."""
        return self.cpu is not None and self.elapsed >= AWAY_LEAST and self.cpu < (1 - AWAY) * self.elapsed


@dataclass(slots=True, kw_only=True, eq=False, repr=False)
class Calibrated(Timed):
    """The last trial of a calibration, on fresh inputs.

    Attributes:
        changes: whether the input is changed, or that cannot be told.
        printed: characters, in the first call.
        promise: what is returned in place of an answer; see `Timing`.
        instances: how many a trial must take in turn.
        repeated: nanoseconds of a call where one instance is repeated; None where that was not looked at.
        making: nanoseconds that making one instance took.
        inside: nanoseconds inside all trials of the calibration.
    """

    changes: bool = False
    printed: int = 0
    promise: str = ""
    instances: int = 1
    repeated: float | None = None
    making: int = 0
    inside: int = 0


@dataclass(slots=True, kw_only=True, eq=False, repr=False)
class Warmed(Reply):
    """The trials of warming up, one after another, each as calls and nanoseconds; whether they became `steady`."""

    readings: list[tuple[int, int]] = field(default_factory=list)
    steady: bool = True


@dataclass(slots=True, kw_only=True, eq=False, repr=False)
class Counted(Reply):
    """What was counted.

    Attributes:
        values: numbers by metric.
        lines: of the contender's own files: file, line, its text, how often it was run, its steps.
        unseen: why not all that happens to the items is seen; empty where it is.
        unknown: whether for that reason nothing is known of it.
        answer: of the counted call, written down, where lines are counted; None with `too_large`.
    """

    values: dict[str, int] = field(default_factory=dict)
    lines: list[tuple[str, int, str, int, int]] = field(default_factory=list)
    unseen: str = ""
    unknown: bool = False
    answer: Any = None
    too_large: bool = False


@dataclass(slots=True, kw_only=True, eq=False, repr=False)
class HiddenWork(Reply):
    """How often each compiled function was called; for each operation nanoseconds spent, and how often it was met.

    `places` gives the same by file, line and text of the operation.
    """

    calls: dict[str, int] = field(default_factory=dict)
    spent: dict[str, tuple[int, int]] = field(default_factory=dict)
    places: list[tuple[str, int, str, int, int]] = field(default_factory=list)


@dataclass(slots=True, kw_only=True, eq=False, repr=False)
class Walked(Reply):
    """A walk.

    Attributes:
        events: what happened, in order.
        answer: as Python writes it.
        source: the lines of the contender's file that were at work, from line `first` on.
        cut: whether there were more events.
    """

    events: list[Event] = field(default_factory=list)
    answer: str = ""
    source: list[str] = field(default_factory=list)
    first: int = 1
    cut: bool = False


@dataclass(slots=True, kw_only=True, eq=False, repr=False)
class StartUp(Reply):
    """Seconds that a process takes to start; None where it cannot be told."""

    seconds: float | None = None


@dataclass(slots=True, kw_only=True, eq=False, repr=False)
class Searched(Reply):
    """What a search found at one size.

    Attributes:
        typical: the counts on some of the family's own instances.
        worst, best: the instances with the most and the least that was done, written down; None where that cannot be.
        most, least: how much that was; None where nothing could be counted.
        tries: how many instances were tried.
        refused: how many were not allowed, or could not be counted.
        suspects: how much was done on each of the usual suspects.
        shown: the worst instance as Python writes it.
        looks: what it looks like, in words; empty where that cannot be told.
        reason, detail: why nothing could be counted on the family's own instance; empty where it could.
        fails: the instance on which it fails where it does not on typical ones, with the reason; written down.
    """

    typical: list[float] = field(default_factory=list)
    worst: Any = None
    best: Any = None
    most: float | None = None
    least: float | None = None
    tries: int = 0
    refused: int = 0
    suspects: dict[str, float] = field(default_factory=dict)
    shown: str = ""
    looks: str = ""
    reason: str = ""
    detail: str = ""
    fails: Any = None


REPLIES = (
    Ready,
    Began,
    Failure,
    Done,
    Answered,
    CallsMade,
    Expected,
    Judged,
    TrapsFound,
    Timed,
    Calibrated,
    Warmed,
    Counted,
    HiddenWork,
    Walked,
    Searched,
)


def line_of(message: Any) -> bytes:
    """A message as the line that is sent."""
    return json.dumps({"kind": type(message).__name__, **plain_of(message)}).encode() + b"\n"


def request_of(line: bytes) -> Any:
    """The request in a line from the parent, for a worker.

    >>> request_of(line_of(Attempt("calm", 8, 1)))
    Attempt(family='calm', size=8, seed=1)
    """
    given = json.loads(line)
    kind = {each.__name__: each for each in REQUESTS}[given.pop("kind")]
    return kind(**given)


def plain_of(message: Any) -> dict[str, Any]:
    """The fields of a message, and of messages in lists of it; not of other values, which may be long."""
    made = {}
    for each in fields(message):
        value = getattr(message, each.name)
        if isinstance(value, list) and value and isinstance(value[0], Event):
            value = [plain_of(event) for event in value]
        made[each.name] = value
    return made
