"""The assessment of a class, from what was handed in to the table; begun anew, or gone on with."""

from __future__ import annotations

import secrets
from collections.abc import Iterator
from contextlib import AbstractContextManager
from dataclasses import dataclass
from pathlib import Path

from ..errors import LogarithmError
from ..grading.grades import Row, table, weak_referee
from ..grading.inspect import BAD
from ..grading.inspect import assess as look
from ..logbook.reading import Logbook, logbook_of, read_logbook
from ..logbook.records import AnyRecord, Close
from ..logbook.writing import LogbookWriter, lines_of
from ..run.executor import Engine
from ..run.plan.settings import Settings
from ..run.preamble import preamble
from ..run.state import Progress
from ..study.loading import fingerprint
from ..study.study import Study


@dataclass(frozen=True, slots=True)
class Assessed:
    """What was seen of a class: a row for each submission, what the referee lets pass, and the logbook."""

    title: str
    question: str
    rows: list[Row]
    weaknesses: list[str]
    logbook: Path


@dataclass(frozen=True, slots=True)
class _Before:
    """What an assessment that is gone on with holds: its lines and seed, who was looked at, and is yet to be timed."""

    lines: bytes
    seed: int
    seen: set[str]
    untimed: set[str]


def assess_class(
    study: Study,
    file: Path,
    logbook: Path,
    engine: AbstractContextManager[Engine],
    progress: Progress,
    *,
    memory: float,
    seed: int | None = None,
    trusted: bool = False,
    resume: bool = False,
) -> Assessed:
    """Assess everything that was handed in.

    Args:
        study, file: what is asked, and where it stands.
        logbook: to write, or to go on with.
        engine: where it is done.
        progress: called with the share that is done, and what is being done.
        memory: bytes that each submission may fill.
        seed: draws the same instances again; a secret one where there is none.
        trusted: run what was handed in without an enclosure.
        resume: go on with the logbook.

    Raises:
        NotEnclosedError: where the system cannot enclose what was handed in.
        LogarithmError: where there is no reference, nothing was handed in, or the study is another than it was.
    """
    before = _looked_at(logbook, file) if resume else None
    salt = before.seed if before else secrets.randbits(32) if seed is None else seed
    settings = Settings(memory=memory, seed=salt)
    taken: list[AnyRecord] = []
    with LogbookWriter(logbook, append=resume) as writer:
        for record in _records(study, file, settings, engine, progress, before, trusted):
            taken.append(record)
            writer.write(record)
            writer.flush()
        writer.write(Close(reason="finished", elapsed=0.0, heats=0, lives=1))
    # From what was seen, and not from the file: whatever happened to that meanwhile, the table is true.
    book = logbook_of(logbook, (before.lines if before else b"") + lines_of(taken))
    return Assessed(study.name, study.question, table(book, study.marks), weak_referee(book), logbook)


def _records(
    study: Study,
    file: Path,
    settings: Settings,
    engine: AbstractContextManager[Engine],
    progress: Progress,
    before: _Before | None,
    trusted: bool,
) -> Iterator[AnyRecord]:
    if before is None:
        names = [each.name for each in study.contenders], [each.name for each in study.families]
        yield from preamble(study, file, settings, *names)
    done, untimed = (before.seen, before.untimed) if before else (set[str](), set[str]())
    with engine as place:
        yield from look(study, settings, place, progress, done, untimed, trusted)


def _looked_at(path: Path, file: Path) -> _Before:
    """What was seen until an assessment was interrupted."""
    logbook: Logbook = read_logbook(path)
    if logbook.study.sha256 != fingerprint(file):
        raise LogarithmError(f"{file} is not as it was when {path} was begun: assess it again from the start")
    seen = {note.contender for note in logbook.notes if note.topic == "seen" and note.contender}
    bad = {note.contender for note in logbook.notes if note.topic in BAD}
    bad |= {each.contender for each in logbook.failures}
    timed = {contender for contender, _, _, metric in logbook.trials.keys if metric == "time"}
    handed_in = {each.name for each in logbook.contenders if each.handed_in}
    return _Before(path.read_bytes(), logbook.study.seed, seen, (seen & handed_in) - bad - timed)
