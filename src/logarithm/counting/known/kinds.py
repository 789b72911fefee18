"""How much of each kind known operations did, in all and where they stand.

A step of the interpreter takes 10 to 60 ns, an item that is moved in memory a fraction of one. So amounts are weighed
before they are added to steps: by what a unit typically costs, in steps. Weights only bring kinds to one scale; what a
unit of the sum costs on this machine, and how that drifts, is measured.
"""

from __future__ import annotations

import sys
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from types import CodeType, FrameType

from ...notation.kinds import PRICES

CALL = "__known_call__"
"""A name in the module of every rewritten function; a module without it is nobody's own."""
Amounts = dict[str, float]
"""How much was done, by kind."""


@dataclass(slots=True)
class Done:
    """What known operations did.

    Attributes:
        amounts: by kind.
        unknown: the names of operations of which nothing is known.
        places: the amounts of each instruction of rewritten code, by its code and offset; None where nobody asks.
    """

    amounts: Amounts = field(default_factory=dict)
    unknown: set[str] = field(default_factory=set)
    places: dict[tuple[CodeType, int], Amounts] | None = None

    @property
    def steps(self) -> float:
        """All of it, in steps.

        >>> Done({"items compared": 100, "items moved": 1000}).steps
        150.0
        """
        return sum(PRICES[kind] * amount for kind, amount in self.amounts.items())

    @property
    def total(self) -> float:
        """All of it, each unit counted as one: so what is cheap, but grows fastest, shows at small sizes already.

        >>> Done({"items compared": 100, "items moved": 1000}).total
        1100
        """
        return sum(self.amounts.values())


_done: Done | None = None


def did(kind: str, amount: float) -> None:
    """Count what was done. Does nothing while nobody counts."""
    if _done is None or not amount:
        return
    _done.amounts[kind] = _done.amounts.get(kind, 0.0) + amount
    if _done.places is not None:
        frame: FrameType | None = sys._getframe(1)
        while frame is not None and CALL not in frame.f_globals:
            frame = frame.f_back
        if frame is not None:
            here = _done.places.setdefault((frame.f_code, frame.f_lasti), {})
            here[kind] = here.get(kind, 0.0) + amount


def did_unknown(name: str) -> None:
    """Take down an operation of which it is not known what it does."""
    if _done is not None:
        _done.unknown.add(name)


@contextmanager
def counting_known(with_places: bool = False) -> Iterator[Done]:
    """Count what known operations do meanwhile, and where they stand if that is asked."""
    global _done
    before, _done = _done, Done(places={} if with_places else None)
    try:
        yield _done
    finally:
        _done = before
