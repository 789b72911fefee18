"""Versions of one job, each made from the one before: what each step of a ladder of improvements brought."""

from __future__ import annotations

from ..notation.places import Keyed
from ..notation.sizes import Number
from .base import Interval, Part


class VersionStep(Part, Keyed):
    """What one version costs at one size, the largest that all versions were measured at.

    Attributes:
        contender, family, stage, metric: the version, and what was measured.
        size: at which it is compared.
        cost: seconds, or a count.
        before: its cost over that of the version before; None for the first one.
        first: its cost over that of the first version.
        is_clear: whether the step is surely one, and no noise.
        second: of two sizes, the second one.
        order: how its cost grows, where that has a name.
    """

    contender: str
    family: str
    stage: str | None
    metric: str
    size: Number
    cost: float
    before: Interval | None
    first: Interval | None
    is_clear: bool
    order: str | None
    second: Number | None = None
