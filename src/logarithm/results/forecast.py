"""What sizes that were not measured will cost, or how large an input a time allows."""

from __future__ import annotations

from typing import ClassVar

from ..notation.places import Keyed
from .base import Frames, Part, Result


class Ahead(Part, Keyed):
    """A forecast.

    Attributes:
        contender, family, stage, metric: of what.
        value, low, high: a cost, or a size, with 95 %; None where there is none.
        beyond: how many times the largest size that was measured it lies at.
        fails: the size at which the contender fails, where that comes first.
        exact: the formula, where it is exact.
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


class Forecast(Result):
    """The cost `at` a size, or the largest size `within` so many seconds, of each contender."""

    _frames: ClassVar[Frames] = {"rows": Ahead}

    logbook: str
    at: float | None
    within: float | None
    rows: list[Ahead]
