"""Counted instances: values that tally when they are compared, and lists that tally reads, writes and swaps.

They are subclasses of what they stand for, so that code under study need not be touched: a counted number is a
number, a counted list is a list. What is computed from them is plain again. There are two kinds: quick ones, which
do nothing but count, and watched ones, which also tell of each event, for a walk.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from typing import Any

from .tallies import QUICK, tally

COMPARISONS, READS, WRITES, SWAPS = EVERY = ("comparisons", "reads", "writes", "swaps")
SIGNS = {"__lt__": "<", "__le__": "<=", "__gt__": ">", "__ge__": ">=", "__eq__": "==", "__ne__": "!="}

Watcher = Callable[[str, Any, tuple[Any, ...]], None]
"""Told of each event after it: what it was, the list (None for a comparison), and its places or values."""

_watcher: Watcher | None = None


@contextmanager
def watching(watcher: Watcher) -> Iterator[None]:
    """Hand every event on watched instances to a watcher."""
    global _watcher
    _watcher = watcher
    try:
        yield
    finally:
        _watcher = None


def counted(instance: Any, watched: bool = False, lists: bool = True) -> Any:
    """An instance that counts: lists and the values in them, at any depth; other things as they are.

    Args:
        instance: what a family made.
        watched: whether it is also to tell a watcher of each event.
        lists: whether lists count too; where only comparisons are asked for, plain ones are quicker.

    >>> from logarithm.counting.tallies import counting
    >>> with counting() as found:
    ...     levels = counted([3, 1, 2])
    ...     best = max(levels)
    >>> found["comparisons"], found["reads"]
    (2, 3)
    """
    if type(instance) is list:
        values = [counted(value, watched, lists) for value in instance]
        if not lists:
            return values
        return WatchedList(values) if watched else CountedList(values)
    if type(instance) is tuple:
        values = [counted(value, watched, lists) for value in instance]
        return (_WATCHED if watched else _QUICK)[tuple](values)
    kind = (_WATCHED if watched else _QUICK).get(type(instance))
    return kind(instance) if kind is not None else instance


def _quick(base: Any, name: str) -> Callable[[Any, Any], Any]:
    """A comparison that counts and compares, and nothing else: it is called for every single one."""
    compare, count = getattr(base, name), QUICK[COMPARISONS]

    def counting(self: Any, other: Any) -> Any:
        count[0] += 1
        return compare(self, other)

    return counting


def _told(base: Any, name: str) -> Callable[[Any, Any], Any]:
    """A comparison that also tells the watcher."""
    compare, sign = getattr(base, name), SIGNS[name]

    def telling(self: Any, other: Any) -> Any:
        tally(COMPARISONS)
        if _watcher is not None:
            _watcher(sign, None, (self, other))
        return compare(self, other)

    return telling


def _kinds(make: Callable[[Any, str], Callable[[Any, Any], Any]], prefix: str) -> dict[type, Any]:
    """A subclass of each kind of value, with comparisons of its own."""
    made: dict[type, Any] = {}
    for base in (int, float, str, tuple):
        methods = {name: make(base, name) for name in SIGNS}
        made[base] = type(f"{prefix}{base.__name__.title()}", (base,), {**methods, "__hash__": base.__hash__})
    return made


_QUICK, _WATCHED = _kinds(_quick, "Counted"), _kinds(_told, "Watched")


class CountedList(list[Any]):
    """A list that tallies reads and writes of its places, and swaps: two places that exchange their values."""

    def __init__(self, values: Iterable[Any] = ()) -> None:
        super().__init__(values)
        self._written: tuple[int, Any, Any] | None = None

    def __getitem__(self, at: Any) -> Any:
        if at.__class__ is slice:
            part = super().__getitem__(at)
            QUICK[READS][0] += len(part)
            return type(self)(part)
        _reads[0] += 1
        return _get(self, at)

    def __setitem__(self, at: Any, value: Any) -> None:
        if isinstance(at, slice):
            values = list(value)
            super().__setitem__(at, values)
            QUICK[WRITES][0] += len(values)
            return
        before, last = _get(self, at), self._written
        super().__setitem__(at, value)
        QUICK[WRITES][0] += 1
        # The second of two writes that give each place what the other had before is a swap.
        if last is not None and last[0] != at and last[1] is value and last[2] is before:
            QUICK[SWAPS][0] += 1
            self._written = None
            self.happened("swap", last[0] % len(self), at % len(self))
            return
        self._written = at, before, value
        self.happened("write", at % len(self), value)

    def happened(self, what: str, *about: Any) -> None:
        """Nobody is told of an event on a list that is only counted."""

    def __iter__(self) -> Iterator[Any]:
        for value in super().__iter__():
            _reads[0] += 1
            yield value

    def __contains__(self, wanted: object) -> bool:
        return any(value is wanted or value == wanted for value in self)

    def append(self, value: Any) -> None:
        """Append a value: one write."""
        super().append(value)
        QUICK[WRITES][0] += 1
        self.happened("append", len(self) - 1, value)

    def insert(self, at: Any, value: Any) -> None:
        """Insert a value: every place from there on is read and written."""
        super().insert(at, value)
        moved = len(self) - 1 - min(max(at if at >= 0 else at + len(self) - 1, 0), len(self) - 1)
        QUICK[READS][0] += moved
        QUICK[WRITES][0] += moved + 1

    def pop(self, at: Any = -1) -> Any:
        """Take a value out: it is read, and every place behind it is read and written."""
        value = super().pop(at)
        moved = len(self) - at if at >= 0 else -at - 1
        QUICK[READS][0] += 1 + moved
        QUICK[WRITES][0] += moved
        return value

    def copy(self) -> Any:
        """A copy: every place is read."""
        return self[:]


_get, _reads = list.__getitem__, QUICK[READS]


class WatchedList(CountedList):
    """A counted list that tells the watcher of each event."""

    def __getitem__(self, at: Any) -> Any:
        found = super().__getitem__(at)
        if not isinstance(at, slice):
            self.happened("read", at % len(self), found)
        return found

    def __iter__(self) -> Iterator[Any]:
        for at in range(len(self)):
            if at >= len(self):
                return
            yield self[at]

    def happened(self, what: str, *about: Any) -> None:
        """Tell the watcher."""
        if _watcher is not None:
            _watcher(what, self, about)
