"""Counted containers that keep places: lists, deques, bytearrays and arrays, with the reads, writes, moves and swaps.

A read takes the item of a place, a write puts one into a place; taking a row out of a grid reads no item. A move is an
item that the container itself shifts to another place, to make room or to close a gap. A swap exchanges two places:
both are read, then both are written.
"""

from __future__ import annotations

from array import array
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from typing import Any

from ..tallies import MOVES, QUICK, READS, SWAPS, WRITES
from .questions import arranged, asked, one_question
from .values import SIGNS, item, named_alike
from .watching import TOLD

_reads, _writes, _moves, _swaps = QUICK[READS], QUICK[WRITES], QUICK[MOVES], QUICK[SWAPS]
_get, _set = list.__getitem__, list.__setitem__
WHOLE = (list, dict, set, deque)  # what is no item, but holds some


class CountedList(list[Any]):
    """A list that counts what is done to its places."""

    __slots__ = ("_last", "_read")

    _read: tuple[int, int]
    _last: tuple[int, Any, Any, int, int] | None

    def __init__(self, values: Iterable[Any] = ()) -> None:
        list.__init__(self, values)
        _writes[0] += len(self)
        self._read, self._last = (-1, -1), None

    def __getitem__(self, at: Any) -> Any:
        if type(at) is slice:
            part = _get(self, at)
            _reads[0] += len(part)
            return CountedList(part)
        found = _get(self, at)
        if isinstance(found, WHOLE):
            return found
        _reads[0] += 1
        place = at if at >= 0 else at + len(self)
        self._read = self._read[1], place
        if TOLD.watcher is not None:
            TOLD.watcher("read", self, (int(place), found))
        return found

    def __setitem__(self, at: Any, value: Any) -> None:
        if type(at) is slice:
            return self._set_part(at, value)
        try:
            before = _get(self, at)
        except (IndexError, TypeError):
            before = None  # the error is that of writing, below
        _set(self, at, value)
        _writes[0] += 1
        place = int(at if at >= 0 else at + len(self))
        last = self._last
        # An exchange: two places were read last, and now, one right after the other, each got what the other had.
        if (
            last is not None
            and last[0] != place
            and last[1] is value
            and last[2] is before
            and last[3] == _reads[0]
            and {last[0], place} == set(self._read)
        ):
            _swaps[0] += 1
            self._last = None
            if TOLD.watcher is not None:
                TOLD.watcher("swap", self, (last[0], place))
            return None
        self._last = place, before, value, _reads[0], 0
        if TOLD.watcher is not None:
            TOLD.watcher("write", self, (place, value))
        return None

    def forget(self) -> None:
        """Take the last write for no half of an exchange."""
        self._last = None

    def _set_part(self, at: slice, value: Any) -> None:
        values = list(value)
        long, behind = len(self), len(self) - max(at.indices(len(self))[:2])
        _set(self, at, values)
        _writes[0] += len(values)
        _moves[0] += behind if len(self) != long else 0
        self._tell("write", at.indices(long)[0], values)

    def __delitem__(self, at: Any) -> None:
        if type(at) is slice:
            gone = range(*at.indices(len(self)))
            _moves[0] += len(self) - min(gone, default=len(self)) - len(gone)
            place = min(gone, default=0)
        else:
            place = int(at if at >= 0 else at + len(self))
            _moves[0] += max(len(self) - 1 - place, 0)
        list.__delitem__(self, at)
        self._tell("removal", place)

    def __iter__(self) -> Iterator[Any]:
        at = 0
        while at < len(self):
            found = _get(self, at)
            if not isinstance(found, WHOLE):
                _reads[0] += 1
                self._tell("read", at, found)
            yield found
            at += 1

    def __reversed__(self) -> Iterator[Any]:
        at = len(self) - 1
        while at >= 0:
            if at < len(self):
                found = _get(self, at)
                _reads[0] += 1
                self._tell("read", at, found)
                yield found
            at -= 1

    def __contains__(self, wanted: object) -> bool:
        return any(asked(value, wanted) for value in self)

    def __add__(self, other: Any) -> Any:
        if not isinstance(other, list):
            return list.__add__(self, other)
        _reads[0] += len(self) + len(other)
        return CountedList(list.__add__(self, other))

    def __radd__(self, other: Any) -> Any:
        if not isinstance(other, list):
            return NotImplemented
        _reads[0] += len(self) + len(other)
        return CountedList(list.__add__(other, self))

    def __iadd__(self, other: Any) -> Any:
        self.extend(other)
        return self

    def __mul__(self, times: Any) -> Any:
        made = list.__mul__(self, times)
        return made if made is NotImplemented else CountedList(made)

    __rmul__ = __mul__

    def __imul__(self, times: Any) -> Any:
        before = len(self)
        list.__imul__(self, times)
        _writes[0] += max(len(self) - before, 0)
        return self

    def append(self, value: Any) -> None:
        """Append a value: one write."""
        list.append(self, value)
        _writes[0] += 1
        self._tell("append", len(self) - 1, value)

    def extend(self, values: Iterable[Any]) -> None:
        """Append several: one write for each."""
        if values is self:
            values = list(values)
        for value in values:
            self.append(value)

    def insert(self, at: Any, value: Any) -> None:
        """Insert a value: one write, and a move of each place behind it."""
        place = min(max(at if at >= 0 else at + len(self), 0), len(self))
        _moves[0] += len(self) - place
        list.insert(self, at, value)
        _writes[0] += 1
        self._tell("insert", int(place), value)

    def pop(self, at: Any = -1) -> Any:
        """Take a value out: one read, and a move of each place behind it."""
        long = len(self)
        value = list.pop(self, at)
        place = int(at if at >= 0 else at + long)
        _reads[0] += 1
        _moves[0] += long - 1 - place
        self._tell("pop", place, value)
        return value

    def remove(self, wanted: Any) -> None:
        """Remove the first such value: a question for each place up to it, and a move of each behind it."""
        for at, value in enumerate(self):
            if asked(value, wanted):
                del self[at]
                return
        raise ValueError("list.remove(x): x not in list")

    def clear(self) -> None:
        """Empty it: no place is looked at."""
        list.clear(self)
        self._tell("clear")

    def index(self, wanted: Any, *ends: Any) -> int:
        """Where a value is first: a question for each place up to it."""
        for at in range(*slice(*(ends or (0,)), *(() if len(ends) > 1 else (None,))).indices(len(self))):
            if asked(self[at], wanted):
                return at
        raise ValueError(f"{wanted!r} is not in list")

    def count(self, wanted: Any) -> int:
        """How often a value is in it: a question for each place."""
        return sum(1 for value in self if asked(value, wanted))

    def reverse(self) -> None:
        """Turn it round: a swap for each two places."""
        list.reverse(self)
        half = len(self) // 2
        _reads[0] += 2 * half
        _writes[0] += 2 * half
        _swaps[0] += half
        self._tell("reverse")

    def sort(self, *, key: Callable[[Any], Any] | None = None, reverse: bool = False) -> None:
        """Sort it: the questions that are asked; each place is read once and written once."""
        values = arranged(list(self), key, reverse)
        _writes[0] += len(values)
        _set(self, slice(None), values)
        self._tell("sort")

    def copy(self) -> Any:
        """A copy: every place is read, and written in the new one."""
        return self[:]

    def __reduce_ex__(self, _: Any) -> Any:
        return list, (list.__getitem__(self, slice(None)),)

    def _tell(self, what: str, *about: Any) -> None:
        if TOLD.watcher is not None:
            TOLD.watcher(what, self, about)


