"""A rehearsal with its outlook: whether the contenders agree, which traps there are, how far each will get."""

from __future__ import annotations

import time
from pathlib import Path

from ..report.text.rehearsal import Prospect, Rehearsal
from ..run.plan.settings import Settings
from ..run.plan.track import tracks as tracks_of
from ..run.rehearsal.estimate import heats_within, outlook, settled_after
from ..run.rehearsal.rehearse import first_crew, rehearse
from ..run.state import Progress
from ..study.study import Study
from ..supervisor.machine.repeated_inputs import learnt
from ..supervisor.programs.tools import absent


def rehearsed(study: Study, file: Path, settings: Settings, progress: Progress) -> Rehearsal:
    """Try every contender at small sizes; nothing is measured.

    Raises:
        StudyError: where a family makes no instance.
        MeasuringError: where no worker starts.
    """
    missing = absent(study)
    tracks = tracks_of(study, settings, missing)
    begun = time.monotonic()
    with first_crew(study, file, tracks, settings) as crew:
        starting = time.monotonic() - begun
        found = rehearse(study, tracks, crew, float("inf"), lambda what: progress(0.3, what))
        ahead = outlook(tracks, crew, settings, settings.seed, lambda what: progress(0.7, what))
    return Rehearsal(
        disagreements=found.disagreements,
        compared=found.compared,
        is_judged=study.judge is not None,
        largest=max(found.sizes, default=None),
        failures=[(name, where, size, failed.reason, failed.detail) for name, where, size, failed in found.failures],
        traps=[(trap.contender, str(trap)) for trap in found.traps],
        prospects=[Prospect(each.contender, each.family, each.reach, each.call, each.stops) for each in ahead],
        missing=missing,
        axis="n" if study.axis == "size" else study.axis,
        budget=settings.budget,
        heat=sum(each.heat for each in ahead),
        heats=heats_within(ahead, settings),
        settled=settled_after(ahead, tracks, starting, settings),
        learnt=learnt(),
    )
