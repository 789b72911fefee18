"""Going on with a run that was interrupted, from what its logbook holds."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from statistics import median

from ...errors import MeasuringError
from ...logbook.reading import Logbook, read_trials
from ...logbook.records import BESIDE, WORK, Trial
from ...logbook.writing import LogbookWriter
from ...notation.sizes import Number
from ...study.loading import fingerprint
from ...study.study import Study
from ..plan.settings import Settings
from ..plan.track import Step
from ..shared.clock import NANO, round_calls
from .climb import climb
from .heats import Heats
from .measure import closing, counted, worked
from .run import Advice, Progress, Run, prepared, rehearsed


@dataclass(frozen=True, slots=True)
class More:
    """What is said beside `--resume`: a further budget in seconds, further sizes, bytes of memory."""

    budget: float | None = None
    sizes: tuple[Number, ...] | None = None
    memory: float | None = None


def resume(
    study: Study,
    study_file: Path,
    logbook: Logbook,
    writer: LogbookWriter,
    progress: Progress,
    advice: Advice | None = None,
    more: More = More(),
) -> None:
    """Climb and measure on until the budget of the logbook is used, or a further one where that is said.

    Args:
        study, study_file: as when it was begun.
        logbook: as far as it was written.
        writer: that appends to it.
        progress: told what is being done.
        advice: asked now and then which sizes to add.
        more: what is to be other than it was.

    Raises:
        MeasuringError: where the study has changed since, nothing is left of the budget, or contenders disagreed.
    """
    asked = logbook.study
    if asked.sha256 != fingerprint(study_file):
        raise MeasuringError(
            f"{study_file} is not as it was when {logbook.path} was begun: measure it anew, into another logbook"
        )
    if logbook.close is not None and logbook.close.reason == "disagreement":
        raise MeasuringError(f"{logbook.path} ended because the contenders disagree: mend that, then measure anew")
    if logbook.close is not None and logbook.close.reason == "finished":
        raise MeasuringError(f"{logbook.path} is finished: to measure more, measure anew with a longer --budget")
    trials = read_trials(logbook.path)
    used = max([trial.at or 0.0 for trial in trials] + [logbook.close.elapsed if logbook.close else 0.0])
    ladder = tuple(asked.sizes) if asked.sizes and list(study.sizes or ()) != asked.sizes else None
    if more.sizes is not None:
        ladder = tuple(sorted({*more.sizes, *(asked.sizes or ())}))
    settings = Settings(
        budget=used + more.budget if more.budget is not None else asked.budget or 60.0,
        ceiling=asked.ceiling or 1.0,
        seed=asked.seed,
        sizes=ladder,
        families=tuple(each.name for each in logbook.families),
        contenders=tuple(each.name for each in logbook.contenders),
        metrics=tuple(asked.metrics),
        memory=more.memory,
    )
    run = prepared(study, study_file, settings, writer, progress)
    run.budget.before = used
    if run.budget.left <= 0.5:
        raise MeasuringError(
            f"{logbook.path} has used its budget of {settings.budget:g} s: give it a further one with --budget"
        )
    run.heats = max((trial.heat for trial in trials), default=0)
    _replay(run, logbook, trials)
    with closing(run):
        run.lives.begin(max((trial.life for trial in trials), default=0) + 1, run.tracks)
        if not trials:
            rehearsed(run)
        climb(run)
        if not any(trial.metric not in ("time", *BESIDE) for trial in trials):
            counted(run)
        if not any(trial.metric == WORK for trial in trials):
            worked(run)
        Heats(run, advice).all()


def _replay(run: Run, logbook: Logbook, trials: list[Trial]) -> None:
    """Bring every track to where the logbook left it."""
    ended = {(note.contender, note.family) for note in logbook.notes if note.topic == "ladder"}
    failed = {(each.contender, each.family): each.size for each in logbook.failures}
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
        # Sizes that were added since lie among those done.
        while track.next is not None and track.next in done:
            track.advance()
        # Sizes that were added between those of the ladder are among them.
        track.steps.update({size: done[size] for size in done if track.next is None or size < track.next})
        if who in failed:
            track.drop(failed[who])
        if who in ended or who in failed:
            track.end()


def _step(trials: list[Trial], target: float) -> Step:
    """What the climb would find, from the trials of one stage at one size."""
    call = median(max(trial.elapsed - trial.overhead, 1.0) * NANO / trial.calls for trial in trials)
    copies = any(trial.copies for trial in trials)
    return Step(round_calls(target / call), call, copies, trials[-1].promise, max(trial.instances for trial in trials))
