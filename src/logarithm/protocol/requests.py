"""What the supervisor asks of a worker."""

from __future__ import annotations

import json
from dataclasses import dataclass, field
from typing import Any

from .message import Message

Number = int | float

NO_SANDBOX = "no sandbox"  # begins what a process says that cannot go into a sandbox
POOL_MOST = 4096  # instances that a trial takes in turn
MAKING_MOST = 200_000_000  # nanoseconds for making a pool, whatever is asked for

PoolKey = tuple[str, Number, int]
"""A family, a size, and the seed of the first instance of a pool."""


def seed_of(pool: int, number: int) -> int:
    """The seed of an instance of a pool; the first one's is the pool's own."""
    return pool + 1_000_000 * number


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

    @property
    def pool(self) -> PoolKey:
        """The pool whose first instance it is."""
        return self.family, self.size, self.seed


@dataclass(slots=True, eq=False, repr=False)
class Answer(Request):
    """Answer the instance, and let the referee judge where there is one."""


@dataclass(slots=True, eq=False, repr=False)
class Attempt(Request):
    """Find out whether the instance works at all."""


@dataclass(slots=True, eq=False, repr=False)
class FindTraps(Request):
    """Look for what makes the contender's timing worthless; `smallest` is its first size."""

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
class TimeDearestStep(Request):
    """Time each step by which an object grows from nothing, and tell of the dearest one."""


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
class FindImports(Message):
    """Say which modules a Python text imports; it is read and not run."""

    text: str


@dataclass(slots=True, eq=False, repr=False)
class Case(Message):
    """What a process that runs handed-in code is told of it, once, before all requests.

    Attributes:
        name: of the contender.
        file: the name of its file, without a folder.
        text: what is in the file, byte by byte.
        function: the one to call; of a class there are `operations`, its methods.
        families: their names.
        room: an empty folder to build the sandbox on; in there the code runs where no sandbox is asked for.
        hidden: the study's folder.
        sandboxed: whether it must run in one.
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
    sandboxed: bool
    limits: dict[str, Any]
    operations: list[str]
    within: float = 0.0
    unordered: bool = False


@dataclass(slots=True, eq=False, repr=False)
class TimeStartUp(Request):
    """Time a start on an empty instance. For programs that are started anew at each call."""


REQUESTS = (
    *(Answer, Attempt, FindTraps, Calibrate, TakeTrial, TimeDearestStep, WarmUp, Count, Walk, Search, AnswerGiven),
    *(Give, Take, CallAll, Expect, Judge, FindImports),
)


def request_of(line: bytes) -> Any:
    """The request in a line from the supervisor, for a worker.

    >>> from logarithm.protocol.message import line_of
    >>> request_of(line_of(Attempt("calm", 8, 1)))
    Attempt(family='calm', size=8, seed=1)
    """
    given = json.loads(line)
    kind = {each.__name__: each for each in REQUESTS}[given.pop("kind")]
    return kind(**given)
