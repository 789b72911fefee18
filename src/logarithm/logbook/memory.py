"""A logbook in memory: records are taken in as they are read or written, and its trials are held as columns."""

from __future__ import annotations

from .. import one_thread as one_thread  # before NumPy is loaded

# isort: split

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import chain, pairwise
from operator import attrgetter
from pathlib import Path
from typing import TYPE_CHECKING, Any, ClassVar, cast

import msgspec
import numpy as np
from numpy.typing import NDArray

from ..errors import LogbookError, StudyError, check_names, there
from ..notation import laws
from ..notation.metrics import BESIDE
from ..notation.places import slice_name
from ..notation.sizes import Number
from ..protocol.scheduling import TOGETHER
from ..study.run_options import Names, names_of
from .records import (
    AnyRecord,
    Assessed,
    Close,
    ContenderRecord,
    Failure,
    FamilyRecord,
    Header,
    HiddenRecord,
    Instance,
    LinesRecord,
    Machine,
    Note,
    Searched,
    StudyRecord,
    Trial,
    Workload,
)

if TYPE_CHECKING:
    import pandas as pd

    from ..results.findings import Findings
    from ..statistics.analysis import Analysis

NANO = 1e-9
NUMBER_MOST = 2**31 - 1  # of heats and processes
WAITING_MOST = 4096  # trials that wait to become columns
Pace = tuple[float, float]
UNREAD = (np.nan, np.nan)
KEPT_KINDS = (Failure, HiddenRecord, LinesRecord, Note, Searched, Instance)
_WHO = [attrgetter(name) for name in ("contender", "family", "stage", "metric")]
_SECOND = attrgetter("second")
_READ = [attrgetter(name) for name in ("size", "heat", "process", "calls", "elapsed", "overhead")]


@dataclass(slots=True)
class Trials:
    """The trials as columns of equal length, in the order of the logbook.

    `series` is an index into `keys`, the (contender, family, stage, metric) of each series. `cost` is seconds for one
    call, without the time that others had the processor, or the value of another metric; `wall` is the time that
    passed, and `queued` that in which a call could have run but others had the processor, NaN where it was not read;
    `cpu` is seconds of processor time for one call, NaN where it was not read. `calls` is how many calls a trial made.
    `pace` is, before and after each trial, the seconds of a fixed piece of work, shape (rows, 2); `during` the same
    during a long one, NaN where it was not read.
    """

    keys: list[tuple[str, str, str | None, str]]
    series: NDArray[np.int32]
    size: NDArray[np.float64]
    heat: NDArray[np.int32]
    process: NDArray[np.int32]
    cost: NDArray[np.float64]
    cpu: NDArray[np.float64]
    pace: NDArray[np.float64]
    calls: NDArray[np.float64]
    during: NDArray[np.float64] | None = None
    wall: NDArray[np.float64] | None = None
    queued: NDArray[np.float64] | None = None

    def __len__(self) -> int:
        return len(self.series)

    def of_series(self, codes: Sequence[int]) -> Trials:
        """Return the trials of some series, by their numbers."""
        rows = np.isin(self.series, codes)
        new = np.full(len(self.keys), -1, dtype=np.int32)
        new[list(codes)] = np.arange(len(codes), dtype=np.int32)
        columns: dict[str, Any] = {
            column: None if (cells := getattr(self, column)) is None else cells[rows]
            for column in ("size", "heat", "process", "cost", "cpu", "pace", "calls", "during", "wall", "queued")
        }
        keys = [self.keys[code] for code in codes]
        return replace(self, keys=keys, series=new[self.series[rows]], **columns)


@dataclass(frozen=True, slots=True)
class Slice:
    """A family of a study of two sizes, at one value of the second."""

    family: str
    second: Number


