"""What a worker replies. The supervisor trusts nobody, and reads replies in `supervisor.validate`."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from ..counting.walk.event import Event
from .message import Message
from .scheduling import own_time

Number = int | float

AWAY_SHARE = 0.1  # others had the processor for so much of a measurement
AWAY_LEAST_NS = 2_000_000  # of a measurement of so many nanoseconds at least


@dataclass(slots=True, kw_only=True, eq=False, repr=False)
class Reply(Message):
    """The end of a request. `threads` there are now in the process; `helped`: others, or processes, worked too."""

    threads: int = 1
    helped: bool = False


@dataclass(slots=True, kw_only=True, eq=False, repr=False)
class Ready(Reply):
    """The study is loaded; `python` is the version that runs it."""

    python: str = ""


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
class ImportsFound(Reply):
    """The modules that a text imports, each with its line."""

    imports: list[tuple[str, int]] = field(default_factory=list)


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
        queued: nanoseconds in which it could have run, but others had the processor; None where they cannot be read.
        pace: what a fixed piece of work took right before and right after.
        during: what it took during a long trial, as it is read now and then; 0 where it was not.
        peak: the most bytes of memory the process ever held; 0 where it was not looked at.
        made: nanoseconds that making instances took for it, which are in none of these.
    """

    calls: int
    elapsed: int
    cpu: int | None = None
    queued: int | None = None
    overhead: float = 0.0
    pace: tuple[int, int] = (0, 0)
    during: int = 0
    peak: int = 0
    made: int = 0

    @property
    def call(self) -> float:
        """Nanoseconds of one call, others' time left out; at least a part of one."""
        return max(self.own - self.overhead, 1.0) / self.calls

    @property
    def own(self) -> float:
        """Nanoseconds that were the contender's own; see `protocol.scheduling`."""
        return own_time(self.elapsed, self.cpu, self.queued)

    @property
    def is_away(self) -> bool:
        """Whether it did not need the processor for much of the time, or, where no queue is read, did not have it."""
        return self.cpu is not None and self.own >= AWAY_LEAST_NS and self.cpu < (1 - AWAY_SHARE) * self.own


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
        traps: those that show at this size, by kind, each with a detail.
        answered: the answer of the first call, where it is small.
    """

    changes: bool = False
    printed: int = 0
    promise: str = ""
    instances: int = 1
    repeated: float | None = None
    making: int = 0
    inside: int = 0
    traps: dict[str, str] = field(default_factory=dict)
    answered: Answered | None = None

    @classmethod
    def of(cls, timed: Timed, **found: Any) -> Calibrated:
        """What a last trial and the `found` fields beside it come to."""
        names = "calls", "elapsed", "cpu", "queued", "overhead", "pace"
        return cls(**{name: getattr(timed, name) for name in names}, **found)


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
        operations: known ones in these files: file, line, text, the kind of work that is done in it, and how much.
        uncounted: names of operations of which it is not known what they do.
        unseen: why not all that happens to the items is seen; empty where it is.
        unknown: whether for that reason nothing is known of it.
        answer: of the counted call, written down, where lines are counted; None with `too_large`.
    """

    values: dict[str, int | float] = field(default_factory=dict)
    lines: list[tuple[str, int, str, int, int]] = field(default_factory=list)
    operations: list[tuple[str, int, str, str, int]] = field(default_factory=list)
    uncounted: list[str] = field(default_factory=list)
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
        failure: in words, where there was no answer.
        source: the lines of the contender's file that were at work, from line `first` on.
        cut: whether there were more events.
    """

    events: list[Event] = field(default_factory=list)
    answer: str = ""
    failure: str = ""
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
    ImportsFound,
    TrapsFound,
    Timed,
    Calibrated,
    Warmed,
    Counted,
    HiddenWork,
    Walked,
    Searched,
)
