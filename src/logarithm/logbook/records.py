"""The kinds of record that a logbook holds. docs/formats.md describes each for readers in other languages.

A record keeps what was read and not only what was concluded. Keys may be added in later versions, and a reader
passes over those that it does not know.
"""

from __future__ import annotations

from typing import Any

import msgspec

from ..notation.places import Keyed, Timed
from ..notation.sizes import Number

FORMAT = "logarithm-logbook"
VERSION = 2


class Record(msgspec.Struct, tag_field="kind", omit_defaults=True, kw_only=True):
    """One line of a logbook."""


class Header(Record, tag="logbook", omit_defaults=False):
    """The first record: which format this is, and which program wrote it."""

    format: str = FORMAT
    version: int = VERSION
    software: str = ""
    created: str = ""

    def __post_init__(self) -> None:
        """Refuse other formats early."""
        if self.format != FORMAT:
            raise ValueError(f"format is '{self.format}', not '{FORMAT}'")


class Machine(Record, tag="machine"):
    """Where it was measured; `caches` are the bytes of those of one processor, the smallest first."""

    system: str = ""
    processor: str = ""
    cores: int = 0
    memory: int = 0
    python: str = ""
    clock_step: float | None = None
    clock_cost: float | None = None
    load: float | None = None
    caches: list[int] = []


WITHOUT_SIZE = "comparison"
"""The axis of a table that has no sizes: all stands at one place of it."""


class StudyRecord(Record, tag="study"):
    """What was asked, with the settings of this run; spans of time in seconds. `source` is the text of the file.

    `known` names all contenders of the file, those that do not take part included. A later record replaces this one.
    Of two sizes, `names` are theirs and `seconds` the values of the second; `is_second_size` is false where that is
    another number, with which costs need not grow. `commit` and `branch` are those that the project stood at, with
    changes that are not committed where it was `changed`. `versions` are contenders that were made one from another,
    `mixes` say how often operations are called beside each other.
    """

    name: str
    question: str = ""
    file: str = ""
    sha256: str = ""
    source: str = ""
    axis: str = "size"
    sizes: list[Number] | None = None
    names: list[str] = []
    seconds: list[Number] = []
    is_second_size: bool = True
    commit: str = ""
    branch: str = ""
    changed: bool = False
    budget: float | None = None
    ceiling: float | None = None
    seed: int = 0
    metrics: list[str] = []
    known: list[str] = []
    versions: list[str] = []
    mixes: dict[str, dict[str, float]] = {}


class ClaimRecord(msgspec.Struct, omit_defaults=True):
    """An order that the author expects; `where` is a family or a stage, or None."""

    order: str
    where: str | None = None


class ContenderRecord(Record, tag="contender"):
    """One contender. A program has its `command`, how it was built, and the versions of the tools it needs.

    From size `fails_from` on it is expected to fail. `startup` is the seconds that its process takes to start.
    `code` is a fingerprint of what its code says. A later record of the same name replaces this one; where its
    `code` is another, all before it is of an earlier version. One with `levels` is a variant of `base`. What was handed
    in is asked for as `function`, of a `person` or group, and says how `late` it came.
    """

    name: str
    baseline: bool = False
    yardstick: bool = False
    claims: list[ClaimRecord] = []
    stages: list[str] = []
    levels: dict[str, Any] = {}
    base: str = ""
    doc: str = ""
    command: list[str] = []
    build: list[str] = []
    tools: dict[str, str] = {}
    startup: float | None = None
    handed_in: bool = False
    fails_from: Number | None = None
    of: str = ""
    revision: str = ""
    commit: str = ""
    beside: str = ""
    require: str | None = None
    function: str = ""
    late: str = ""
    person: str = ""
    code: str = ""


class FamilyRecord(Record, tag="family"):
    """One family of instances; `code` as in a contender.

    Of a search, `role` is typical, best or worst, and `of` the family that was searched.
    """

    name: str
    doc: str = ""
    code: str = ""
    role: str = ""
    of: str = ""


class Trial(Record, tag="trial", gc=False):
    """One observation. For time: nanoseconds between two readings for `calls` calls, `overhead` of them the loop's.

    `cpu` is the processor's time for them, `queued` the time in which they could have run but others had the
    processor, and `pace` what a fixed piece of work took right before and right after.
    `during` is what that took during a long trial, on the whole.
    The trial took `instances` in turn, from the one with this `seed` on, with a copy for each call where it `copies`,
    and waited for a `promise` (a future, an iterator …) where one is returned. It was `at` so many seconds into the
    run. Metrics other than times give `value`, for one call; those that stand beside time and are never ranked are
    marked so in `notation.metrics`. Heat 0 is the calibration that found out how many calls a trial needs.
    """

    contender: str
    family: str
    size: Number
    heat: int
    process: int = 1
    seed: int = 1
    stage: str | None = None
    metric: str = "time"
    calls: int = 1
    elapsed: float = 0
    overhead: float = 0
    cpu: float | None = None
    queued: float | None = None
    pace: tuple[float, float] | None = None
    during: float | None = None
    copies: bool = False
    instances: int = 1
    promise: str = ""
    at: float | None = None
    value: float | None = None
    second: Number | None = None


