"""A run under way: what its phases share."""

from __future__ import annotations

import random
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from ..errors import DisagreementError, MeasuringError
from ..logbook.memory import Logbook
from ..logbook.writing import LogbookWriter
from ..notation.sizes import Number
from ..protocol.replies import Answered
from ..results.questions import Look, Remaining
from ..results.tasks.rehearsal import Disagreement
from ..study.study import Study
from ..supervisor.programs.tools import absent
from .plan.settings import Settings
from .plan.track import Track, tracks
from .processes import Processes
from .record.budget import REHEARSING, Budget
from .record.recorder import Book
from .rehearsal.rehearse import Rehearsed, rehearse

REHEARSAL_SHARE = 0.05

Rule = Callable[[Logbook, Remaining], Look]
"""Looks at what is measured so far and what is left, and says what the rest of the run is for."""
Progress = Callable[[float, str], None]
"""Called with the share of the budget that is used, and what is being done."""


@dataclass(slots=True)
class Run:
    """A run under way.

    Attributes:
        study, settings: what is asked, and how.
        budget: what is left of the time.
        processes: the workers.
        book: where everything is written down.
        tracks: how far each contender gets.
        absent: contenders that are left out, each with the tool that it lacks, and why.
        heats: how many heats there were.
        trapped: contenders with the kinds of traps that were told of them.
        answers: what contenders answered to the first instance of a family and size.
        disagreeing: contenders of which it was told that they answer otherwise than others.
        shuffler: the chance by which trials are put in order.
        seen: what is settled and what the rest of the run is for, as it was last told.
    """

    study: Study
    settings: Settings
    budget: Budget
    processes: Processes
    book: Book
    tracks: list[Track]
    absent: dict[str, str]
    progress: Progress
    heats: int = 0
    trapped: set[tuple[str, str]] = field(default_factory=set)
    answers: dict[tuple[str, Number], dict[str, Answered]] = field(default_factory=dict)
    disagreeing: set[str] = field(default_factory=set)
    shuffler: random.Random = field(default_factory=random.Random)
    seen: Look = field(default_factory=Look)

    def tell(self, what: str) -> None:
        """Report progress."""
        self.progress(self.budget.used, what)


def prepared(study: Study, study_file: Path, settings: Settings, writer: LogbookWriter, progress: Progress) -> Run:
    """A run at its beginning; nobody works yet.

    Raises:
        MeasuringError: where no contender can be measured at all.
    """
    missing = absent(study)
    own = tracks(study, settings, missing)
    if not own:
        raise MeasuringError("no contender is left to measure: name others with --only or --family")
    budget = Budget(settings.budget)
    return Run(
        study=study,
        settings=settings,
        budget=budget,
        processes=Processes(study, study_file, settings),
        book=Book(writer, budget, study.axis, {track.family.name: track.family for track in own if track.family.whole}),
        tracks=own,
        absent=missing,
        progress=progress,
        shuffler=random.Random(settings.seed),
    )


def refuse(run: Run, disagreements: Sequence[Disagreement]) -> None:
    """Write down that answers disagree.

    Raises:
        DisagreementError: where that is not wanted anyway.
    """
    for each in disagreements:
        run.book.note("disagreement", str(each), each.contender)
    # A revision may answer otherwise: that may be what was mended since.
    earlier = {each.name for each in run.study.contenders if each.revision is not None}
    if not run.settings.anyway and any(each.contender not in earlier for each in disagreements):
        raise DisagreementError("\n".join(str(each) for each in disagreements))


def rehearsed(run: Run) -> Rehearsed:
    """Compare answers, and write down the traps; what cannot even begin leaves the run here."""
    until = run.budget.begun + run.settings.budget * REHEARSAL_SHARE
    with run.budget.during(REHEARSING):
        found = rehearse(run.study, run.tracks, run.processes.pool, until, run.tell)
    for contender, family, size, failed in found.failures:
        for track in run.tracks:
            if (track.contender.name, track.family.name, track.next) == (contender, family, size):
                run.book.failure(track, size, None, failed, run.processes.number)
                track.end()
    run.trapped |= {(trap.contender, trap.kind) for trap in found.traps}
    run.disagreeing |= {each.contender for each in found.disagreements}
    for trap in found.traps:
        run.book.note("trap", trap.text, trap.contender, cause=trap.kind)
    return found
