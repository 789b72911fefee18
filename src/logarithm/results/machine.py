"""What a machine can resolve, how noisy it is now, and what its processor learns."""

from __future__ import annotations

from typing import ClassVar

from ..logbook.records import Machine
from .base import Frames, Part, Result

LEARNT = 1.1  # from this ratio of fresh to repeated cost on, a processor has learnt an input


class LengthBias(Part):
    """How many times cheaper one input of a length gets when it is repeated."""

    length: int
    ratio: float


class RepeatedBias(Part):
    """What was seen with the built-in `sorted`, whose branches hang on its input."""

    lengths: list[LengthBias]

    @property
    def until(self) -> int | None:
        """The largest length at which a repeated input is cheaper; None where there is none."""
        return max((each.length for each in self.lengths if each.ratio >= LEARNT), default=None)

    @property
    def most(self) -> LengthBias:
        """The length at which it makes most."""
        return max(self.lengths, key=lambda each: each.ratio)


class Conditions(Result):
    """The machine now, in seconds.

    Attributes:
        machine: what it is.
        turn: what a turn of the timing loop costs, for one call.
        empty: what a call of a function that does nothing costs.
        smallest: the smallest cost of a call that can be told from one that does nothing.
        quickest, typical, slowest: the first percentile, median and ninth decile of a fixed piece of work.
        stalls: the share of the time lost to moments at which nothing ran for more than a millisecond.
        processor: the one that contenders are kept to, None where all may be used.
        bias: what the processor learns of inputs that are repeated.
    """

    _frames: ClassVar[Frames] = {"lengths": LengthBias}

    machine: Machine
    turn: float
    empty: float
    smallest: float
    quickest: float
    typical: float
    slowest: float
    stalls: float
    processor: int | None
    bias: RepeatedBias

    @property
    def lengths(self) -> list[LengthBias]:
        """What the processor learns, by the length of the input."""
        return self.bias.lengths

    @property
    def spread(self) -> float:
        """How many times as long the same work takes in a slow moment as in a quick one."""
        return self.slowest / self.quickest