class CountedDeque(deque[Any]):
    """A deque that counts what is done to its places."""

    def __init__(self, values: Iterable[Any] = (), maxlen: int | None = None) -> None:
        deque.__init__(self, values, maxlen)
        _writes[0] += len(self)

    def __getitem__(self, at: Any) -> Any:
        found = deque.__getitem__(self, at)
        _reads[0] += 1
        self._tell("read", at % len(self), found)
        return found

    def __setitem__(self, at: Any, value: Any) -> None:
        deque.__setitem__(self, at, value)
        _writes[0] += 1
        self._tell("write", at % len(self), value)

    def __iter__(self) -> Iterator[Any]:
        for at, value in enumerate(deque.__iter__(self)):
            _reads[0] += 1
            self._tell("read", at, value)
            yield value

    def __contains__(self, wanted: object) -> bool:
        return any(asked(value, wanted) for value in self)

    def append(self, value: Any) -> None:
        """Append at the right: one write."""
        deque.append(self, value)
        _writes[0] += 1
        self._tell("append", len(self) - 1, value)

    def appendleft(self, value: Any) -> None:
        """Append at the left: one write."""
        deque.appendleft(self, value)
        _writes[0] += 1
        self._tell("insert", 0, value)

    def extend(self, values: Iterable[Any]) -> None:
        """Append several at the right."""
        for value in list(values) if values is self else values:
            self.append(value)

    def extendleft(self, values: Iterable[Any]) -> None:
        """Append several at the left."""
        for value in list(values) if values is self else values:
            self.appendleft(value)

    def __iadd__(self, values: Iterable[Any]) -> Any:
        self.extend(values)
        return self

    def pop(self) -> Any:  # type: ignore[override]
        """Take the rightmost out: one read."""
        value = deque.pop(self)
        _reads[0] += 1
        self._tell("pop", len(self), value)
        return value

    def popleft(self) -> Any:
        """Take the leftmost out: one read."""
        value = deque.popleft(self)
        _reads[0] += 1
        self._tell("pop", 0, value)
        return value

    def rotate(self, by: int = 1) -> None:
        """Turn it: a move for each step."""
        deque.rotate(self, by)
        _moves[0] += abs(by) % len(self) if self else 0
        self._tell("rotate")

    def copy(self) -> Any:
        """A copy: every place is read, and written in the new one."""
        _reads[0] += len(self)
        return CountedDeque(deque.copy(self), self.maxlen)

    __copy__ = copy

    def __reduce_ex__(self, _: Any) -> Any:
        return deque, (list(deque.__iter__(self)), self.maxlen)

    def _tell(self, what: str, *about: Any) -> None:
        if TOLD.watcher is not None:
            TOLD.watcher(what, self, about)


