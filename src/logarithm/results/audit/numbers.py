"""What statements are held against: the numbers of the findings, by what they are about."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

from ...notation.metrics import TIMED
from ...notation.places import Key, Place
from ..findings import PROCESSES_LEAST, TRIALS_LEAST, Costs, Findings, GrowthFinding
from ..pairs import PairFinding

ROUNDING = 1e-9
SLOPE_ROUNDING = 0.06  # a drawn curve has few points


@dataclass(frozen=True)
class Numbers:
    """What statements are held against, by what it is about."""

    findings: Findings

    @cached_property
    def costs(self) -> Mapping[Key, Costs]:
        """The costs of each series."""
        return {each.key: each for each in self.findings.costs}

    @cached_property
    def growths(self) -> Mapping[Key, GrowthFinding]:
        """The growth of each series."""
        return {each.key: each for each in self.findings.growth}

    @cached_property
    def pairs(self) -> Mapping[tuple[Place, frozenset[str]], PairFinding]:
        """Each two contenders that were compared."""
        return {(each.place, frozenset((each.one, each.other))): each for each in self.findings.pairs}

    def telling(self, key: Key) -> list[float]:
        """The sizes of a series at which there are trials and processes enough for a verdict."""
        costs = self.costs.get(key)
        if costs is None:
            return []
        ours = self.findings.run.budget is not None or any(point.processes > 1 for point in costs.points)
        if not ours or costs.metric not in TIMED:
            return [float(point.size) for point in costs.points]
        enough = (
            point for point in costs.points if point.rounds >= TRIALS_LEAST and point.processes >= PROCESSES_LEAST
        )
        return [float(point.size) for point in enough]

    def leader(self, place: Place, one: str, other: str, size: float) -> str | None:
        """Which of two leads at a size, as their comparison says; None where neither is known to."""
        pair = self.pairs.get((place, frozenset((one, other))))
        zones = pair.zones if pair is not None else []
        if not zones or not zones[0].start <= size <= zones[-1].end:
            return None
        return max((each for each in zones if each.start <= size), key=lambda each: each.start).leader


def ordered(low: float, value: float, high: float) -> bool:
    """Whether a value lies within its interval, and that is finite."""
    return (
        math.isfinite(high) and low <= value * (1 + ROUNDING) + ROUNDING and value <= high * (1 + ROUNDING) + ROUNDING
    )
