"""What changed between revisions of the code: costs measured side by side, and crossovers that moved."""

from __future__ import annotations

from ..notation.places import Keyed, Placed
from ..notation.sizes import Number
from .base import Interval, Part

NOW = "now"
TODAYS_STUDY = (
    "and the study is today's at every revision: such a change is not measured. "
    "Put contenders into a module that the study imports"
)
FASTER, SLOWER, SAME, UNKNOWN = "faster", "slower", "same", "not known"


class FactorAt(Part):
    """The cost now over the cost then at one size; `is_clear` where that is surely more or less than one."""

    size: Number
    factor: float
    low: float
    high: float
    is_clear: bool = False


class RevisionChange(Part, Keyed, rename={"before": "from", "after": "to"}):
    """How one contender's cost changed from one revision to another, on one family.

    `verdict` is faster, slower, same (within 5 %) or not known; where it is faster at some sizes and slower at others,
    that of the largest sizes. `turns` are the sizes at which one becomes the other.
    """

    contender: str
    family: str
    stage: str | None
    metric: str
    before: str
    after: str
    verdict: str
    sizes: list[FactorAt]
    turns: list[Interval]
    order_before: str | None
    order_now: str | None

    def slower_by(self, share: float) -> float | None:
        """The size at which it is surely slower by more than a share; None where it is not."""
        return next((each.size for each in self.sizes if each.is_clear and each.low > 1 + share), None)


class Moved(Part, Placed):
    """A crossover then and now; `is_real` where its two intervals do not meet."""

    family: str
    stage: str | None
    metric: str
    before: str
    after: str
    then: Interval
    now: Interval
    is_real: bool
