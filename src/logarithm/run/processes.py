"""The processes of the contenders: fresh workers for each, and who is asked what in the process that is now."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from pathlib import Path

from ..protocol import clock
from ..protocol.requests import Limits
from ..study.parts import Contender
from ..study.study import Study
from ..supervisor.limits import limits
from ..supervisor.machine.idle import ProcessorClaim, Watch
from ..supervisor.pool import WorkerPool
from ..supervisor.templates import Templates
from ..supervisor.validate import Kind
from .plan.settings import Settings
from .plan.track import DesignPoint, Track

PATIENCE = 0.05  # of the budget: so long it is waited for templates, where loading the study takes no longer


def contenders_of(tracks: Iterable[Track]) -> list[Contender]:
    """The contenders of some tracks, each once."""
    return list({track.contender.name: track.contender for track in tracks}.values())


@dataclass(slots=True)
class Processes:
    """Process after process of all contenders.

    Attributes:
        study, study_file, settings: what is asked, and how.
        number: of the process that is now; the first is 1.
        starting: seconds that starting all workers took.
        free: the contender that showed that it uses several processors, if any: then nobody is kept to one.
        warmed: design points that were timed in this process.
        claim: the processor that contenders are kept to.
        templates: from which workers are forked.
        pool: the workers of this process.
    """

    study: Study
    study_file: Path
    settings: Settings
    number: int = 1
    starting: float = 0.1
    free: set[str] = field(default_factory=set)
    warmed: set[DesignPoint] = field(default_factory=set)
    claim: ProcessorClaim = field(default_factory=ProcessorClaim)
    templates: Templates = field(init=False)
    pool: WorkerPool = field(init=False)

    def __post_init__(self) -> None:
        """Begin with nobody at work."""
        self.templates = Templates(self.study_file)
        self.pool = WorkerPool(self.study, self.study_file, [], 0, Limits(), self.free)

    @property
    def seed(self) -> int:
        """The seed of this process's instances."""
        return self._seed(self.number)

    @property
    def first_seed(self) -> int:
        """The seed of the first process's instances, from which work is counted."""
        return self._seed(1)

    def load(self, tracks: Iterable[Track]) -> None:
        """Load the study in all templates, before anything else is at work; not where all contenders are programs.

        Where loading is quick they are waited for, since what loads beside a trial would slow it.
        """
        if all(contender.program is not None for contender in contenders_of(tracks)):
            return
        self.templates.of(self.first_seed)
        self.templates.prepare(PATIENCE * self.settings.budget)

    def begin(self, number: int, tracks: list[Track], meanwhile: Callable[[], bool] = lambda: True) -> bool:
        """Let the workers of the last process go and start fresh ones, while nothing is timed.

        Workers that start beside a trial would slow it. While it is watched which processor is idle, `meanwhile` is
        done; where that says that no process is wanted any more, none is started. Returns whether there is a new one.
        """
        begun = clock.seconds()
        self.pool.end()
        watch = Watch()
        if not meanwhile():
            return False
        self.pool = self._started(number, tracks, watch)
        self.number = number
        self.warmed.clear()
        self.pool.greet()
        self.starting = clock.seconds() - begun
        return True

    def _started(self, number: int, tracks: list[Track], watch: Watch) -> WorkerPool:
        contenders = contenders_of(tracks)
        bounds = limits(len(contenders), self.settings.memory, self.settings.budget, self.claim.take(watch))
        seed = self._seed(number)
        return WorkerPool(self.study, self.study_file, contenders, seed, bounds, self.free, self.templates)

    def _seed(self, number: int) -> int:
        return self.settings.seed * 1000 + number

    def ask(self, track: Track, request: object, kind: type[Kind], calls: int | None = None) -> Kind:
        """Ask a contender, within the limit of its track. Raises Failed."""
        return self.pool.ask(track.contender.name, request, kind, track.limit, calls)

    def end(self) -> None:
        """End every worker."""
        self.pool.end()
        self.templates.end()
        self.claim.release()
