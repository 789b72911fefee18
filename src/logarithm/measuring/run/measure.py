"""Measuring a study from beginning to end, into a logbook."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path

from ... import __version__
from ...errors import DisagreementError, MeasuringError
from ...logbook.records import AnyRecord, ClaimRecord, Close, ContenderRecord, FamilyRecord, Header, Note, StudyRecord
from ...logbook.writing import LogbookWriter
from ...study.loading import fingerprint
from ...study.parts import Contender
from ...study.study import Study
from ..host.machine import load, this_machine
from ..parent.tools import versions
from .gather import metrics_of
from .plan import Settings
from .run import Advice, Outcome, Progress, Run

SOURCE_MOST = 200_000  # characters


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
    run = Run(study, study_file, settings, writer, progress, advice)
    if not run.tracks:
        raise MeasuringError("no contender is left to measure: name others with --only or --family")
    taking, on = ({getattr(track, kind).name for track in run.tracks} for kind in ("contender", "family"))
    writer.write(*preamble(study, study_file, settings, taking, on))
    for name, tool in run.absent.items():
        writer.write(Note(topic="absent", text=f"is left out: {tool} is not installed", contender=name))
    writer.flush()  # killed from here on, the run can be gone on with
    with closing(run) as closed:
        run.begin_life(1)
        rehearsed = run.rehearse()
        if rehearsed.disagreements:
            for disagreement in rehearsed.disagreements:
                writer.write(Note(topic="disagreement", text=str(disagreement), contender=disagreement.contender))
            if not settings.anyway:
                closed.reason = "disagreement"
                raise DisagreementError("\n".join(str(each) for each in rehearsed.disagreements))
        run.climb()
        _tell_startups(run)
        run.count()
        run.all_heats()
    return Outcome(writer.path, run.heats, run.life, run.elapsed, run.inside, rehearsed)


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
        run.crew.end()
        closed.elapsed, closed.inside, closed.load = round(run.elapsed, 3), round(run.inside, 3), load()
        closed.heats, closed.lives = run.heats, run.life
        run.writer.write(closed)


def _tell_startups(run: Run) -> None:
    """Write the records of commands again, with how long they take to start."""
    started = run.start_ups()
    for contender in run.study.contenders:
        if contender.name in started:
            record = _contender_record(contender)
            record.startup = started[contender.name]
            run.writer.write(record)


def _contender_record(contender: Contender) -> ContenderRecord:
    program = contender.program
    return ContenderRecord(
        name=contender.name,
        baseline=contender.baseline,
        yardstick=contender.yardstick,
        claims=[ClaimRecord(claim.order, claim.where) for claim in contender.claims],
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
