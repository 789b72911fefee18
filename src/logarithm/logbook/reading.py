"""Reading a logbook: its records, with the trials as columns. Reading one runs no code."""

from __future__ import annotations

import gc
import io
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from itertools import chain, pairwise
from operator import attrgetter
from pathlib import Path
from typing import BinaryIO, TypeVar, cast

import msgspec
import numpy as np
from numpy.typing import NDArray

from ..errors import LogbookError
from .cleaning import cleaned, may_harm
from .records import (
    FORMAT,
    VERSION,
    AnyRecord,
    Close,
    ContenderRecord,
    Failure,
    FamilyRecord,
    Header,
    HiddenRecord,
    LinesRecord,
    Machine,
    Note,
    StudyRecord,
    Trial,
)

_Told = TypeVar("_Told", Failure, HiddenRecord, LinesRecord, Note)
CHUNK = 8 * 2**20
NANO = 1e-9
NUMBER_MOST = 2**31 - 1  # of heats and lives
Pace = tuple[float, float]
UNREAD = (np.nan, np.nan)

_WHO = [attrgetter(name) for name in ("contender", "family", "stage", "metric")]
_READ = [attrgetter(name) for name in ("size", "heat", "life", "calls", "elapsed", "overhead")]
_ANY = msgspec.json.Decoder(AnyRecord)
_KIND = msgspec.json.Decoder(dict)


@dataclass(slots=True)
class Trials:
    """The trials as columns of equal length, in the order of the logbook.

    `series` is an index into `keys`, the (contender, family, stage, metric) of each series. `cost` is seconds
    for one call, or the value of another metric; `cpu` is seconds of processor time for one call, NaN where
    it was not read. `calls` is how many calls a trial made. `pace` is, before and after each trial, the seconds of a
    fixed piece of work, shape (rows, 2); `during` the same during a long one, NaN where it was not read.
    """

    keys: list[tuple[str, str, str | None, str]]
    series: NDArray[np.int32]
    size: NDArray[np.float64]
    heat: NDArray[np.int32]
    life: NDArray[np.int32]
    cost: NDArray[np.float64]
    cpu: NDArray[np.float64]
    pace: NDArray[np.float64]
    calls: NDArray[np.float64]
    during: NDArray[np.float64] | None = None

    def __len__(self) -> int:
        return len(self.series)


@dataclass(slots=True)
class Logbook:
    """What a logbook holds."""

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


class _Codes(dict[tuple[str, str, str | None, str], int]):
    """A number for each series, given where it is first asked for."""

    def __missing__(self, key: tuple[str, str, str | None, str]) -> int:
        self[key] = len(self)
        return self[key]


@dataclass(slots=True)
class _Columns:
    codes: _Codes = field(default_factory=_Codes)
    parts: list[tuple[NDArray[np.generic], ...]] = field(default_factory=list)
    rows: int = 0
    earlier: list[tuple[int, int, str]] = field(default_factory=list)

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
        series = np.fromiter(map(self.codes.__getitem__, zip(who, family, stage, metric, strict=True)), np.int32, many)
        size, heat, life, calls, elapsed, overhead = (np.fromiter(map(read, trials), float, many) for read in _READ)
        busy = _optional([trial.cpu for trial in trials])
        with np.errstate(divide="ignore", invalid="ignore"):
            cost = np.where(calls > 0, (elapsed - overhead) * NANO / calls, np.nan)
            busy = np.where(calls > 0, busy * NANO / calls, np.nan)
        if metric.count("time") < many:
            given = _optional([trial.value for trial in trials])
            cost = np.where(np.isnan(given), cost, given)
        paces = [trial.pace for trial in trials]
        both = chain.from_iterable([pace or UNREAD for pace in paces] if None in paces else cast(list[Pace], paces))
        pace = np.fromiter(both, np.float64, 2 * many).reshape(-1, 2) * NANO
        during = _optional([trial.during for trial in trials]) * NANO
        whole = tuple(np.clip(each, 0, NUMBER_MOST).astype(np.int32) for each in (heat, life))
        self.parts.append((series, size, *whole, cost, busy, pace, calls, during))

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
            own = np.array([key[which] == name for key in self.codes], dtype=bool)
            kept[:rows] &= ~own[series[:rows].astype(np.intp)]
        return [column[kept] for column in columns]


def _optional(column: list[float | None]) -> NDArray[np.float64]:
    """A column in which cells may be missing."""
    if column.count(None) == len(column):
        return np.full(len(column), np.nan)
    return np.array(column, np.float64) if None in column else np.fromiter(column, np.float64, len(column))


def read_logbook(path: str | Path) -> Logbook:
    """Read a logbook. A last line that was torn off is dropped, with a warning, as is any line that is damaged.

    Raises:
        LogbookError: where there is no such file, or it is no logbook of a version that is known.

    """
    file = Path(path)
    try:
        with file.open("rb") as stream, _without_collection():
            return _read(file, stream)
    except FileNotFoundError:
        raise LogbookError(f"{path}: there is no such logbook") from None
    except IsADirectoryError:
        raise LogbookError(f"{path} is a folder: name a logbook in it") from None
    except OSError as error:
        raise LogbookError(f"{path} cannot be read: {error.strerror or error}") from None


def logbook_of(path: str | Path, lines: bytes) -> Logbook:
    """The logbook in some lines, which need not stand in a file; `path` is what it is called."""
    with _without_collection():
        return _read(Path(path), io.BytesIO(lines))


