"""Measuring a study from beginning to end, into a logbook."""

from __future__ import annotations

import logging
import threading
from collections.abc import Collection, Iterator, Sequence
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path

from ..errors import DisagreementError
from ..logbook.records import AnyRecord, Close, Note
from ..logbook.writing import LogbookWriter
from ..protocol import clock
from ..protocol.replies import StartUp
from ..protocol.requests import TimeStartUp
from ..study.study import Study
from ..supervisor.failed import Failed
from ..supervisor.machine.facts import load
from ..supervisor.machine.idle import stolen_share, wanted_time
from .calibration import calibrate_all
from .counters.counts import count_tracks, metrics_of
from .counters.work import count_work, is_ours
from .heats import Heats
from .plan.schedule import PROCESSES_WANTED
from .plan.settings import Settings
from .plan.track import Track, trial_costs
from .record.budget import COUNTING, STARTING
from .record.phases import Causes, line, notes
from .record.preamble import contender_record, preamble
from .rehearsal.rehearse import Rehearsed
from .state import Progress, Rule, Run, prepared, refuse, rehearsed

log = logging.getLogger(__name__)

COUNTING_SHARE, COUNTING_LEAST = 0.4, 0.1  # of what is left of the budget after calibration
WORK_SHARE, WORK_LEAST, WORK_MOST = 0.12, 1.2, 0.25  # of the budget; seconds that it has at least, up to this share


@dataclass(frozen=True, slots=True)
class Outcome:
    """How a run ended; spans of time in seconds, `inside` those inside timed calls."""

    logbook: Path
    heats: int
    processes: int
    elapsed: float
    inside: float
    rehearsed: Rehearsed


def measure(
    study: Study,
    study_file: Path,
    settings: Settings,
    writer: LogbookWriter,
    progress: Progress = lambda *_: None,
    rule: Rule | None = None,
    told: Sequence[Note] = (),
) -> Outcome:
    """Rehearse and measure a study into a logbook, within the budget.

    Args:
        study: what is asked.
        study_file: where it was read from; workers read it again.
        settings: of the run.
        writer: of the logbook.
        progress: told what is being done.
        rule: asked between two processes what the rest of the run is for.
        told: notes to begin with.

    Raises:
        DisagreementError: where contenders disagree and the settings do not say `anyway`; nothing is measured.
        MeasuringError: where no contender can be measured at all.

    """
    run = prepared(study, study_file, settings, writer, progress)
    taking = {track.contender.name for track in run.tracks}
    on = {track.family.whole or track.family.name for track in run.tracks}
    run.book.write(*preamble(study, study_file, settings, taking, on))
    for name, why in run.absent.items():
        run.book.note("absent", f"is left out: {why}", name)
    run.book.write(*told)
    run.book.flush()  # killed from here on, the run can be gone on with
    with closing(run):
        with run.budget.during(STARTING):
            run.processes.load(run.tracks)
        with working(run):
            with run.budget.during(STARTING):
                run.processes.begin(1, run.tracks)
            found = rehearsed(run)
            refuse(run, found.disagreements)
            calibrate_all(run)
        tell_of_programs(run)
        counted(run)
        Heats(run, rule).all()
        for name in run.processes.free:
            run.book.note(
                "occupation", "works in several threads or processes, so all contenders ran on all processors", name
            )
    budget = run.budget
    return Outcome(writer.path, run.heats, run.processes.number, budget.elapsed, budget.inside, found)


