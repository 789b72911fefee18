"""What a machine can resolve, how noisy it is now, and what its processor learns."""

from __future__ import annotations

from typing import ClassVar

from ...logbook.records import Machine
from ..base import Frames, Part, Result

LEARNT = 1.1  # from this ratio of fresh to repeated cost on, a processor has learnt an input


OTHERS_QUIET, OTHERS_BUSY = 0.03, 0.1  # of the time, that others had the processor
SPREAD_QUIET = 1.15  # upper over lower decile of the pace


def noise_word(spread: float | None, others: float | None) -> str:
    """A machine in a word: quiet, noisy (its pace changes) or busy (others have the processor); empty where unknown.

    >>> noise_word(1.05, 0.0), noise_word(1.4, 0.01), noise_word(1.05, 0.3), noise_word(None, None)
    ('quiet', 'noisy', 'busy', '')
    """
    if (others or 0.0) >= OTHERS_BUSY:
        return "busy"
    if spread is None:
        return ""
    return "quiet" if spread < SPREAD_QUIET and (others or 0.0) < OTHERS_QUIET else "noisy"


class LengthBias(Part):
    """How many times cheaper one input of a length gets when it is repeated."""

    length: int
    ratio: float


class RepeatedBias(Part):
    """What was seen with the built-in `sorted`, whose branches hang on its input."""

    lengths: list[LengthBias]

    @property
    def until(self) -> int | None:
        """The largest length at which a repeated input is cheaper, and one beside it too; None where there is none."""
        return max((each.length for each in self._sure if each.ratio >= LEARNT), default=None)

    @property
    def most(self) -> LengthBias:
        """The length at which it makes most, one beside it agreeing."""
        return max(self._sure, key=lambda each: each.ratio)

    @property
    def _sure(self) -> list[LengthBias]:
        """Each length with what one beside it shows at least as well: a single one may be an interruption."""
        ratios = [0.0, *(each.ratio for each in self.lengths), 0.0]
        if len(self.lengths) < 2:
            return self.lengths
        beside = [max(ratios[at], ratios[at + 2]) for at in range(len(self.lengths))]
        return [LengthBias(one.length, min(one.ratio, two)) for one, two in zip(self.lengths, beside, strict=True)]


class Conditions(Result):
    """The machine now, in seconds.

    Attributes:
        machine: what it is.
        turn: what a turn of the timing loop costs, for one call.
        empty: what a call of a function that does nothing costs.
        smallest: the smallest cost of a call that can be told from one that does nothing.
        quickest, typical, slowest: the first percentile, median and ninth decile of a fixed piece of work.
        others: the share of the time in which others had the processor: other programs, or another machine that
            shares it.
        pressure: the share of the last minute in which something waited for a processor; None where that is not told.
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
    others: float
    pressure: float | None
    processor: int | None
    bias: RepeatedBias

    @property
    def lengths(self) -> list[LengthBias]:
        """What the processor learns, by the length of the input."""
        return self.bias.lengths

    @property
    def word(self) -> str:
        """Quiet, noisy or busy."""
        return noise_word(self.spread, self.others)

    @property
    def spread(self) -> float:
        """How many times as long the same work takes in a slow moment as in a quick one."""
        return self.slowest / self.quickest