@dataclass(slots=True)
class Logbook:
    """What a logbook holds.

    Of two sizes, each family at a value of the second is one of the `slices`, by name, rising: trials, counts, failures
    and notes are of these, as if each were a family of its own.
    """

    path: Path
    header: Header
    study: StudyRecord
    machine: Machine
    contenders: list[ContenderRecord]
    families: list[FamilyRecord]
    trials: Trials
    hidden: list[HiddenRecord]
    lines: list[LinesRecord]
    failures: list[Failure]
    notes: list[Note]
    close: Close | None
    warnings: list[str]
    assessed: frozenset[str] = frozenset()
    searched: list[Searched] = field(default_factory=list)
    instances: list[Instance] = field(default_factory=list)
    slices: dict[str, Slice] = field(default_factory=dict)
    workload: Workload | None = None
    _analysis: Analysis | None = field(default=None, init=False, repr=False, compare=False)
    analyst: ClassVar[Callable[[Logbook], Analysis]]
    """The class of analyses; `logarithm.statistics.analysis` sets it, since it is above this room."""

    @property
    def analysis(self) -> Analysis:
        """The analysis of this logbook, made once."""
        if self._analysis is None:
            self._analysis = Logbook.analyst(self)
        return self._analysis

    def findings(self) -> Findings:
        """Return everything that can be concluded from it.

        Raises:
            AnalysisError: if it holds neither a trial nor a failure.
        """
        return self.analysis.findings()

    def at(self, **second: float) -> Logbook:
        """Return the logbook of one value of the second size: `logbook.at(k=64)`.

        Raises:
            LogbookError: if it has one size only, or nothing was measured there.
        """
        size, value = self.place(second)
        if value is None or size is not None:
            raise LogbookError(f"{self.path}: name a value of the second size, such as at(k=64)")
        return self.at_second(value)

    def part(self, only: Names = None, family: Names = None) -> Logbook:
        """Return the logbook of some contenders and families, of all if none is named.

        Raises:
            LogarithmError: if one is not there.
        """
        contenders, families = names_of(only), names_of(family)
        self.check_names(contenders, families)
        return self._part(contenders, families)

    def to_frame(self, wide: bool = False, calibration: bool = True) -> pd.DataFrame:
        """Return the trials as a table, one row for each trial; times are seconds for one call.

        Args:
            wide: one row for each size and round, and one column for each contender, for a spreadsheet.
            calibration: also the trials of calibration, whose heat is 0; a wide table has none.
        """
        import pandas as pd

        trials = self.trials
        keys = pd.DataFrame(trials.keys, columns=["contender", "family", "stage", "metric"])
        frame = keys.iloc[trials.series].reset_index(drop=True)
        sizes = trials.size.astype(int) if (trials.size == trials.size.astype(int)).all() else trials.size
        if self.slices:
            # As the study has it: the family and the second size of a slice.
            whole = {name: each.family for name, each in self.slices.items()}
            second = {name: each.second for name, each in self.slices.items()}
            frame = frame.assign(
                second=frame["family"].map(second), family=frame["family"].map(lambda each: whole.get(each, each))
            )
        frame = frame.assign(size=sizes, heat=trials.heat, process=trials.process, value=trials.cost)
        if wide:
            frame = frame[~frame["metric"].isin(BESIDE)]
        if (wide or not calibration) and (frame["heat"] > 0).any():
            frame = frame[frame["heat"] > 0]
        if not wide:
            return frame
        several = {"family": len(self.families) > 1, "second": True}
        there_is = [key for key in ("second", "family", "stage", "metric") if key in frame.columns]
        names = [key for key in there_is if several.get(key) or frame[key].nunique(dropna=False) > 1]
        frame = frame.assign(stage=frame["stage"].fillna("")).pivot_table(
            index=["size", *names, "heat"], columns="contender", values="value", sort=False
        )
        present = [each.name for each in self.contenders if each.name in frame.columns]
        return frame[present].sort_index().reset_index()

    def __str__(self) -> str:
        return str(self.findings())

    def __repr__(self) -> str:
        return f"<Logbook {self.path}: {len(self.trials)} trials>"

    def _repr_html_(self) -> str:
        return self.findings()._repr_html_()

    def check_names(self, contenders: Sequence[str] = (), families: Sequence[str] = ()) -> None:
        """Raise a LogarithmError for a contender or family that it does not have."""
        check_names(self.path, "contender", contenders, [each.name for each in self.contenders])
        check_names(self.path, "family", families, [each.name for each in self.families])

    def place(self, at: Mapping[str, float]) -> tuple[float | None, float | None]:
        """Return the first and the second size of a place, each None if it is not named; the first needs no name.

        Raises:
            LogbookError: if it names a size that the logbook does not have.
        """
        names = self.study.names or ["n"]
        for name in at:
            if name and name not in names:
                raise LogbookError(f"{self.path} has no size '{name}': {there(names)}")
        second = at.get(names[1]) if len(names) == 2 else None
        return at.get("", at.get(names[0])), second

    def at_second(self, value: float) -> Logbook:
        """Return the logbook of one size that a logbook of two holds at one value of the second.

        Raises:
            LogbookError: if it has one size, or was not measured there.
        """
        slices = self.slices
        if not slices:
            raise LogbookError(f"{self.path} has one size only: leave the second one out")
        name = self.study.names[1]
        taken = {called: each for called, each in slices.items() if each.second == value}
        if not taken:
            there = ", ".join(f"{each:g}" for each in sorted({each.second for each in slices.values()}))
            raise LogbookError(f"{self.path} was not measured at {name} = {value:g}: there are {name} = {there}")
        names = {called: each.family for called, each in taken.items()}
        trials = self.trials
        codes = [code for code, key in enumerate(trials.keys) if key[1] in names]
        kept = trials.of_series(codes)
        keys = [(key[0], names[key[1]], *key[2:]) for key in kept.keys]

        def own(records: list[Any]) -> list[Any]:
            """The records of these slices, and those that are of no family."""
            made = []
            for record in records:
                if record.family is None or record.family in names:
                    whole = None if record.family is None else names[record.family]
                    made.append(msgspec.structs.replace(record, family=whole, second=None))
            return made

        return replace(
            self,
            study=msgspec.structs.replace(self.study, names=[], seconds=[]),
            trials=replace(kept, keys=keys),
            contenders=[in_one(record, (self.study.names[0], name)) for record in self.contenders],
            slices={},
            workload=None,
            hidden=own(self.hidden),
            lines=own(self.lines),
            failures=own(self.failures),
            notes=own(self.notes),
        )

    def _part(self, contenders: Sequence[str], families: Sequence[str]) -> Logbook:

        def is_asked(contender: str | None, family: str | None) -> bool:
            whole = self.slices[family].family if family in self.slices else family
            return (not contenders or contender is None or contender in contenders) and (
                not families or whole is None or whole in families
            )

        if not contenders and not families:
            return self
        codes = [code for code, key in enumerate(self.trials.keys) if is_asked(key[0], key[1])]
        records: dict[str, Any] = {
            name: [each for each in getattr(self, name) if is_asked(each.contender, each.family)]
            for name in ("hidden", "lines", "failures", "notes")
        }
        return replace(
            self,
            trials=self.trials.of_series(codes),
            contenders=[each for each in self.contenders if not contenders or each.name in contenders],
            families=[each for each in self.families if not families or each.name in families],
            slices={name: each for name, each in self.slices.items() if not families or each.family in families},
            **records,
        )


