"""Measuring a study from beginning to end, into a logbook."""

from __future__ import annotations

import time
from collections.abc import Collection, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from ... import __version__
from ...errors import DisagreementError
from ...logbook.records import AnyRecord, ClaimRecord, Close, ContenderRecord, FamilyRecord, Header, StudyRecord
from ...logbook.writing import LogbookWriter
from ...study.loading import fingerprint
from ...study.parts import Contender
from ...study.study import Study
from ..host.machine import load, this_machine
from ..parent.failed import Failed
from ..parent.tools import versions
from ..plan.settings import Settings
from ..rehearsing.rehearsal import Rehearsed
from ..shared.messages import StartUp, TimeStartUp
from .climb import climb
from .counts import gather, metrics_of
from .heats import Heats
from .run import Advice, Progress, Run, prepared, rehearsed
from .work import gather_work

SOURCE_MOST = 200_000  # characters
COUNTING_SHARE = 0.4  # of what is left of the budget after the climb
WORK_SHARE = 0.12  # of the budget, at most


@dataclass(frozen=True, slots=True)
class Outcome:
    """How a run ended; spans of time in seconds, `inside` those inside timed calls."""

    logbook: Path
    heats: int
    lives: int
    elapsed: float
    inside: float
    rehearsed: Rehearsed


def measure(
    study: Study,
    study_file: Path,
    settings: Settings,
    writer: LogbookWriter,
    progress: Progress = lambda *_: None,
    advice: Advice | None = None,
) -> Outcome:
    """Rehearse and measure a study into a logbook, within the budget.

    Args:
        study: what is asked.
        study_file: where it was read from; workers read it again.
        settings: the dials.
        writer: of the logbook.
        progress: told what is being done.
        advice: asked now and then which sizes to add.

    Raises:
        DisagreementError: where contenders disagree and the settings do not say `anyway`; nothing is measured.
        MeasuringError: where no contender can be measured at all.

    """
    run = prepared(study, study_file, settings, writer, progress)
    taking, on = ({getattr(track, kind).name for track in run.tracks} for kind in ("contender", "family"))
    run.book.write(*preamble(study, study_file, settings, taking, on))
    for name, tool in run.absent.items():
        run.book.note("absent", f"is left out: {tool} is not installed", name)
    run.book.flush()  # killed from here on, the run can be gone on with
    with closing(run) as closed:
        run.lives.begin(1, run.tracks)
        found = rehearsed(run)
        if found.disagreements:
            for disagreement in found.disagreements:
                run.book.note("disagreement", str(disagreement), disagreement.contender)
            if not settings.anyway:
                closed.reason = "disagreement"
                raise DisagreementError("\n".join(str(each) for each in found.disagreements))
        climb(run)
        tell_of_programs(run)
        counted(run)
        worked(run)
        Heats(run, advice).all()
    budget = run.budget
    return Outcome(writer.path, run.heats, run.lives.number, budget.elapsed, budget.inside, found)


@contextmanager
def closing(run: Run) -> Iterator[Close]:
    """Whatever happens, let the workers go and close the logbook with the reason."""
    closed = Close(reason="finished", elapsed=0.0, heats=0, lives=0)
    try:
        yield closed
    except KeyboardInterrupt:
        closed.reason = "interrupted"
        raise
    finally:
        run.lives.end()
        closed.elapsed, closed.inside = round(run.budget.elapsed, 3), round(run.budget.inside, 3)
        closed.heats, closed.lives, closed.load = run.heats, run.lives.number, load()
        run.book.write(closed)


def counted(run: Run) -> None:
    """Gather what is counted rather than timed: for a share of what is left, or all of it where time is not asked."""
    alone = "time" not in metrics_of(run.study, run.settings)
    until = time.monotonic() + (run.budget.left if alone else COUNTING_SHARE * run.budget.left)
    for record in gather(run.study, run.lives.study_file, run.tracks, run.settings, run.lives.seed, until):
        run.tell("counting")
        run.book.write(record)
    run.book.flush()


def worked(run: Run) -> None:
    """Count the work of each contender in Python, for a small share of the budget: the second witness of growth."""
    if "time" not in metrics_of(run.study, run.settings) or run.study.axis != "size":
        return
    seconds = min(WORK_SHARE * run.settings.budget, 0.5 * max(run.budget.left, 0.0))
    for record in gather_work(run.study, run.lives.study_file, run.tracks, run.settings, run.lives.seed, seconds):
        run.tell("counting work")
        run.book.write(record)
    run.book.flush()


def tell_of_programs(run: Run) -> None:
    """Say which workers can hold a single instance only; write records of commands again, with their start-up."""
    for name in run.lives.crew.repeating():
        text = "speaks version 1 of the worker protocol, so each trial repeats one input: short ones look too cheap"
        run.book.note("repeats", text, name)
    told: set[str] = set()
    for track in run.tracks:
        contender = track.contender
        if contender.program is None or contender.program.is_worker or contender.name in told or not track.steps:
            continue
        request = TimeStartUp(track.family.name, min(track.steps), run.lives.seed)
        with suppress(Failed):
            seconds = run.lives.ask(track, request, StartUp).seconds
            if seconds is not None:
                told.add(contender.name)
                record = _contender_record(contender)
                record.startup = seconds
                run.book.write(record)


def _contender_record(contender: Contender) -> ContenderRecord:
    program = contender.program
    return ContenderRecord(
        name=contender.name,
        baseline=contender.options.baseline,
        # The promise of an answer is not the answer: what times that alone is shown, but not ranked.
        yardstick=contender.options.yardstick or contender.options.drain is False,
        claims=[ClaimRecord(claim.order, claim.where) for claim in contender.options.claims],
        stages=[stage for stage in contender.stages if stage],
        levels={key: str(value) for key, value in contender.values.items()},
        doc=contender.doc,
        command=list(program.arguments) if program else [],
        build=list(program.build) if program else [],
        tools=versions(contender),
        handed_in=contender.source is not None,
        require=contender.require,
    )


def preamble(
    study: Study, study_file: Path, settings: Settings, taking: Collection[str], on: Collection[str]
) -> list[AnyRecord]:
    """The records that open a logbook: format, machine, study, the contenders and families that take part."""
    ladder = settings.sizes or study.sizes
    return [
        Header(software=f"logarithm {__version__}", created=datetime.now(UTC).isoformat(timespec="seconds")),
        this_machine(),
        StudyRecord(
            name=study.name,
            question=study.question,
            file=study_file.name,
            sha256=fingerprint(study_file),
            source=study_file.read_text(encoding="utf-8", errors="replace")[:SOURCE_MOST],
            axis=study.axis,
            sizes=None if ladder is None else list(ladder),
            budget=settings.budget,
            ceiling=settings.ceiling,
            seed=settings.seed,
            metrics=list(metrics_of(study, settings)),
        ),
        *(_contender_record(contender) for contender in study.contenders if contender.name in taking),
        *(FamilyRecord(name=family.name, doc=family.doc) for family in study.families if family.name in on),
    ]