class Failure(Record, tag="failure"):
    """A design point at which a contender failed; `works` is the largest size known to work."""

    contender: str
    family: str
    size: Number
    reason: str
    detail: str = ""
    stage: str | None = None
    process: int = 1
    works: Number | None = None
    second: Number | None = None


class HiddenRecord(Record, Timed, tag="hidden"):
    """Work of one call that its steps do not show: how often each compiled function was called (`calls`).

    `spent` is, for each operation, nanoseconds until the next step, counting slowed down, and how often it was met;
    `places` the same by file, line and text.
    """

    contender: str
    family: str
    size: Number
    stage: str | None = None
    calls: dict[str, int] = {}
    spent: dict[str, tuple[int, int]] = {}
    places: list[tuple[str, int, str, int, int]] = []
    second: Number | None = None


class LinesRecord(Record, Timed, tag="lines"):
    """Where the steps of one call are: for each line, its file, number and text, how often it was run, its steps.

    `operations` are what is done inside steps: file, line, text, the kind of work, and how much of it.
    """

    contender: str
    family: str
    size: Number
    stage: str | None = None
    lines: list[tuple[str, int, str, int, int]] = []
    operations: list[tuple[str, int, str, str, int]] = []
    second: Number | None = None


REMEMBERS, UNFINISHED = "remembers", "unfinished"
FALSE_TIMES = (REMEMBERS, UNFINISHED)
"""The causes of notes that tell of a contender whose time is not that of its work."""


class Note(Record, tag="note"):
    """Something worth telling: sizes that ended early, a trap, a disagreement that was overridden.

    `topic` says what it is about, and `cause` why it is so, in a word that programs can tell from others; the text is
    for people alone.
    """

    topic: str
    text: str
    contender: str | None = None
    family: str | None = None
    size: Number | None = None
    cause: str = ""
    second: Number | None = None


class Workload(Record, tag="workload"):
    """The calls that a run was told of: how many of each size, and on which family; from the file `source`.

    Of two sizes, `seconds` are the second ones.
    """

    source: str
    sizes: list[float]
    counts: list[float]
    families: list[str | None]
    seconds: list[float] = []


class Assessed(Record, tag="assessed"):
    """A submission that was looked at from beginning to end; an assessment that goes on passes over it."""

    contender: str


class Searched(Record, Keyed, tag="searched"):
    """What a search for the worst case of one contender on one family came to.

    Attributes:
        contender, family, stage: who, on what.
        metric: what was counted.
        tries, refused: how many instances were tried, and how many of these were not allowed.
        size: the largest that was searched.
        typical, most: what was done there, typically and at most.
        suspects: the usual suspects that do about as much, largest first.
        looks, shown: what the worst instance looks like, and as Python writes it, at the smallest size that shows it.
        smallest: that size; None where no size does.
        fails: the reason for which it fails on an instance that was found.
        why: why the search ended early.
    """

    contender: str
    family: str
    metric: str
    stage: str | None = None
    tries: int = 0
    refused: int = 0
    size: int = 0
    typical: float = 0.0
    most: float = 0.0
    suspects: list[str] = []
    looks: str = ""
    shown: str = ""
    smallest: int | None = None
    fails: str = ""
    why: str = ""


class Instance(Record, tag="instance"):
    """An instance that a search found, written down by `notation.encoding`; `sort` is worst or best."""

    contender: str
    family: str
    sort: str
    metric: str
    size: int
    stage: str | None = None
    count: float | None = None
    looks: str = ""
    instance: Any = None


class Close(Record, tag="close"):
    """The end of a run: `reason` is finished, interrupted, disagreement or failed; `inside`, seconds in timed calls.

    `phases` are the seconds of each phase: starting processes, rehearsing, first look, making inputs, trials …
    `settled` is whether more trials would change no verdict, None where nobody asked; `unsettled` names what is open.
    `untold` names what cannot be told within reach, however long it is measured, and `orders_untold` the same of orders
    that cannot be told apart. `stolen` is the share of the processors' time that the host of a virtual machine took for
    others, None where the system does not tell.
    """

    reason: str
    elapsed: float
    heats: int
    processes: int
    inside: float = 0
    phases: dict[str, float] = {}
    load: float | None = None
    settled: bool | None = None
    unsettled: list[str] = []
    untold: list[str] = []
    orders_untold: list[str] = []
    stolen: float | None = None


AnyRecord = (
    Header
    | Machine
    | StudyRecord
    | ContenderRecord
    | FamilyRecord
    | Trial
    | HiddenRecord
    | LinesRecord
    | Failure
    | Note
    | Workload
    | Assessed
    | Searched
    | Instance
    | Close
)
