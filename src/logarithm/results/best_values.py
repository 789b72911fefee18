"""Which value of a level, or of an axis that is no size, costs least."""

from __future__ import annotations

from typing import Any

from ..notation.places import Keyed
from ..notation.sizes import Number
from .base import Part


class BestValue(Part, Keyed):
    """The value of something that was varied at which a contender costs least.

    Attributes:
        contender, family, stage, metric: whose cost; of levels the contender without them.
        name: what was varied.
        size: at which, of levels; None of an axis.
        best: the value.
        cost: what it costs there, in seconds or counts.
        alike: all values that cost about as much, the best one among them; they differ by no more than `within`.
        dearest: the value at which it costs most, `times` as much.
        is_flat: whether all values are alike.
    """

    contender: str
    family: str
    stage: str | None
    metric: str
    name: str
    size: Number | None
    best: Any
    cost: float
    alike: list[Any]
    within: float
    dearest: Any
    times: float
    is_flat: bool