def read_trials(path: Path) -> list[Trial]:
    """The trials of a logbook one by one, with all that was read."""
    with path.open("rb") as stream, _without_collection():
        found: list[Trial] = []
        known: dict[tuple[int, str], str] = {}
        for records in _chunks(path, stream, []):
            for part in _parts(records):
                if (changed := _changed(part[0], known)) is not None:
                    found = [each for each in found if (each.contender, each.family)[changed[0]] != changed[1]]
                found += [record for record in part if type(record) is Trial]
        return found


def _parts(records: list[AnyRecord]) -> Iterator[list[AnyRecord]]:
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


def _changed(record: AnyRecord, known: dict[tuple[int, str], str]) -> tuple[int, str] | None:
    """A contender (0) or family (1) of which this record begins another version; None where it does not."""
    if not isinstance(record, ContenderRecord | FamilyRecord) or not record.code:
        return None
    which = int(isinstance(record, FamilyRecord)), record.name
    before, known[which] = known.get(which, record.code), record.code
    return which if before != record.code else None


@contextmanager
def _without_collection() -> Iterator[None]:
    """Keep the garbage collector from looking through a million records that are no garbage."""
    was_on = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was_on:
            gc.enable()


def _read(path: Path, stream: BinaryIO) -> Logbook:
    columns = _Columns()
    single: dict[type, AnyRecord] = {}
    contenders: dict[str, ContenderRecord] = {}
    families: dict[str, FamilyRecord] = {}
    hidden: list[HiddenRecord] = []
    by_line: list[LinesRecord] = []
    failures: list[Failure] = []
    notes: list[Note] = []
    warnings: list[str] = []
    known: dict[tuple[int, str], str] = {}
    for record_part in (part for records in _chunks(path, stream, warnings) for part in _parts(records)):
        if (changed := _changed(record_part[0], known)) is not None:
            columns.set_aside(*changed)
            failures = _without(failures, changed)
            hidden, by_line, notes = _without(hidden, changed), _without(by_line, changed), _without(notes, changed)
        trials = [record for record in record_part if type(record) is Trial]
        columns.add(trials)
        if len(trials) == len(record_part):
            continue
        for record in record_part:
            if isinstance(record, ContenderRecord):
                contenders[record.name] = record
            elif isinstance(record, FamilyRecord):
                families[record.name] = record
            elif isinstance(record, Failure):
                failures.append(record)
            elif isinstance(record, HiddenRecord):
                hidden.append(record)
            elif isinstance(record, LinesRecord):
                by_line.append(record)
            elif isinstance(record, Note):
                notes.append(record)
            elif not isinstance(record, Trial):
                single[type(record)] = record
    header, study, machine, close = (single.get(kind) for kind in (Header, StudyRecord, Machine, Close))
    if not isinstance(header, Header):
        raise LogbookError(f"{path} is not a logbook: its first line is not a record of kind 'logbook'")
    if header.version > VERSION:
        raise LogbookError(f"{path} is of version {header.version}, newer than this program knows: update Logarithm")
    read = columns.trials()
    for contender, family, _, _ in read.keys:
        contenders.setdefault(contender, ContenderRecord(name=contender))
        families.setdefault(family, FamilyRecord(name=family))
    return Logbook(
        path=path,
        header=header,
        study=study if isinstance(study, StudyRecord) else StudyRecord(name=path.stem),
        machine=machine if isinstance(machine, Machine) else Machine(),
        contenders=list(contenders.values()),
        families=list(families.values()),
        trials=read,
        hidden=hidden,
        lines=by_line,
        failures=failures,
        notes=notes,
        close=close if isinstance(close, Close) else None,
        warnings=warnings,
    )


def _without(records: list[_Told], changed: tuple[int, str]) -> list[_Told]:
    """The records that are not of an earlier version of a contender or family."""
    which, name = changed
    return [each for each in records if (each.contender, each.family)[which] != name]


def _chunks(path: Path, stream: BinaryIO, warnings: list[str]) -> Iterator[list[AnyRecord]]:
    """The records of some whole lines at a time, so that a large logbook is never held whole as text."""
    line, tail = 1, b""
    while True:
        block = stream.read(CHUNK)
        if not block:
            break
        whole, newline, tail_of_block = block.rpartition(b"\n")
        if not newline:
            tail += block
            continue
        lines = tail + whole
        tail = tail_of_block
        if line == 1:
            _check_first(path, lines)
        yield _decoded(lines, line, path, warnings)
        line += lines.count(b"\n") + 1
    if tail.strip():
        if line == 1:
            _check_first(path, tail)
        yield _decoded(tail, line, path, warnings, "the last line is incomplete and was left out")


def _check_first(path: Path, lines: bytes) -> None:
    try:
        first = _KIND.decode(lines.split(b"\n", 1)[0])
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        first = {}
    if first.get("kind") != "logbook" or first.get("format") != FORMAT:
        raise LogbookError(f"{path} is not a logbook: its first line is not a record of kind 'logbook'")


def _decoded(
    lines: bytes,
    line: int,
    path: Path,
    warnings: list[str],
    damage: str = "this line is damaged and was left out",
) -> list[AnyRecord]:
    clean = cleaned if may_harm(lines) else list[AnyRecord]
    try:
        return clean(_ANY.decode_lines(lines))
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        pass
    records: list[AnyRecord] = []
    for number, text in enumerate(lines.split(b"\n"), start=line):
        try:
            if text.strip():
                records.append(_ANY.decode(text))
        except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
            if not _is_foreign(text):
                warnings.append(f"{path}:{number}: {damage}")
    return clean(records)


def _is_foreign(text: bytes) -> bool:
    """Whether a line is a record of a kind that this version does not know."""
    known = {str(kind.__struct_config__.tag) for kind in AnyRecord.__args__}
    try:
        return str(_KIND.decode(text).get("kind")) not in known
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        return False
