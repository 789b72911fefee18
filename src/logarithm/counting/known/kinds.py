"""Kinds of what known operations do, how much of each was done, and what a unit of each typically costs.

A step of the interpreter takes 10 to 60 ns, an item that is moved in memory a fraction of one. So amounts are weighed
before they are added to steps: by what a unit typically costs, in steps. Weights only bring kinds to one scale; what a
unit of the sum costs on this machine, and how that drifts, is measured.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field

COMPARED, PARTED, HASHED, TOUCHED, COPIED, MOVED = (
    "compared",
    "compared part by part",
    "hashed",
    "touched",
    "copied",
    "moved",
)
SIGNS, SEARCHED, DIGITS, ELEMENTS, ASKED, CALLS = "signs", "searched", "digits", "elements", "asked", "array calls"

PRICES: dict[str, float] = {
    COMPARED: 1.2,
    PARTED: 8.0,
    HASHED: 2.5,
    TOUCHED: 0.5,
    COPIED: 0.1,
    MOVED: 0.03,
    SIGNS: 0.01,
    SEARCHED: 0.05,
    DIGITS: 0.1,
    ELEMENTS: 0.07,
    ASKED: 0.25,
    CALLS: 70.0,
}
"""Steps that a unit of each kind typically costs: two items compared, two that have parts, a key hashed and found, an
item gone through, a reference copied, one moved by its neighbours, a sign of a text written, one searched, two digits
multiplied, an element of an array computed, two of them compared, and a call of an array function before it begins."""


@dataclass(slots=True)
class Done:
    """What known operations did: amounts by kind, and the names of operations of which nothing is known."""

    amounts: dict[str, float] = field(default_factory=dict)
    unknown: set[str] = field(default_factory=set)

    @property
    def steps(self) -> float:
        """All of it, in steps.

        >>> Done({COMPARED: 100, MOVED: 1000}).steps
        150.0
        """
        return sum(PRICES[kind] * amount for kind, amount in self.amounts.items())

    @property
    def total(self) -> float:
        """All of it, each unit counted as one: so what is cheap, but grows fastest, shows at small sizes already.

        >>> Done({COMPARED: 100, MOVED: 1000}).total
        1100
        """
        return sum(self.amounts.values())


_done: Done | None = None


def did(kind: str, amount: float) -> None:
    """Count what was done. Does nothing while nobody counts."""
    if _done is not None:
        _done.amounts[kind] = _done.amounts.get(kind, 0.0) + amount


def did_unknown(name: str) -> None:
    """Take down an operation of which it is not known what it does."""
    if _done is not None:
        _done.unknown.add(name)


@contextmanager
def counting_known() -> Iterator[Done]:
    """Count what known operations do meanwhile."""
    global _done
    before, _done = _done, Done()
    try:
        yield _done
    finally:
        _done = before