@contextmanager
def closing(run: Run) -> Iterator[Close]:
    """Whatever happens, let the workers go and close the logbook with the reason."""
    closed, since = Close(reason="finished", elapsed=0.0, heats=0, processes=0), wanted_time()
    try:
        yield closed
    except KeyboardInterrupt:
        closed.reason = "interrupted"
        raise
    except DisagreementError:
        closed.reason = "disagreement"
        raise
    except BaseException:
        closed.reason = "failed"
        raise
    finally:
        loading = run.processes.templates.loading
        run.processes.end()
        closed.elapsed, closed.inside = round(run.budget.elapsed, 3), round(run.budget.inside, 3)
        stolen = stolen_share(since)
        closed.stolen = None if stolen is None else round(stolen, 4)
        phases = run.budget.phases
        closed.phases = {phase: round(seconds, 3) for phase, seconds in phases.items()}
        log.info(line(phases, run.budget.inside))
        steps = {size for track in run.tracks for size in track.steps}
        run.book.write(*notes(phases, Causes(run.processes.number, *loading, len(steps))))
        if not run.seen.early:
            closed.unsettled = [str(each) for each in run.seen.unsettled if not each.is_lasting]
            closed.orders_untold = [str(each) for each in run.seen.unsettled if each.is_lasting]
            closed.settled = not closed.unsettled
        closed.heats, closed.processes, closed.load = run.heats, run.processes.number, load()
        run.book.write(closed)


def counted(run: Run) -> None:
    """Count rather than time: for a share of what is left, or all of it where time is not asked.

    The fewest heats that verdicts ask for come first.
    """
    seconds = left = run.budget.left
    if "time" in metrics_of(run.study, run.settings):
        heat = run.processes.starting + sum(trial_costs(run.tracks).values())
        seconds = max(min(COUNTING_SHARE * left, left - PROCESSES_WANTED * heat), COUNTING_LEAST * left)
    until = clock.seconds() + seconds
    processes = run.processes
    with run.budget.during(COUNTING):
        for record in count_tracks(run.study, processes.study_file, run.tracks, run.settings, processes.seed, until):
            run.tell("counting")
            run.book.write(record)
        run.book.flush()


@contextmanager
def working(run: Run, but: Collection[str] = ()) -> Iterator[None]:
    """Meanwhile, count the work of each contender in Python: the second witness of growth.

    It takes a small share of the budget, on another processor, beside rehearsal and a calibration whose times are rough
    anyway.
    Programs are counted when they are calibrated, since each takes long to start while it is counted.

    Args:
        run: under way.
        but: contenders that were counted before.
    """
    asked = "time" in metrics_of(run.study, run.settings) and run.study.axis == "size"
    taking = [track for track in run.tracks if track.contender.name not in but]
    own = [track for track in taking if asked and is_ours(track.contender)]
    python = [track for track in own if track.contender.program is None]
    budget = run.settings.budget
    seconds = min(max(WORK_SHARE * budget, min(WORK_LEAST, WORK_MOST * budget)), 0.5 * max(run.budget.left, 0.0))
    over, records = threading.Event(), list[AnyRecord]()

    def count(tracks: list[Track]) -> None:
        processes = run.processes
        where = run.study, processes.study_file, tracks, run.settings, processes.first_seed, seconds
        records.extend(count_work(*where, over.is_set, templates=processes.templates))

    counting = threading.Thread(target=count, args=(python,))
    counting.start()
    is_refused = False
    try:
        yield
        run.tell("counting work")
        with run.budget.during(COUNTING):
            counting.join()
            count([track for track in own if track not in python and track.steps])
    except DisagreementError:
        is_refused = True  # such a run has measured nothing
        raise
    finally:
        over.set()
        counting.join()
        run.book.write(*([] if is_refused else records))
        run.book.flush()


def tell_of_programs(run: Run) -> None:
    """Write records of commands again, with their start-up."""
    told: set[str] = set()
    for track in run.tracks:
        contender = track.contender
        if contender.program is None or contender.program.is_worker or contender.name in told or not track.steps:
            continue
        request = TimeStartUp(track.family.name, min(track.steps), run.processes.seed)
        with suppress(Failed):
            seconds = run.processes.ask(track, request, StartUp).seconds
            if seconds is not None:
                told.add(contender.name)
                record = contender_record(contender, run.processes.study_file.resolve().parent)
                record.startup = seconds
                run.book.write(record)
