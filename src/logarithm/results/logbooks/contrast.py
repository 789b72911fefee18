"""What changed between logbooks of a study, and whether the change is real."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar, Self

import msgspec

from ...notation.places import Keyed
from ..base import Frames, Interval, Part, Result
from ..revisions import Moved
from ..tasks.gates import Breach

SLOWER, FASTER, SAME = "slower", "faster", "no difference seen"


class AtSize(Part):
    """The cost after over the cost before at one size.

    `is_clear` where it cannot be noise, all sizes taken together; the ratio is then at least `least`.
    """

    size: float
    ratio: Interval
    is_clear: bool
    least: float


class Change(Part, Keyed):
    """How one contender's cost changed on one family.

    Attributes:
        contender, family, stage, metric: whose cost.
        overall: cost after over cost before, a geometric mean over the sizes in both.
        verdict: slower, faster, or no difference seen.
        sizes: the same at each size.
        before, after: first choices of the order, where named.
        is_new_order: whether each order is ruled out in the other logbook.
    """

    contender: str
    family: str
    stage: str | None
    metric: str
    overall: Interval
    verdict: str
    sizes: list[AtSize]
    before: str | None
    after: str | None
    is_new_order: bool

    def slower_by(self, share: float) -> float | None:
        """The size at which it is surely slower by more than a share; 0 for all together; None where it is not."""
        if self.verdict == SLOWER and self.overall.value > 1 + share:
            return 0.0
        return next((each.size for each in self.sizes if each.is_clear and each.least > 1 + share), None)


class Contrast(Result):
    """What changed between two logbooks, `names`, contender by contender; `warnings` say where they differ.

    What is `broken` works no more, or is gone.
    """

    _frames: ClassVar[Frames] = {"changes": Change, "moved": Moved, "broken": Breach}

    names: tuple[str, str]
    axis: str
    changes: list[Change]
    moved: list[Moved]
    warnings: list[str]
    broken: list[Breach] = []

    def only(self, contenders: Sequence[str]) -> Self:
        """What is about some contenders, all where none is named; what all tell of the day stays in it."""
        if not contenders:
            return self
        return msgspec.structs.replace(
            self,
            changes=[each for each in self.changes if each.contender in contenders],
            moved=[each for each in self.moved if {each.before, each.after} & {*contenders}],
            broken=[each for each in self.broken if each.contender in contenders],
        )


class Contrasts(Result):
    """A series of logbooks: the changes of each against the first one, and of each `step` against the one before."""

    _frames: ClassVar[Frames] = {"changes": Change}

    names: list[str]
    against_first: list[Contrast]
    steps: list[Contrast]
    warnings: list[str]

    def only(self, contenders: Sequence[str]) -> Self:
        """What is about some contenders, all where none is named."""
        first, steps = ([each.only(contenders) for each in some] for some in (self.against_first, self.steps))
        return msgspec.structs.replace(self, against_first=first, steps=steps)

    @property
    def changes(self) -> list[Change]:
        """The changes from the first logbook to the last."""
        return self.against_first[-1].changes

    @property
    def broken(self) -> list[Breach]:
        """What works no more from the first logbook to the last."""
        return self.against_first[-1].broken
