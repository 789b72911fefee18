"""What a run tells of itself between two lives, and what it is told about the rest."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from pathlib import Path

from ...notation.sizes import Number

Point = tuple[str, str, Number]
"""A (contender, family, size)."""


@dataclass(frozen=True, slots=True)
class Prospect:
    """What is left of a run.

    Attributes:
        left: seconds.
        start: seconds that another life takes before its first trial.
        costs: seconds of one more trial at each point, the making of its inputs included.
        reach: the largest size that each (contender, family) may be measured at.
    """

    left: float
    start: float
    costs: Mapping[Point, float]
    reach: Mapping[tuple[str, str], Number]


@dataclass(frozen=True, slots=True)
class Advised:
    """What the rest of a run is for.

    Attributes:
        over: whether nothing is left that more trials would tell.
        unsettled: what is not settled, in words.
        points: where trials would tell something; all others pause. None where nobody can say yet.
        between: further sizes for (contender, family), between those there are.
        larger: a size for (contender, family), beyond those there are.
        counts: (contender, family) whose order more counts of work would tell.
        why: what the next life is for, in words.
    """

    over: bool = False
    unsettled: tuple[str, ...] = ()
    points: frozenset[Point] | None = None
    between: Mapping[tuple[str, str], list[Number]] = field(default_factory=dict)
    larger: Mapping[tuple[str, str], Number] = field(default_factory=dict)
    counts: frozenset[tuple[str, str]] = frozenset()
    why: str = ""


Advice = Callable[[Path, Prospect], Advised]
"""Reads the logbook as far as it is written, and says what the rest of the run is for."""
