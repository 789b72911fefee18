"""Expressions in the loops that time them, and what these loops cost without them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ...protocol import clock
from ...study.expressions import Expression, Loop

REPEATS = 15


@dataclass(slots=True)
class Evaluated:
    """An expression in a loop that takes so many rows a turn.

    Attributes:
        loop: with the expression, and `empty` without it.
        many: rows a turn.
        cost: nanoseconds of the empty loop for each row; None where nobody has looked yet.
    """

    loop: Loop
    empty: Loop
    many: int
    cost: float | None = None

    @classmethod
    def of(cls, expression: Expression, many: int) -> Evaluated:
        """The loops around an expression."""
        return cls(expression.loop(many, clock.now), expression.loop(many, clock.now, is_empty=True), many)

    def overhead(self, rows: list[Any]) -> float:
        """Nanoseconds of the loop itself for each row."""
        if self.cost is None and len(rows) * self.many >= clock.UNROLLED:
            least = min(self.empty(rows, None) for _ in range(REPEATS))
            self.cost = max(least - clock.reading_cost(), 0.0) / (self.many * len(rows))
        return self.cost or 0.0
