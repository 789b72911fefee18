"""The lives of the contenders: fresh workers for each, and who is asked what in the life that is now."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from pathlib import Path

from ...study.parts import Contender
from ...study.study import Study
from ..parent.crew import Crew
from ..parent.limits import limits
from ..parent.replies import Kind
from ..plan.settings import Settings
from ..plan.track import DesignPoint, Track
from ..shared.messages import Limits


def contenders_of(tracks: Iterable[Track]) -> list[Contender]:
    """The contenders of some tracks, each once."""
    return list({track.contender.name: track.contender for track in tracks}.values())


@dataclass(slots=True)
class Lives:
    """Life after life of all contenders.

    Attributes:
        study, study_file, settings: what is asked, and how.
        number: of the life that is now; the first is 1.
        starting: seconds that starting all workers took.
        free: names of contenders that are not kept to one processor.
        warmed: design points that were timed in this life.
        crew, following: the workers of this life, and those of the next one, if they are started already.
    """

    study: Study
    study_file: Path
    settings: Settings
    number: int = 1
    starting: float = 0.1
    free: set[str] = field(default_factory=set)
    warmed: set[DesignPoint] = field(default_factory=set)
    crew: Crew = field(init=False)
    following: Crew | None = None

    def __post_init__(self) -> None:
        """Begin with nobody at work."""
        self.crew = Crew(self.study, self.study_file, [], 0, Limits(), self.free)

    @property
    def seed(self) -> int:
        """The seed of this life's instances."""
        return self._seed(self.number)

    def begin(
        self, number: int, tracks: list[Track], meanwhile: Callable[[], None] = lambda: None, last: bool = False
    ) -> None:
        """Start fresh workers, and let those of the last life go; do something `meanwhile`.

        Unless it is the `last` life, the workers of the next one are started beside, while this one makes its inputs.
        """
        begun = time.monotonic()
        self.crew.end()
        self.number = number
        self.warmed.clear()
        self.crew = self._prepared(number, tracks)
        meanwhile()
        self.crew.greet()
        self.starting = time.monotonic() - begun
        self.following = None if last else self._started(number + 1, tracks)

    def _prepared(self, number: int, tracks: list[Track]) -> Crew:
        """The workers that were started beforehand, as far as they are still what is wanted."""
        following, self.following = self.following, None
        names = {each.name for each in contenders_of(tracks)}
        if following is not None:
            if following.hash_seed == self._seed(number) and names <= set(following.workers):
                following.keep_only(names)
                return following
            following.end()
        return self._started(number, tracks)

    def _started(self, number: int, tracks: list[Track]) -> Crew:
        contenders = contenders_of(tracks)
        bounds = limits(len(contenders), self.settings.memory)
        return Crew(self.study, self.study_file, contenders, self._seed(number), bounds, self.free)

    def _seed(self, number: int) -> int:
        return self.settings.seed * 1000 + number

    def ask(self, track: Track, request: object, kind: type[Kind], calls: int | None = None) -> Kind:
        """Ask a contender, within the limit of its track. Raises Failed."""
        return self.crew.ask(track.contender.name, request, kind, track.limit, calls)

    def end(self) -> None:
        """End every worker."""
        self.crew.end()
        if self.following is not None:
            self.following.end()
