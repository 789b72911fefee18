"""Tallies: counts that the code under study keeps itself, and events on counted instances.

Nothing here needs more than the standard library, because a worker process imports it beside the code under study.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager

Listener = Callable[[str, int], None]

COMPARISONS, READS, WRITES, MOVES, SWAPS, HASHES = OPERATIONS = (
    "comparisons",
    "reads",
    "writes",
    "moves",
    "swaps",
    "hashes",
)
"""What counted instances count; docs/method.md says what each of them is."""
QUICK: dict[str, list[int]] = {name: [0] for name in OPERATIONS}
"""Their numbers, in cells: a call for each event would slow them down too much."""

_listener: Listener | None = None


def tally(name: str, amount: int = 1) -> None:
    """Count something under a name, such as comparisons. Does nothing while nobody counts."""
    if _listener is not None:
        _listener(name, amount)


@contextmanager
def listening(listener: Listener) -> Iterator[None]:
    """Hand every tally to a listener."""
    global _listener
    before, _listener = _listener, listener
    try:
        yield
    finally:
        _listener = before


def quick() -> dict[str, int]:
    """What counted instances have counted since this process began."""
    return {name: cell[0] for name, cell in QUICK.items()}


@contextmanager
def counting() -> Iterator[Counter[str]]:
    """Count tallies; what counted instances counted is added at the end.

    >>> with counting() as found:
    ...     tally("blasts")
    ...     tally("blasts", 2)
    >>> found["blasts"]
    3
    """
    found: Counter[str] = Counter()
    before = quick()

    def add(name: str, amount: int) -> None:
        found[name] += amount

    try:
        with listening(add):
            yield found
    finally:
        for name, number in quick().items():
            if number > before[name]:
                found[name] += number - before[name]