class _Codes(dict[tuple[str, str, str | None, str], int]):
    """A number for each series, given where it is first asked for."""

    def __missing__(self, key: tuple[str, str, str | None, str]) -> int:
        self[key] = len(self)
        return self[key]


@dataclass(slots=True)
class _Slices:
    """The slices that were met, by name; `second` is the name of the second size, empty where there is one size."""

    second: str = ""
    found: dict[str, Slice] = field(default_factory=dict)
    names: dict[tuple[str, Number], str] = field(default_factory=dict)

    def name(self, family: str, second: Number | None) -> str:
        """What a family is called at a value of the second size."""
        if second is None or not self.second:
            return family
        known = self.names.get((family, second))
        if known is None:
            known = self.names[family, second] = slice_name(family, self.second, second)
            self.found[known] = Slice(family, second)
        return known

    def sliced(self, record: AnyRecord) -> AnyRecord:
        """A record as memory holds it: that of a slice names the slice."""
        second = getattr(record, "second", None)
        if second is None or not self.second:
            return record
        name = self.name(record.family, second)  # type: ignore[union-attr, arg-type]
        return msgspec.structs.replace(record, family=name)

    def rising(self, families: Iterable[str]) -> dict[str, Slice]:
        """All slices, family by family."""
        order = {family: at for at, family in enumerate(families)}
        rows = sorted(self.found.items(), key=lambda each: (order.get(each[1].family, 0), each[1].second))
        return dict(rows)


