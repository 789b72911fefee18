"""What is left of the time that a run may take."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field

from ...protocol import clock

STARTING, REHEARSING, CALIBRATING, MAKING = "starting processes", "rehearsing", "first look", "making inputs"
TRIALS, COUNTING, LOOKING, OTHER = "trials", "counting", "looking", "other"
"""The phases of a run."""
ENDING, ENDING_SHARE = 0.4, 0.03  # seconds, and share of the budget, kept for starting up, ending and the report


@dataclass(slots=True)
class Budget:
    """The time of a run, in seconds.

    Attributes:
        total: what it may take in all.
        before: what earlier runs into the same logbook took.
        inside: what was spent inside timed calls.
        phases: what each phase of the run took, inner ones left out.
        begun: the reading of `clock.seconds` at its beginning.
    """

    total: float
    before: float = 0.0
    inside: float = 0.0
    begun: float = field(default_factory=lambda: clock.seconds())
    phases: dict[str, float] = field(default_factory=lambda: defaultdict(float))
    _phase: str = OTHER
    _since: float = field(default_factory=lambda: clock.seconds())

    @contextmanager
    def during(self, phase: str) -> Iterator[None]:
        """Meanwhile, time is that of a phase."""
        before = self._turn(phase)
        try:
            yield
        finally:
            self._turn(before)

    def _turn(self, phase: str) -> str:
        now = clock.seconds()
        self.phases[self._phase] += now - self._since
        before, self._phase, self._since = self._phase, phase, now
        return before

    def spent(self, phase: str) -> float:
        """Seconds of a phase up to now."""
        return self.phases[phase] + (clock.seconds() - self._since if phase == self._phase else 0.0)

    def move(self, phase: str, seconds: float) -> None:
        """Count seconds of the phase that is now as those of another."""
        self.phases[self._phase] -= seconds
        self.phases[phase] += seconds

    @property
    def elapsed(self) -> float:
        """Seconds since the run began, those of an interrupted run that is gone on with included."""
        return clock.seconds() - self.begun + self.before

    @property
    def deadline(self) -> float:
        """Seconds after the beginning at which the last trial must be over."""
        return self.total * (1 - ENDING_SHARE) - ENDING

    @property
    def left(self) -> float:
        """Seconds until the deadline."""
        return self.deadline - self.elapsed

    @property
    def used(self) -> float:
        """The share of it that is used, at most 1."""
        return min(self.elapsed / self.total, 1.0)
