"""The assessment of a class, from what was handed in to the table; begun, or gone on with."""

from __future__ import annotations

import secrets
from collections.abc import Iterator
from contextlib import AbstractContextManager
from pathlib import Path

from msgspec.structs import replace

from ...errors import LogarithmError, named
from ...grading.answers.inspect import BAD
from ...grading.answers.judge import cases_for, handed_in_for, reference_of
from ...grading.assess import assess
from ...grading.grades import Worth, grades_of
from ...logbook.memory import Logbook
from ...logbook.reading import read_logbook
from ...logbook.records import AnyRecord, Close
from ...logbook.writing import LogbookWriter
from ...results.tasks.grades import Class
from ...run.executor import Executor
from ...run.plan.settings import Settings
from ...run.record.preamble import preamble
from ...run.state import Progress
from ...study.exercise.handed_in import look_alike
from ...study.exercise.marks import Asked
from ...study.files.loading import fingerprint
from ...study.study import Study


def assess_class(
    study: Study,
    file: Path,
    logbook: Path,
    executor: AbstractContextManager[Executor],
    progress: Progress,
    *,
    memory: float,
    seed: int | None = None,
    trusted: bool = False,
    resume: bool = False,
) -> Class:
    """Assess everything that was handed in.

    Args:
        study, file: what is asked, and where it stands.
        logbook: to write, or to go on with.
        executor: where it is done.
        progress: called with the share that is done, and what is being done.
        memory: bytes that each submission may fill.
        seed: draws the same instances again; a secret one where there is none.
        trusted: run what was handed in without a sandbox.
        resume: go on with the logbook.

    Raises:
        SandboxError: where the system cannot keep what was handed in apart.
        LogarithmError: where there is no reference, nothing was handed in, or the study is another than it was.
    """
    before = _begun(logbook, file) if resume else None
    salt = before.study.seed if before else secrets.randbits(32) if seed is None else seed
    settings = Settings(memory=memory, seed=salt)
    is_begun = False
    try:
        with LogbookWriter(logbook, append=resume) as writer:
            is_begun = not resume
            for record in _records(study, file, settings, executor, progress, before, trusted):
                writer.write(record)
                writer.flush()
            writer.write(Close(reason="finished", elapsed=0.0, heats=0, processes=1))
            # From what was seen, and not from the file: whatever happened to that meanwhile, the table is true.
            found = class_of(writer.memory.logbook(), study)
    except LogarithmError:
        if is_begun and not writer.memory.logbook().assessed:
            logbook.unlink(missing_ok=True)  # nobody was looked at
        raise
    return replace(found, weaknesses=[*found.weaknesses, *_told_of(study, found)])


def _told_of(study: Study, found: Class) -> Iterator[str]:
    """What the instructor should look at beside the table."""
    unsure = [f"{row.name} ({', '.join(row.open_parts)})" for row in found.rows if row.open_parts]
    if unsure:
        is_given = all(asked.open_marks == "give" for asked in study.asked.values())
        rule = "given" if is_given else "not given, for you to decide"
        yield f"marks that the measurements do not tell, {rule}: {named(unsure, 12)}"
    names = list(dict.fromkeys(row.person for row in found.rows))
    for group in look_alike(names):
        yield f"names that look alike: {named(group)}"
    late = list(dict.fromkeys(f"{row.person} ({row.late})" for row in found.rows if row.late))
    if late:
        yield f"late: {named(late, 12)}"
    if study.left_out:
        yield f"not assessed: {named(list(study.left_out))}"


def class_of(logbook: Logbook, study: Study | None = None) -> Class:
    """What was seen of a class, from the logbook of its assessment.

    Args:
        logbook: of the assessment.
        study: says what everything is worth; nothing is worth marks where it is not there.

    Raises:
        AnalysisError: where it is not the logbook of an assessment.
    """
    worth = {} if study is None else {name: _worth(study, asked) for name, asked in study.asked.items()}
    weaknesses = [note.text for note in logbook.notes if note.topic == "referee"]
    about = logbook.study
    return Class(about.name, about.question, str(logbook.path), grades_of(logbook, worth), weaknesses)


def _worth(study: Study, asked: Asked) -> Worth:
    used = {name for each in handed_in_for(study, asked) for name in each.options.families or ()}
    families = [each.name for each in study.families if not used or each.name in used]
    cases = {each.name: each.marks for each in cases_for(study, asked)}
    return Worth(reference_of(study, asked).name, asked.marks, asked.open_marks, cases, families)


def _records(
    study: Study,
    file: Path,
    settings: Settings,
    executor: AbstractContextManager[Executor],
    progress: Progress,
    before: Logbook | None,
    trusted: bool,
) -> Iterator[AnyRecord]:
    if before is None:
        names = [each.name for each in study.contenders], [each.name for each in study.families]
        yield from preamble(study, file, settings, *names)
    done = before.assessed if before else frozenset[str]()
    with executor as place:
        yield from assess(study, settings, place, progress, done, _untimed(before) if before else (), trusted)


def _begun(path: Path, file: Path) -> Logbook:
    """What was seen until an assessment was interrupted."""
    logbook = read_logbook(path)
    if logbook.study.sha256 != fingerprint(file):
        raise LogarithmError(f"{file} is not as it was when {path} was begun: assess it again from the start")
    return logbook


def _untimed(logbook: Logbook) -> frozenset[str]:
    """The submissions that were looked at, are right, and were not timed yet."""
    bad = {note.contender for note in logbook.notes if note.topic in BAD}
    bad |= {each.contender for each in logbook.failures}
    timed = {contender for contender, _, _, metric in logbook.trials.keys if metric == "time"}
    return logbook.assessed & {each.name for each in logbook.contenders if each.handed_in} - bad - timed
