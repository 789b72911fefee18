"""Findings about two contenders and more: where one overtakes another, who leads, what pays."""

from __future__ import annotations

from ..notation.places import Placed
from ..notation.sizes import Number
from .base import Interval, Part

MEASURED, FORECAST = "measured", "forecast"


class CrossoverFinding(Part, Placed):
    """`before` leads below `size`, `after` above it.

    `ratio` is how many times as fast `after` is at `at`, the largest size that both were measured at, and `lead`
    how many times as fast `before` is at `start`, the smallest. Where sizes are too few for an interval it is a
    `bracket`: somewhere between the measured sizes `low` and `high`. `repeated` is where it would be found if each
    trial repeated one input; None where that makes no difference.
    """

    family: str
    metric: str
    stage: str | None
    before: str
    after: str
    size: float
    low: float
    high: float
    basis: str
    at: Number
    ratio: float
    start: Number
    lead: float
    repeated: float | None = None
    bracket: bool = False


TIE_WITHIN = 0.05  # what differs by no more than this, for all that is known, is a tie
LEADS, TIE, UNKNOWN = "leads", "tie", "not known"


class Zone(Part, rename={"start": "from", "end": "to"}):
    """What holds of a pair over a range of sizes: one leads, it is a tie, or it is not known.

    A tie is the same within 5 %, and that is known. From `low` to `high` lies the cost of `one` over that of `other`.
    """

    start: Number
    end: Number
    leader: str | None
    verdict: str = LEADS
    low: float = 0.0
    high: float | None = None


class PairFinding(Part, Placed):
    """Two contenders compared, over the sizes that both were measured at.

    `first` and `last` are the costs of `one` over those of `other` at the smallest and the largest, `smooth` the same
    with the help of neighbouring sizes, as [size, ratio, low, high], at those that have trials enough for a verdict.
    `ahead` says what is to be expected beyond: "crossover", "none", or "open" where the data does not say.
    """

    family: str
    metric: str
    stage: str | None
    one: str
    other: str
    sizes: list[Number]
    first: Interval
    last: Interval
    zones: list[Zone]
    ahead: str
    smooth: list[list[float]] = []


class SafeChoice(Part, rename={"start": "from", "end": "to"}):
    """Whom to choose at these sizes not knowing the family: at worst it costs `worst` times what the leader does."""

    metric: str
    stage: str | None
    start: Number
    end: Number
    contender: str
    worst: float


class Cutoff(Part):
    """Where a hybrid should switch: `before` below `size`, `after` from there on; at worst `worst` times the better.

    Over the `families` in which the one overtakes the other.
    """

    metric: str
    stage: str | None
    before: str
    after: str
    size: float
    worst: float
    families: list[str]


class Rival(Part):
    """A contender of which it is not known whether it or the leader is cheaper: it takes `low` to `high` times as long.

    `high` is None where nothing is known.

    >>> Rival("sweep", 0.4, 3.0).cell()
    'sweep'
    """

    contender: str
    low: float
    high: float | None

    def cell(self) -> str:
        """The contender alone."""
        return self.contender


class Ahead(Part):
    """A leader is `factor` times as fast as a contender at a size, with 95 %."""

    contender: str
    size: Number
    factor: float
    low: float
    high: float


class Standing(Part, Placed, rename={"start": "from", "end": "to"}):
    """The contender that leads over a range of sizes, or those that tie, or those of which it is not known.

    `verdict` is "leads" (`leader` is known to lead alone), "tie" (`cheapest` and those `tied` differ by no more than
    the share `within`) or "not known" (`cheapest` seemed the cheapest, and `rivals` may be cheaper). A leader is up to
    `ahead` times as fast as the next one, at some size of the range; None if there is none to be compared with. `over`
    says how far it is ahead of each other one there, the nearest first.
    """

    family: str
    metric: str
    stage: str | None
    start: Number
    end: Number
    verdict: str
    leader: str | None
    cheapest: str
    tied: list[str] = []
    within: float | None = None
    rivals: list[Rival] = []
    ahead: float | None = None
    over: list[Ahead] = []

    @property
    def names(self) -> list[str]:
        """Everybody whom nobody is known to beat there: the leader, those tied with it, its rivals."""
        return [self.cheapest, *self.tied, *(each.contender for each in self.rivals)]

    @property
    def is_alone(self) -> bool:
        """Whether the leader is known to lead."""
        return not self.tied and not self.rivals


PAYS, AT_ONCE, NEVER, OPEN = "pays", "at once", "never", "open"


class Breakeven(Part):
    """How many uses repay a dearer build.

    `verdict` is "pays" (after `uses`), "at once" (within the first use), "never" (its use is no cheaper) or
    "open"; `uses`, `low` and `high` are None where there is no such number.
    """

    family: str
    size: Number
    dearer: str
    cheaper: str
    uses: float | None
    low: float | None
    high: float | None
    verdict: str = PAYS
