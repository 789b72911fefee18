"""Tallies: counts that the code under study keeps itself, and events on counted instances.

Nothing here needs more than the standard library, because a worker process imports it beside the code under study.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager

Listener = Callable[[str, int], None]

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


@contextmanager
def counting() -> Iterator[Counter[str]]:
    """Count tallies.

    >>> with counting() as counted:
    ...     tally("blasts")
    ...     tally("blasts", 2)
    >>> counted["blasts"]
    3
    """
    counted: Counter[str] = Counter()

    def add(name: str, amount: int) -> None:
        counted[name] += amount

    with listening(add):
        yield counted
