"""What a rehearsal found: whether contenders agree, which traps there are, how far each will get."""

from __future__ import annotations

from typing import ClassVar

from ...notation.sizes import Number
from ..base import Frames, Part, Result
from ..findings import FailureFinding
from .gates import Breach, of_failures
from .machine import RepeatedBias


class Disagreement(Part):
    """Two answers to one instance that should agree; `against` is None where the referee rejects an answer."""

    contender: str
    against: str | None
    family: str
    size: Number
    seed: int
    answer: str
    expected: str
    axis: str = "n"

    def __str__(self) -> str:
        where = f"on {self.family}, {self.axis} = {self.size}, seed {self.seed}"
        if self.against is None:
            return f"the referee rejects the answer of {self.contender} {where}: {self.answer}"
        return f"{self.contender} disagrees with {self.against} {where}: {self.answer} against {self.expected}"


class Trap(Part):
    """Something that makes a contender's timing worthless, or is worth knowing: its `kind`, and a sentence on it."""

    contender: str
    kind: str
    text: str


class Estimate(Part):
    """How far a contender will get on one family, in seconds.

    `reach` is the last size within the ceiling, None where not even the first size works; `call` is the cost expected
    there, and `heat` that of a trial at every size up to it. `stops` says why it goes no further.
    """

    contender: str
    family: str
    reach: Number | None
    call: float
    heat: float
    stops: str


class Rehearsal(Result):
    """What a rehearsal found. Spans of time are in seconds.

    Attributes:
        study: its name.
        disagreements: answers that should agree.
        compared, largest: how many instances were compared, and the largest size of them.
        is_judged: whether a referee judged the answers.
        failures: what raised, took too long, or ended its process.
        traps: what to know of contenders.
        estimates: how far each contender will get.
        missing: contenders that were left out, with the reason.
        axis: what stands for the size.
        budget: that measuring would have.
        heat, heats: how long one trial of everything takes, and how many of these the budget gives.
        settled: after how long most will be settled.
        bias: what the processor learns of inputs that are repeated.
        yardsticks: contenders that are not ranked.
        fails_from: sizes from which on a contender is expected to fail.
    """

    _frames: ClassVar[Frames] = {
        "estimates": Estimate,
        "traps": Trap,
        "failures": FailureFinding,
        "disagreements": Disagreement,
    }

    study: str
    disagreements: list[Disagreement]
    compared: int
    is_judged: bool
    largest: Number | None
    failures: list[FailureFinding]
    traps: list[Trap]
    estimates: list[Estimate]
    missing: dict[str, str]
    axis: str
    budget: float
    heat: float
    heats: int
    settled: float
    bias: RepeatedBias
    yardsticks: list[str] = []
    fails_from: dict[str, float] = {}

    @property
    def broken(self) -> list[Breach]:
        """What fails where it should work."""
        return of_failures([each for each in self.failures if each.contender not in self.yardsticks], self.fails_from)

    @property
    def agrees(self) -> bool:
        """Whether no two answers disagree."""
        return not self.disagreements

    @property
    def nothing_works(self) -> bool:
        """Whether no contender works even at its smallest size."""
        return bool(self.estimates) and all(each.reach is None for each in self.estimates)
