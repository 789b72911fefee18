"""Counted instances: values that tally when they are compared, and lists that tally reads, writes and swaps.

They are subclasses of what they stand for, so that code under study need not be touched: a counted number is a
number, a counted list is a list. What is computed from them is plain again.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from typing import Any

from .tallies import tally

COMPARISONS, READS, WRITES, SWAPS = "comparisons", "reads", "writes", "swaps"
EVERY = (COMPARISONS, READS, WRITES, SWAPS)

Watcher = Callable[[str, Any, tuple[Any, ...]], None]
"""Told of each event after it: what it was, the list (None for a comparison), and its places or values."""

_watcher: Watcher | None = None


@contextmanager
def watching(watcher: Watcher) -> Iterator[None]:
    """Hand every event on counted instances to a watcher."""
    global _watcher
    _watcher = watcher
    try:
        yield
    finally:
        _watcher = None


def _compare(sign: str, one: Any, other: Any) -> None:
    tally(COMPARISONS)
    if _watcher is not None:
        _watcher(sign, None, (one, other))


def counted(instance: Any) -> Any:
    """An instance that counts: lists and the values in them, at any depth; other things as they are.

    >>> from logarithm.tallies import counting
    >>> with counting() as found:
    ...     levels = counted([3, 1, 2])
    ...     best = max(levels)
    >>> found["comparisons"], found["reads"]
    (2, 3)
    """
    if type(instance) is list:
        return CountedList(counted(value) for value in instance)
    if type(instance) is tuple:
        return CountedTuple(counted(value) for value in instance)
    kind = {int: CountedInt, float: CountedFloat, str: CountedStr}.get(type(instance))
    return kind(instance) if kind is not None else instance


class _Compared:
    """Tallies comparisons, and leaves them to the class that it is mixed into."""

    __slots__ = ()

    def __lt__(self, other: Any) -> bool:
        _compare("<", self, other)
        return super().__lt__(other)  # type: ignore[misc, no-any-return]

    def __le__(self, other: Any) -> bool:
        _compare("<=", self, other)
        return super().__le__(other)  # type: ignore[misc, no-any-return]

    def __gt__(self, other: Any) -> bool:
        _compare(">", self, other)
        return super().__gt__(other)  # type: ignore[misc, no-any-return]

    def __ge__(self, other: Any) -> bool:
        _compare(">=", self, other)
        return super().__ge__(other)  # type: ignore[misc, no-any-return]

    def __eq__(self, other: object) -> bool:
        _compare("==", self, other)
        return super().__eq__(other)

    def __ne__(self, other: object) -> bool:
        _compare("!=", self, other)
        return super().__ne__(other)

    def __hash__(self) -> int:
        return super().__hash__()


class CountedInt(_Compared, int):
    """A whole number that tallies comparisons."""


class CountedFloat(_Compared, float):
    """A number that tallies comparisons."""


class CountedStr(_Compared, str):
    """A text that tallies comparisons."""


class CountedTuple(_Compared, tuple[Any, ...]):
    """A tuple whose comparison as a whole is one."""


class CountedList(list[Any]):
    """A list that tallies reads and writes of its places, and swaps: two places that exchange their values."""

    def __init__(self, values: Iterable[Any] = ()) -> None:
        super().__init__(values)
        self._written: tuple[int, Any, Any] | None = None

    def __getitem__(self, at: Any) -> Any:
        if isinstance(at, slice):
            part = super().__getitem__(at)
            tally(READS, len(part))
            return CountedList(part)
        value = super().__getitem__(at)
        tally(READS)
        if _watcher is not None:
            _watcher("read", self, (at % len(self), value))
        return value

    def __setitem__(self, at: Any, value: Any) -> None:
        if isinstance(at, slice):
            values = list(value)
            super().__setitem__(at, values)
            tally(WRITES, len(values))
            return
        before = super().__getitem__(at)
        super().__setitem__(at, value)
        tally(WRITES)
        last = self._written
        # The second of two writes that give each place what the other had before is a swap.
        if last is not None and last[0] != at and last[1] is value and last[2] is before:
            tally(SWAPS)
            self._written = None
            if _watcher is not None:
                _watcher("swap", self, (last[0] % len(self), at % len(self)))
            return
        self._written = at, before, value
        if _watcher is not None:
            _watcher("write", self, (at % len(self), value))

    def __iter__(self) -> Iterator[Any]:
        for at in range(len(self)):
            if at >= len(self):
                return
            yield self[at]

    def __contains__(self, wanted: object) -> bool:
        return any(value is wanted or value == wanted for value in self)

    def append(self, value: Any) -> None:
        """Append a value: one write."""
        super().append(value)
        tally(WRITES)
        if _watcher is not None:
            _watcher("append", self, (len(self) - 1, value))

    def insert(self, at: Any, value: Any) -> None:
        """Insert a value: every place from there on is read and written."""
        super().insert(at, value)
        moved = len(self) - 1 - min(max(at if at >= 0 else at + len(self) - 1, 0), len(self) - 1)
        tally(READS, moved)
        tally(WRITES, moved + 1)

    def pop(self, at: Any = -1) -> Any:
        """Take a value out: it is read, and every place behind it is read and written."""
        value = super().pop(at)
        moved = len(self) - at if at >= 0 else -at - 1
        tally(READS, 1 + moved)
        tally(WRITES, moved)
        return value

    def copy(self) -> CountedList:
        """A copy: every place is read."""
        return self[:]  # type: ignore[no-any-return]