def _numbers(base: Any) -> dict[str, Any]:
    """The methods by which arrays of numbers count; what is taken out is a counted number."""
    get, put, go = base.__getitem__, base.__setitem__, base.__iter__

    def taken(self: Any, at: Any) -> Any:
        found = get(self, at)
        _reads[0] += len(found) if type(at) is slice else 1
        if type(at) is slice:
            return type(self)(self.typecode, found) if base is array else type(self)(found)
        if TOLD.watcher is not None:
            TOLD.watcher("read", self, (at % len(self), found))
        return item(found)

    def given(self: Any, at: Any, value: Any) -> None:
        before = len(self)
        put(self, at, value)
        _writes[0] += len(range(*at.indices(before))) if type(at) is slice else 1
        if TOLD.watcher is not None and type(at) is not slice:
            TOLD.watcher("write", self, (at % len(self), value))

    def walked(self: Any) -> Iterator[Any]:
        for value in go(self):
            _reads[0] += 1
            yield item(value)

    def appended(self: Any, value: Any) -> None:
        base.append(self, value)
        _writes[0] += 1
        if TOLD.watcher is not None:
            TOLD.watcher("append", self, (len(self) - 1, value))

    return {"__getitem__": taken, "__setitem__": given, "__iter__": walked, "append": appended}


CountedBytearray: Any = type("bytearray", (bytearray,), _numbers(bytearray))
CountedArray: Any = type("array", (array,), _numbers(array))

for _name in SIGNS:
    # Two containers compared are one question.
    for _kind, _base in ((CountedList, list), (CountedDeque, deque), (CountedBytearray, bytearray)):
        setattr(_kind, _name, one_question(getattr(_base, _name), SIGNS[_name]))
    setattr(CountedArray, _name, one_question(getattr(array, _name), SIGNS[_name]))
for _kind in (CountedList, CountedDeque, CountedBytearray, CountedArray):
    setattr(_kind, "__hash__", None)  # noqa: B010
    named_alike(_kind, _kind.__mro__[1])
