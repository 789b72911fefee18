"""Going on with a run that was interrupted, from what its logbook holds."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from ..errors import MeasuringError
from ..loading import fingerprint
from ..logbook.reading import Logbook
from ..logbook.writing import LogbookWriter
from ..study import Study
from .bench import round_calls
from .measure import closing
from .plan import Settings, Step
from .run import NANO, Progress, Run


def resume(study: Study, study_file: Path, logbook: Logbook, writer: LogbookWriter, progress: Progress) -> None:
    """Climb and measure on until the budget of the logbook is used.

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
    settings = Settings(
        budget=asked.budget or 60.0,
        ceiling=asked.ceiling or 1.0,
        seed=asked.seed,
        sizes=tuple(asked.sizes) if asked.sizes and list(study.sizes or ()) != asked.sizes else None,
        families=tuple(each.name for each in logbook.families),
        contenders=tuple(each.name for each in logbook.contenders),
    )
    run = Run(study, study_file, settings, writer, progress)
    trials = logbook.trials
    run.before = max(float(np.nanmax(trials.at, initial=0.0)), logbook.close.elapsed if logbook.close else 0.0)
    if run.before >= run.deadline - 0.5:
        raise MeasuringError(f"{logbook.path} has used its budget of {settings.budget:g} s: nothing is left to do")
    run.heats = int(trials.heat.max(initial=0))
    _replay(run, logbook)
    with closing(run):
        run.begin_life(int(trials.life.max(initial=0)) + 1)
        if not len(trials):
            run.rehearse()
        run.climb()
        run.all_heats()


def _replay(run: Run, logbook: Logbook) -> None:
    """Bring every track to where the logbook left it."""
    trials = logbook.trials
    ended = {(note.contender, note.family) for note in logbook.notes if note.topic == "ladder"}
    failed = {(each.contender, each.family): each.size for each in logbook.failures}
    for track in run.tracks:
        who = (track.contender.name, track.family.name)
        codes = [index for index, key in enumerate(trials.keys) if (key[0], key[1], key[3]) == (*who, "time")]
        while track.next is not None:
            steps = {}
            for code in codes:
                rows = (trials.series == code) & (trials.size == track.next)
                if rows.any():
                    call = float(np.median(trials.cost[rows]))
                    copies = bool(trials.copies[rows].any())
                    calls = int(trials.calls[rows][-1]) if copies else round_calls(run.settings.trial / max(call, NANO))
                    steps[trials.keys[code][2]] = Step(calls, call, copies)
            if set(steps) != set(track.contender.stages):
                break
            track.steps[track.next] = steps
            track.advance()
        if who in failed:
            track.drop(failed[who])
        if who in ended or who in failed:
            track.end()
