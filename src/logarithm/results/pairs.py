"""Findings about two contenders and more: where one overtakes another, who leads, what pays."""

from __future__ import annotations

from ..notation.places import Placed
from ..notation.sizes import Number
from .base import Interval, Part


class CrossoverFinding(Part, Placed):
    """`before` leads below `size`, `after` above it.

    `ratio` is how many times as fast `after` is at `at`, the largest size that both were measured at, and `lead`
    how many times as fast `before` is at `start`, the smallest. `high` is None where a forecast has no upper end.
    `repeated` is where it would be found if each trial repeated one input; None where that makes no difference.
    """

    family: str
    metric: str
    stage: str | None
    before: str
    after: str
    size: float
    low: float
    high: float | None
    basis: str
    at: Number
    ratio: float
    start: Number
    lead: float
    repeated: float | None = None


class Zone(Part, rename={"start": "from", "end": "to"}):
    """Over a range of sizes one of a pair leads; `leader` is None where they cannot be told apart."""

    start: Number
    end: Number
    leader: str | None


class PairFinding(Part, Placed):
    """Two contenders compared, over the sizes that both were measured at.

    `first` and `last` are the costs of `one` over those of `other` at the smallest and the largest. `ahead` says what
    is to be expected beyond: "crossover", "none", or "open" where the data does not say.
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


class Standing(Part, Placed, rename={"start": "from", "end": "to"}):
    """Who leads over a range of sizes."""

    family: str
    metric: str
    stage: str | None
    start: Number
    end: Number
    leader: str
    tied: list[str]
    within: float | None = None


class Breakeven(Part):
    """How many uses repay a dearer build.

    `verdict` is "pays" (after `uses`), "at once" (its build is no dearer), "never" (its use is no cheaper) or
    "open"; `uses`, `low` and `high` are None where there is no such number.
    """

    family: str
    size: Number
    dearer: str
    cheaper: str
    uses: float | None
    low: float | None
    high: float | None
    verdict: str = "pays"
