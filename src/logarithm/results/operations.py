"""Operations of one object: mixes of them, who leads over the share of one, and what growing from nothing costs."""

from __future__ import annotations

from ..notation.sizes import Number
from .base import Interval, Part


class MixFinding(Part):
    """A mix of operations of one contender at one size, for one operation on average.

    `priced` follows from what its operations cost each by itself, with 95 %; `measured` is what the mix took, None of
    counts, which are as they are priced. Of two sizes, `second` is the second one.
    """

    contender: str
    family: str
    mix: str
    metric: str
    size: Number
    priced: Interval
    measured: float | None
    second: Number | None = None

    @property
    def off(self) -> float:
        """By which share the measured cost differs from the priced one; 0 where it was not measured."""
        return 0.0 if self.measured is None else self.measured / self.priced.value - 1


class ShareLead(Part, rename={"start": "from", "end": "to"}):
    """From a share `start` to a share `end` of one operation, `leader` costs least."""

    start: float
    end: float
    leader: str


class ShareSwitch(Part):
    """At a `share` of one operation, with 95 %, `before` (below) and `after` (above) cost the same."""

    before: str
    after: str
    share: Interval


class Shares(Part):
    """Who leads over the share that one operation has of a mix, at one size; the others keep their proportions.

    Attributes:
        family, mix, operation: which.
        share: the share of the operation in the mix as it was asked for.
        size, second: where; `second` of two sizes only.
        costs: by contender, seconds for one operation on average at share 0 and at share 1.
        leads: who leads over which shares.
        switches: where another contender takes the lead.
    """

    family: str
    mix: str
    operation: str
    share: float
    size: Number
    costs: dict[str, list[Interval]]
    leads: list[ShareLead]
    switches: list[ShareSwitch]
    second: Number | None = None


class Growing(Part):
    """What it costs to bring an empty object to a size, operation by operation.

    Attributes:
        contender, family: who, on what.
        size, second: of the object at the end; `second` of two sizes only.
        whole: seconds for all steps.
        mean: for one of them on average, the amortised cost.
        dearest: for the dearest one of them.
        order: how the whole grows; `dearest_order` how the dearest step does. None where that has no name.
    """

    contender: str
    family: str
    size: Number
    whole: float
    mean: float
    dearest: float
    order: str | None = None
    dearest_order: str | None = None
    second: Number | None = None
