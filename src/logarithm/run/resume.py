"""Going on with a run from what its logbook holds: interrupted or finished, with contenders edited or added since."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from statistics import median

from msgspec.structs import replace

from ..errors import MeasuringError
from ..logbook.memory import Logbook
from ..logbook.reading import read_trials
from ..logbook.records import AnyRecord, Failure, Note, Trial
from ..logbook.writing import LogbookWriter
from ..notation.metrics import BESIDE, WORK
from ..notation.places import slice_name
from ..notation.sizes import Number, fixed
from ..protocol.clock import NANO, round_calls
from ..study.files.loading import fingerprint
from ..study.study import Study
from ..supervisor.machine.facts import this_machine
from ..version import __version__
from .calibration import calibrate_all
from .heats import Heats
from .measure import closing, counted, working
from .plan.settings import Settings
from .plan.track import Step
from .record.budget import STARTING
from .record.preamble import code_of, contender_record, family_record, study_record
from .state import Progress, Rule, Run, prepared, refuse, rehearsed

RESUME_S_LEAST = 0.5  # seconds of a budget with which going on makes sense


@dataclass(frozen=True, slots=True)
class More:
    """What is said beside `--resume`: a further budget in seconds, further sizes, bytes of memory, the whole budget."""

    budget: float | None = None
    sizes: tuple[Number, ...] | None = None
    memory: float | None = None
    whole: bool = False


def resume(
    study: Study,
    study_file: Path,
    logbook: Logbook,
    writer: LogbookWriter,
    progress: Progress,
    rule: Rule | None = None,
    more: More = More(),
) -> None:
    """Calibrate and measure on until everything is settled or the budget is used, a further one where that is said.

    Contenders that were edited since are measured anew, those that were added from the beginning; the others keep what
    was measured.

    Args:
        study, study_file: what is asked now.
        logbook: as far as it was written.
        writer: that appends to it.
        progress: told what is being done.
        rule: asked between two processes what the rest of the run is for.
        more: what is to be other than it was.

    Raises:
        DisagreementError: where what was edited or added answers otherwise than the others.
        MeasuringError: where machine or version are others, nothing is left of the budget, or contenders disagreed.
    """
    _check(logbook, study, study_file)
    trials = read_trials(logbook.path)
    changed = changes(study, study_file, logbook)
    trials = [
        trial for trial in trials if trial.contender not in changed.contenders and trial.family not in changed.families
    ]
    settings = _settings(study, logbook, changed, trials, more)
    used = _used(logbook, trials)
    if settings.budget - used <= RESUME_S_LEAST:
        raise MeasuringError(
            f"{logbook.path} has used its budget of {settings.budget:g} s: give it a further one with --budget"
        )
    run = prepared(study, study_file, settings, writer, progress)
    run.budget.before = used
    run.book.write(*_anew(study, study_file, settings, changed))
    for name in changed.contenders:
        if name in {record.name for record in logbook.contenders}:
            run.book.note("edited", "was edited: what was measured before is kept in the logbook and left out", name)
    run.heats = max((trial.heat for trial in trials), default=0)
    if study.second is not None:
        # As the run names them: a family at each value of the second size.
        name = study.second.name
        trials = [replace(trial, family=slice_name(trial.family, name, trial.second or 0)) for trial in trials]
    _replay(run, logbook, trials, changed)
    counted_before = {trial.contender for trial in trials if trial.metric == WORK}
    with closing(run):
        with run.budget.during(STARTING):
            run.processes.load(run.tracks)
            run.processes.begin(max((trial.process for trial in trials), default=0) + 1, run.tracks)
        if not trials or changed.contenders or changed.families:
            found = rehearsed(run)
            refuse(run, found.disagreements)
        with working(run, but=counted_before):
            calibrate_all(run)
        if changed.contenders or not any(trial.metric not in ("time", *BESIDE) for trial in trials):
            counted(run)
        Heats(run, rule).all()


@dataclass(frozen=True, slots=True)
class Changed:
    """Contenders that were edited or added since, and families that were edited."""

    contenders: frozenset[str]
    families: frozenset[str]


def changes(study: Study, study_file: Path, logbook: Logbook) -> Changed:
    """What has changed in a study since its logbook was written, by what the code says."""
    folder = study_file.resolve().parent
    there = {record.name: record.code for record in logbook.contenders}
    known = {*logbook.study.known} or {*there}
    contenders = set()
    for contender in study.contenders:
        if contender.name in there:
            code = code_of(contender, folder)
            if code and there[contender.name] and code != there[contender.name]:
                contenders.add(contender.name)
        elif contender.name not in known:
            contenders.add(contender.name)
    made = {family.name: family_record(family).code for family in study.families}
    families = {
        record.name
        for record in logbook.families
        if record.code and made.get(record.name) and made[record.name] != record.code
    }
    return Changed(frozenset(contenders), frozenset(families))


def _check(logbook: Logbook, study: Study, study_file: Path) -> None:
    """Refuse what cannot be gone on with.

    Raises:
        MeasuringError: in one line that says why, and what to do.
    """
    if logbook.close is not None and logbook.close.reason == "disagreement":
        raise MeasuringError(f"{logbook.path} ended because the contenders disagree: correct that, then measure again")
    if logbook.study.name != study.name:
        raise MeasuringError(f"{logbook.path} is of the study '{logbook.study.name}', not of '{study.name}'")
    is_known = any(record.code for record in logbook.contenders) or any(record.code for record in logbook.families)
    if logbook.study.sha256 != fingerprint(study_file) and not is_known:
        raise MeasuringError(
            f"{study_file} is not as it was when {logbook.path} was begun: measure it again, into another logbook"
        )
    here, there = this_machine(), logbook.machine
    for what in ("processor", "cores", "system", "python"):
        one, other = getattr(there, what), getattr(here, what)
        if one and one != other:
            raise MeasuringError(
                f"{logbook.path} was measured with {what} {one}, and here it is {other}: "
                "measure it again, and compare the two with logarithm contrast"
            )
    software = f"logarithm {__version__}"
    if logbook.header.software and logbook.header.software != software:
        raise MeasuringError(
            f"{logbook.path} was written by {logbook.header.software}, and this is {software}: measure it again"
        )


def _used(logbook: Logbook, trials: list[Trial]) -> float:
    return max([trial.at or 0.0 for trial in trials] + [logbook.close.elapsed if logbook.close else 0.0])


def _settings(study: Study, logbook: Logbook, changed: Changed, trials: list[Trial], more: More) -> Settings:
    """The settings of the logbook, with what is to be other than it was."""
    asked = logbook.study
    sizes = tuple(asked.sizes) if asked.sizes and list(fixed(study.sizes) or ()) != asked.sizes else None
    if more.sizes is not None:
        sizes = tuple(sorted({*more.sizes, *(asked.sizes or ())}))
    used, budget = _used(logbook, trials), asked.budget or 60.0
    if more.budget is not None:
        budget = used + more.budget
    elif (changed.contenders or changed.families) and used > budget / 2:
        budget += used  # what is new gets as long as what was there
    present = {contender.name for contender in study.contenders}
    return Settings(
        budget=budget,
        ceiling=asked.ceiling or 1.0,
        seed=asked.seed,
        sizes=sizes,
        seconds=tuple(asked.seconds) or None,
        families=tuple(each.name for each in logbook.families),
        contenders=tuple(
            {each.name: None for each in logbook.contenders if each.name in present} | dict.fromkeys(changed.contenders)
        ),
        metrics=tuple(asked.metrics),
        memory=more.memory,
        whole=more.whole,
    )


def _anew(study: Study, study_file: Path, settings: Settings, changed: Changed) -> Iterator[AnyRecord]:
    """The records of what is other than it was; those of edited contenders set aside what was measured before."""
    yield study_record(study, study_file, settings)
    folder = study_file.resolve().parent
    yield from (contender_record(each, folder) for each in study.contenders if each.name in changed.contenders)
    yield from (family_record(each) for each in study.families if each.name in changed.families)


def _replay(run: Run, logbook: Logbook, trials: list[Trial], changed: Changed) -> None:
    """Bring every track to where the logbook left it."""

    def holds(record: Note | Failure) -> bool:
        part = logbook.slices.get(record.family or "")
        whole = record.family if part is None else part.family
        return record.contender not in changed.contenders and whole not in changed.families

    ended = {(note.contender, note.family) for note in logbook.notes if note.topic == "sizes" and holds(note)}
    failed = {(each.contender, each.family): each.size for each in logbook.failures if holds(each)}
    measured: dict[tuple[str, str], dict[Number, dict[str | None, list[Trial]]]] = {}
    for trial in (trial for trial in trials if trial.metric == "time"):
        at = measured.setdefault((trial.contender, trial.family), {}).setdefault(trial.size, {})
        at.setdefault(trial.stage, []).append(trial)
    for track in run.tracks:
        who = (track.contender.name, track.family.name)
        done = {
            size: {stage: _step(rows, run.settings.trial) for stage, rows in stages.items()}
            for size, stages in sorted(measured.get(who, {}).items())
            if set(stages) == set(track.contender.stages)
        }
        if track.planned is not None:
            # Sizes that were left out, or added since, may lie among those done.
            track.take([size for size in track.planned if size not in done])
            track.steps.update(done)
        else:
            while track.next in done:
                track.advance()
            track.steps.update({size: done[size] for size in done if track.next is None or size < track.next})
        if who in failed:
            track.drop(failed[who])
        if who in ended or who in failed:
            track.end()


def _step(trials: list[Trial], target: float) -> Step:
    """What calibration would find, from the trials of one stage at one size."""
    call = median(max(trial.elapsed - trial.overhead, 1.0) * NANO / trial.calls for trial in trials)
    copies = any(trial.copies for trial in trials)
    return Step(round_calls(target / call), call, copies, trials[-1].promise, max(trial.instances for trial in trials))
