"""What became of costs along the commits of a project."""

from __future__ import annotations

from typing import ClassVar

from ...notation.places import Keyed
from ...notation.sizes import Number
from ..base import Drawn, Frames, Part

LABEL = 9  # digits


def label_of(commit: str) -> str:
    """The digits that name a commit where it has no other name."""
    return commit[:LABEL]


class Step(Part, Keyed):
    """A commit that changed what a contender costs.

    `factor` is the cost from this commit on over that before, at the largest size that both were measured at, `size`.
    Where it could not be narrowed down to one commit, `since` is the last commit that is known to cost as before.
    """

    commit: str
    date: str
    subject: str
    contender: str
    family: str
    stage: str | None
    metric: str
    verdict: str
    factor: float
    low: float
    high: float
    size: Number
    order_before: str | None
    order_now: str | None
    since: str | None = None
    worst: float = 1.0

    def exceeds(self, share: float) -> bool:
        """Whether it is surely slower by more than a share, at some size."""
        return self.worst > 1 + share


class Skipped(Part):
    """A commit that does not run, and why."""

    commit: str
    date: str
    subject: str
    reason: str


class CostAt(Part, Keyed):
    """What a contender cost at a commit, at one size: the median, with the quartiles."""

    commit: str
    subject: str
    contender: str
    family: str
    stage: str | None
    metric: str
    size: Number
    typical: float
    low: float
    high: float


class History(Drawn):
    """The steps along a range of commits: those that changed a cost, those that do not run, and costs on the way.

    `same` is how many commits say what the one before says, so that nothing had to be measured. `is_whole` where each
    step was narrowed down to a commit within the budget. `inside` are contenders that stand in the study's own file,
    which is today's at every commit, though they said something else at one of them.
    """

    _frames: ClassVar[Frames] = {"steps": Step, "skipped": Skipped, "costs": CostAt}

    study: str
    revisions: str
    commits: int
    same: int
    measured: int
    steps: list[Step]
    skipped: list[Skipped]
    costs: list[CostAt]
    is_whole: bool
    logbooks: list[str]
    elapsed: float
    inside: list[str] = []
