"""What sizes that were not measured will cost, or how large an input a time allows."""

from __future__ import annotations

from typing import ClassVar

from ...notation.places import Keyed
from ..base import Frames, Part, Result

REACH = 10.0  # times the largest size measured: beyond, anything may happen
FAR, VAGUE, NONE_FITS, FEW, FAILS, NO_LAW = "far", "vague", "none fits", "few trials", "fails", "no law"
"""Why there is no forecast: the size is more than ten times the largest one measured, its ends would lie too far apart,
even the smallest input takes longer, there are too few trials, the contender fails before, or its cost follows no law
that is known."""


NO_FORECAST = {
    FAR: "more than ten times the largest size: measure larger ones",
    VAGUE: "the data do not say: measure more, or larger sizes",
    NONE_FITS: "even the smallest takes longer",
    FEW: "too few trials: measure longer",
    NO_LAW: "it follows no law that is known: measure there",
}
"""The same in words."""


class Ahead(Part, Keyed):
    """A forecast.

    Attributes:
        contender, family, stage, metric: of what.
        value, low, high: a cost, or a size, with 95 %; None where there is none. A size has no `high` where that lies
            more than ten times beyond the largest one measured, and then may be larger itself where it `is_least`.
        beyond: how many times the largest size that was measured it lies at.
        fails: the size at which the contender fails, where that comes first.
        exact: the formula, where it is exact.
        why: why there is no forecast; empty where there is one.
    """

    contender: str
    family: str
    stage: str | None
    metric: str
    value: float | None = None
    low: float | None = None
    high: float | None = None
    beyond: float = 1.0
    fails: float | None = None
    exact: str = ""
    why: str = ""
    is_least: bool = False


class Forecast(Result):
    """The cost `at` a size, or the largest size `within` so many seconds, of each contender.

    Of two sizes, at this `second` one; `names` are what both are called.
    """

    _frames: ClassVar[Frames] = {"rows": Ahead}

    logbook: str
    at: float | None
    within: float | None
    rows: list[Ahead]
    second: float | None = None
    names: list[str] = []
