"""A logbook in depth: everything that was tried for one growth, two contenders size by size, lines of code."""

from __future__ import annotations

from typing import ClassVar

from ...notation.places import Keyed, Placed
from ...notation.sizes import Number
from ..base import Frames, Interval, Part, Result
from ..lines import LineFinding
from ..maps import Boundary
from ..pairs import CrossoverFinding, PairFinding


class SizeRatio(Part):
    """The cost of one contender over that of another at one size."""

    size: Number
    ratio: Interval


class PairInDepth(Part):
    """Two contenders: who leads where, their crossovers, and the ratio at each size."""

    pair: PairFinding
    crossovers: list[CrossoverFinding]
    ratios: list[SizeRatio]


class PairRatio(Part, Placed):
    """The cost of `one` over that of `other` at one size."""

    one: str
    other: str
    family: str
    stage: str | None
    metric: str
    size: Number
    ratio: Interval


class PlaceRatio(Part):
    """The cost of one contender over that of another at one place of a map."""

    first: Number
    second: Number
    ratio: Interval


class MapPair(Part, Placed):
    """Two contenders of a map: the boundaries between them, and the ratio at each measured place."""

    family: str
    stage: str | None
    metric: str
    one: str
    other: str
    boundaries: list[Boundary]
    ratios: list[PlaceRatio]


class PairsInDepth(Result):
    """Pairs of contenders in depth; of a map `on_map`, with the names of both sizes."""

    _frames: ClassVar[Frames] = {"ratios": PairRatio, "pairs": PairFinding}

    logbook: str
    axis: str
    in_depth: list[PairInDepth]
    on_map: list[MapPair] = []
    names: list[str] = []

    @property
    def pairs(self) -> list[PairFinding]:
        """Each pair."""
        return [each.pair for each in self.in_depth]

    @property
    def ratios(self) -> list[PairRatio]:
        """Each ratio, with its pair."""
        return [
            PairRatio(each.pair.one, each.pair.other, each.pair.family, each.pair.stage, each.pair.metric, *parts)
            for each in self.in_depth
            for parts in ((row.size, row.ratio) for row in each.ratios)
        ]


class Candidate(Part, Keyed):
    """An order that was tried: its weight (0 where it is ruled out), its terms, its typical and largest misfit."""

    contender: str
    family: str
    stage: str | None
    metric: str
    order: str
    weight: float
    fixed: float
    linear: float
    scale: float
    miss: float
    misfit: float


class SizeFit(Part):
    """One size: its cost, the relative residual of the first choice (None below a kink), the local exponent."""

    size: Number
    cost: float
    residual: float | None
    exponent: float


class GrowthInDepth(Part, Keyed):
    """One curve: every candidate, and how well the first choice fits at each size."""

    contender: str
    family: str
    stage: str | None
    metric: str
    candidates: list[Candidate]
    sizes: list[SizeFit]
    exponent: Interval
    law: Interval
    advice: str


class GrowthsInDepth(Result):
    """Growth in depth, curve by curve."""

    _frames: ClassVar[Frames] = {"candidates": Candidate}

    logbook: str
    curves: list[GrowthInDepth]

    @property
    def candidates(self) -> list[Candidate]:
        """Every order that was tried, of all curves."""
        return [each for curve in self.curves for each in curve.candidates]


class Lines(Result):
    """Which lines of the code the growth comes from."""

    _frames: ClassVar[Frames] = {"lines": LineFinding}

    logbook: str
    lines: list[LineFinding]