@dataclass(slots=True)
class _Columns:
    codes: _Codes = field(default_factory=_Codes)
    parts: list[tuple[NDArray[np.generic], ...]] = field(default_factory=list)
    rows: int = 0
    earlier: list[tuple[int, int, str]] = field(default_factory=list)
    slices: _Slices = field(default_factory=lambda: _Slices())

    def set_aside(self, which: int, name: str) -> None:
        """Leave out the trials so far of a contender (0) or family (1): they are of an earlier version of its code."""
        self.earlier.append((self.rows, which, name))

    def add(self, trials: list[Trial]) -> None:
        # Attribute by attribute over all trials, without a step of the interpreter for each: there may be a million.
        if not trials:
            return
        many = len(trials)
        self.rows += many
        who, family, stage, metric = ([*map(named, trials)] for named in _WHO)
        if self.slices.second:
            family = [self.slices.name(*each) for each in zip(family, map(_SECOND, trials), strict=True)]
        series = np.fromiter(map(self.codes.__getitem__, zip(who, family, stage, metric, strict=True)), np.int32, many)
        size, heat, process, calls, elapsed, overhead = (np.fromiter(map(read, trials), float, many) for read in _READ)
        busy = _optional([trial.cpu for trial in trials])
        queued = _optional([trial.queued for trial in trials])
        with np.errstate(divide="ignore", invalid="ignore"):
            wall = np.where(calls > 0, (elapsed - overhead) * NANO / calls, np.nan)
            cost = np.where(calls > 0, (_own(elapsed, busy, queued) - overhead) * NANO / calls, np.nan)
            busy = np.where(calls > 0, np.maximum(busy - overhead, 0) * NANO / calls, np.nan)
            queued = np.where(calls > 0, queued * NANO / calls, np.nan)
        if metric.count("time") < many:
            given = _optional([trial.value for trial in trials])
            cost = np.where(np.isnan(given), cost, given)
        paces = [trial.pace for trial in trials]
        both = chain.from_iterable([pace or UNREAD for pace in paces] if None in paces else cast(list[Pace], paces))
        pace = np.fromiter(both, np.float64, 2 * many).reshape(-1, 2) * NANO
        during = _optional([trial.during for trial in trials]) * NANO
        whole = tuple(np.clip(each, 0, NUMBER_MOST).astype(np.int32) for each in (heat, process))
        self.parts.append((series, size, *whole, cost, busy, pace, calls, during, wall, queued))

    def trials(self) -> Trials:
        if not self.parts:
            none = np.empty(0)
            whole = np.empty(0, np.int32)
            return Trials([], whole, none, whole, whole, none, none, np.empty((0, 2)), none)
        columns = [np.concatenate(column) for column in zip(*self.parts, strict=True)]
        if self.earlier:
            columns = self._without_earlier(columns)
        return Trials(list(self.codes), *columns)

    def _without_earlier(self, columns: list[NDArray[np.generic]]) -> list[NDArray[np.generic]]:
        series, kept = columns[0], np.ones(self.rows, dtype=bool)
        for rows, which, name in self.earlier:
            own = np.array([_whole(key[which], self.slices.found) == name for key in self.codes], dtype=bool)
            kept[:rows] &= ~own[series[:rows].astype(np.intp)]
        return [column[kept] for column in columns]


def _whole(family: str | None, slices: Mapping[str, Slice]) -> str | None:
    """The family that a slice is of; any other name as it is."""
    return slices[family].family if family is not None and family in slices else family


def _own(wall: NDArray[np.float64], ran: NDArray[np.float64], queued: NDArray[np.float64]) -> NDArray[np.float64]:
    """`protocol.scheduling.own_time` of many trials, shape (rows,); wall time where the queue was not read."""
    together = ran > TOGETHER * wall
    own = np.minimum(wall, np.maximum(ran, wall - queued))
    return np.where(np.isnan(ran) | np.isnan(queued) | together, wall, own)


def _optional(column: list[float | None]) -> NDArray[np.float64]:
    """A column in which cells may be missing."""
    if column.count(None) == len(column):
        return np.full(len(column), np.nan)
    return np.array(column, np.float64) if None in column else np.fromiter(column, np.float64, len(column))


