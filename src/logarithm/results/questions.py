"""What a run is to answer, seen from process to process: open questions, and where more trials would tell."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from ..notation.numbers import crossing
from ..notation.orders import pretty
from ..notation.places import Place
from ..notation.sizes import Number
from ..notation.words import place_said, said
from .pairs import Standing

SETTLED, OPEN, BEYOND = "settled", "open", "beyond"
LEAD, TIE, CROSSOVER, ORDER = "lead", "tie", "crossover", "order"
ORDERS_MOST = 3
Point = tuple[str, str, Number]
"""A (contender, family, size)."""


@dataclass(frozen=True, slots=True)
class Question:
    """A verdict of a run under way.

    Attributes:
        kind: lead, tie, crossover or order.
        place: family, stage and metric.
        contenders: whom it is about; before and after, of a crossover.
        start, end: the sizes it is about; the interval, of a crossover.
        state: settled, open or beyond reach.
        size: the estimate of a crossover; the larger size that would tell orders apart, None where none would.
        orders: those that are plausible, the first choice first.
        within: by which share those tied differ at most; how well a crossover is to be known.
        at: the sizes at which trials would tell most.
        by_noise: whether it is noise that leaves it unsettled, against which more processes help a little.
        axis: what is varied, as people read it.

    >>> str(Question("order", ("bay", None, "time"), ("sweep",), 8, 64, orders=("n", "n log n")))
    'n or n log n of sweep on bay'
    """

    kind: str
    place: Place
    contenders: tuple[str, ...]
    start: float
    end: float
    state: str = OPEN
    size: float | None = None
    orders: tuple[str, ...] = ()
    within: float = math.inf
    at: tuple[float, ...] = ()
    by_noise: bool = True
    axis: str = "n"

    @property
    def is_lasting(self) -> bool:
        """Whether no size within reach and no further trial would tell: orders that are too much alike here."""
        return self.kind == ORDER and self.size is None and not self.by_noise

    def __str__(self) -> str:
        names, where = [said(name) for name in self.contenders], place_said(self.place)
        span = f"{self.axis} = {crossing(self.start)}" + ("" if self.start == self.end else f" to {crossing(self.end)}")
        if self.kind == ORDER:
            return f"{' or '.join(pretty(order) for order in self.orders[:ORDERS_MOST])} of {names[0]} on {where}"
        if self.kind == CROSSOVER:
            interval = f"{crossing(self.start)} to {crossing(self.end)}"
            return f"where {names[1]} overtakes {names[0]} on {where} ({interval})"
        if self.kind == TIE:
            return f"whether {names[0]} or {names[1]} leads on {where} ({span})"
        return f"whether {names[0]} surely leads {names[1]} on {where} ({span})"


@dataclass(frozen=True, slots=True)
class Remaining:
    """What is left of a run.

    Attributes:
        left: seconds.
        start: seconds that another process takes before its first trial.
        costs: seconds of one more trial at each point, the making of its inputs included.
        reach: the largest size that each (contender, family) may be measured at.
    """

    left: float
    start: float
    costs: Mapping[Point, float]
    reach: Mapping[tuple[str, str], Number]


@dataclass(frozen=True, slots=True)
class Look:
    """What was seen at one look, and what the rest of the run is for.

    Attributes:
        early: whether too few processes were seen to say anything.
        asked: all questions with their states.
        points: where trials would tell something about those that are not settled.
        between: further sizes for (contender, family), around crossovers.
        larger: a larger size for (contender, family), that would tell orders apart.
        counts: (contender, family) whose work leaves several orders open.
        standings: who leads where, by place.
    """

    early: bool = True
    asked: Sequence[Question] = ()
    points: frozenset[Point] = frozenset()
    between: Mapping[tuple[str, str], list[Number]] = field(default_factory=dict)
    larger: Mapping[tuple[str, str], Number] = field(default_factory=dict)
    counts: frozenset[tuple[str, str]] = frozenset()
    standings: Mapping[Place, list[Standing]] = field(default_factory=dict)

    @property
    def over(self) -> bool:
        """Whether every question is settled, but for orders that no further trial would tell apart."""
        return not self.early and all(each.state == SETTLED or each.is_lasting for each in self.asked)

    @property
    def unsettled(self) -> list[Question]:
        """The questions without an answer that lasts."""
        return [each for each in self.asked if each.state != SETTLED]

    @property
    def purpose(self) -> str:
        """What the next process is for: the first of the open questions, and how many more there are."""
        opened = [each for each in self.asked if each.state == OPEN]
        if self.early or not opened:
            return "every size"
        first = min(opened, key=lambda each: (CROSSOVER, ORDER, LEAD, TIE).index(each.kind))
        return f"{first} and {len(opened) - 1} more" if len(opened) > 1 else str(first)
