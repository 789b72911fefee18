"""What is left of the time that a run may take."""

from __future__ import annotations

import time
from dataclasses import dataclass, field

ENDING, ENDING_SHARE = 0.4, 0.03  # seconds, and share of the budget, kept for starting up, ending and the report


@dataclass(slots=True)
class Budget:
    """The time of a run, in seconds.

    Attributes:
        total: what it may take in all.
        before: what earlier runs into the same logbook took.
        inside: what was spent inside timed calls.
        begun: the reading of `time.monotonic` at its beginning.
    """

    total: float
    before: float = 0.0
    inside: float = 0.0
    begun: float = field(default_factory=time.monotonic)

    @property
    def elapsed(self) -> float:
        """Seconds since the run began, those of an interrupted run that is gone on with included."""
        return time.monotonic() - self.begun + self.before

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