class LogbookBuilder:
    """Takes in records in the order of the logbook, and gives the logbook that they make so far.

    Args:
        path: what the logbook is called.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self.warnings: list[str] = []
        self.columns = _Columns()
        self.waiting: list[Trial] = []
        self.known: dict[tuple[int, str], str] = {}
        self.single: dict[type, AnyRecord] = {}
        self.contenders: dict[str, ContenderRecord] = {}
        self.families: dict[str, FamilyRecord] = {}
        self.told: dict[type, list[AnyRecord]] = {kind: [] for kind in KEPT_KINDS}
        self.assessed: set[str] = set()
        self.workload: Workload | None = None

    def add(self, records: Sequence[AnyRecord]) -> None:
        """Take in some more records."""
        for part in parts(records):
            if (changed := changes(part[0], self.known)) is not None:
                self._settle()
                self.columns.set_aside(*changed)
                which, name = changed
                slices = self.columns.slices.found
                for kind in (Failure, HiddenRecord, LinesRecord, Note):
                    kept = [
                        each
                        for each in self.told[kind]
                        if (each.contender, _whole(each.family, slices))[which] != name  # type: ignore[union-attr]
                    ]
                    self.told[kind] = kept
            trials = [record for record in part if type(record) is Trial]
            self.waiting += trials
            if len(self.waiting) > WAITING_MOST:
                self._settle()
            if len(trials) < len(part):
                for record in part:
                    self._take(record)

    def _take(self, record: AnyRecord) -> None:
        """Take in a record that is no trial; one of a contender, family or run replaces what was known of it."""
        if isinstance(record, ContenderRecord):
            self.contenders[record.name] = record
        elif isinstance(record, FamilyRecord):
            self.families[record.name] = record
        elif isinstance(record, Workload):
            self.workload = record
        elif isinstance(record, Assessed):
            self.assessed.add(record.contender)
        elif isinstance(record, KEPT_KINDS):
            self.told[type(record)].append(self.columns.slices.sliced(record))
        elif not isinstance(record, Trial):
            if isinstance(record, StudyRecord) and len(record.names) == 2:
                self._settle()
                self.columns.slices.second = record.names[1]
            self.single[type(record)] = record

    def _settle(self) -> None:
        self.columns.add(self.waiting)
        self.waiting = []

    def logbook(self) -> Logbook:
        """What the records make so far."""
        self._settle()
        trials = self.columns.trials()
        contenders, families = dict(self.contenders), dict(self.families)
        slices = self.columns.slices.rising(families)
        for contender, family, _, _ in trials.keys:
            contenders.setdefault(contender, ContenderRecord(name=contender))
            whole = slices[family].family if family in slices else family
            families.setdefault(whole, FamilyRecord(name=whole))
        header, study, machine, close = (self.single.get(kind) for kind in (Header, StudyRecord, Machine, Close))
        told: dict[type, list[Any]] = {kind: [*rows] for kind, rows in self.told.items()}
        return Logbook(
            path=self.path,
            header=header if isinstance(header, Header) else Header(),
            study=study if isinstance(study, StudyRecord) else StudyRecord(name=self.path.stem),
            machine=machine if isinstance(machine, Machine) else Machine(),
            contenders=list(contenders.values()),
            families=list(families.values()),
            trials=trials,
            hidden=told[HiddenRecord],
            lines=told[LinesRecord],
            failures=told[Failure],
            notes=told[Note],
            close=close if isinstance(close, Close) else None,
            warnings=[*self.warnings],
            assessed=frozenset(self.assessed),
            searched=told[Searched],
            workload=self.workload,
            instances=told[Instance],
            slices=slices,
        )


def parts(records: Sequence[AnyRecord]) -> Iterator[Sequence[AnyRecord]]:
    """The records cut before each contender and family, so that what came before these is known."""
    # Most chunks hold trials alone: asked for the types at once, a million of them cost next to nothing.
    if not {ContenderRecord, FamilyRecord} & set(map(type, records)):
        if records:
            yield records
        return
    cuts = [at for at, record in enumerate(records) if isinstance(record, ContenderRecord | FamilyRecord)]
    for begin, end in pairwise([0, *cuts, len(records)]):
        if begin < end:
            yield records[begin:end]


def changes(record: AnyRecord, known: dict[tuple[int, str], str]) -> tuple[int, str] | None:
    """A contender (0) or family (1) of which this record begins another version; None where it does not."""
    if not isinstance(record, ContenderRecord | FamilyRecord) or not record.code:
        return None
    which = int(isinstance(record, FamilyRecord)), record.name
    before, known[which] = known.get(which, record.code), record.code
    return which if before != record.code else None


def in_one(record: ContenderRecord, names: laws.Names) -> ContenderRecord:
    """A contender whose claims in both sizes are what they say of the first alone."""
    made = []
    for claim in record.claims:
        try:
            law = laws.parse(claim.order, names)
        except StudyError:
            made.append(claim)
        else:
            order = max((term.first for term in law.terms), key=lambda order: order.rank)
            made.append(msgspec.structs.replace(claim, order=str(order)))
    return msgspec.structs.replace(record, claims=made)
