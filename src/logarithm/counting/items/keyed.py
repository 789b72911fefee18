"""Counted sets and dictionaries: a key looked up is one hash; what is put in is a write, what is taken a read.

What a set or a dictionary asks its keys to find one is part of that hash: the contender asks nothing.
"""

from __future__ import annotations

from collections import Counter, OrderedDict, defaultdict
from collections.abc import Callable, Iterable, Iterator
from typing import Any

from ..tallies import QUICK, READS, WRITES
from .questions import one_hash, one_question
from .values import SIGNS, named_alike
from .watching import TOLD

_reads, _writes = QUICK[READS], QUICK[WRITES]
ABSENT = object()


def _tell(where: Any, what: str, *about: Any) -> None:
    if TOLD.watcher is not None:
        TOLD.watcher(what, where, about)


def _going(base: Any) -> Callable[[Any], Iterator[Any]]:
    go = base.__iter__

    def walked(self: Any) -> Iterator[Any]:
        for value in go(self):
            _reads[0] += 1
            _tell(self, "read", value)
            yield value

    return walked


def _looking(base: Any) -> Callable[[Any, Any], bool]:
    has = base.__contains__

    def looked(self: Any, key: Any) -> bool:
        with one_hash():
            found = bool(has(self, key))
        _tell(self, "look up", key)
        return found

    return looked


class CountedSet(set[Any]):
    """A set that counts what is done to it."""

    __slots__ = ()
    __iter__ = _going(set)
    __contains__ = _looking(set)
    __hash__ = None

    def __init__(self, values: Iterable[Any] = ()) -> None:
        set.__init__(self)
        for value in values:
            with one_hash():
                set.add(self, value)
            _writes[0] += 1

    def add(self, value: Any) -> None:
        """Add an item: one hash and one write."""
        with one_hash():
            set.add(self, value)
        _writes[0] += 1
        _tell(self, "add", value)

    def update(self, *others: Iterable[Any]) -> None:
        """Add all items of others."""
        for other in others:
            for value in list(other) if other is self else other:
                self.add(value)

    def __ior__(self, other: Any) -> Any:  # type: ignore[misc]
        if not isinstance(other, (set, frozenset)):
            return NotImplemented
        self.update(other)
        return self

    def remove(self, value: Any) -> None:
        """Remove an item: one hash."""
        with one_hash():
            set.remove(self, value)
        _tell(self, "removal", value)

    def discard(self, value: Any) -> None:
        """Remove an item where it is there: one hash."""
        with one_hash():
            set.discard(self, value)
        _tell(self, "removal", value)

    def pop(self) -> Any:
        """Take any item out: one read."""
        value = set.pop(self)
        _reads[0] += 1
        _tell(self, "pop", value)
        return value

    def copy(self) -> Any:
        """A copy: every item is read, hashed and written."""
        return CountedSet(self)

    def __reduce_ex__(self, _: Any) -> Any:
        return set, (list(set.__iter__(self)),)


class CountedFrozenset(frozenset[Any]):
    """A frozenset that counts how it is made and looked at."""

    __slots__ = ()
    __iter__ = _going(frozenset)
    __contains__ = _looking(frozenset)

    def __new__(cls, values: Iterable[Any] = ()) -> Any:
        """Make one: a hash and a write for each item."""
        return frozenset.__new__(cls, CountedSet(values))

    def __reduce_ex__(self, _: Any) -> Any:
        return frozenset, (list(frozenset.__iter__(self)),)


def _joined(base: Any, name: str) -> Callable[..., Any]:
    """A union and the like: the items of both are read, those of the result written."""
    join = getattr(base, name)

    def joined(self: Any, *others: Any) -> Any:
        made = join(self, *others)
        if made is NotImplemented:
            return made
        _reads[0] += len(self) + sum(len(other) for other in others if hasattr(other, "__len__"))
        _writes[0] += len(made)
        if isinstance(made, frozenset):
            return frozenset.__new__(CountedFrozenset, made)
        result = CountedSet()
        set.update(result, made)
        return result

    return joined


_JOINS = ("__or__", "__and__", "__sub__", "__xor__", "union", "intersection", "difference", "symmetric_difference")
for _kind, _base in ((CountedSet, set), (CountedFrozenset, frozenset)):
    for _name in _JOINS:
        setattr(_kind, _name, _joined(_base, _name))
    for _name in SIGNS:
        setattr(_kind, _name, one_question(getattr(_base, _name), SIGNS[_name]))
    named_alike(_kind, _base)


def _keyed(base: Any) -> Any:
    """A counted kind of a dictionary."""
    get, put, delete = base.__getitem__, base.__setitem__, base.__delitem__

    class Keyed(base):  # type: ignore[misc]
        """A dictionary that counts what is done to it."""

        __contains__ = _looking(base)
        __iter__ = _going(base)
        __hash__ = None  # type: ignore[assignment]

        def __getitem__(self, key: Any) -> Any:
            with one_hash():
                value = get(self, key)
            _reads[0] += 1
            _tell(self, "read", key, value)
            return value

        def __setitem__(self, key: Any, value: Any) -> None:
            with one_hash():
                put(self, key, value)
            _writes[0] += 1
            _tell(self, "write", key, value)

        def __delitem__(self, key: Any) -> None:
            with one_hash():
                delete(self, key)
            _tell(self, "removal", key)

        def get(self, key: Any, otherwise: Any = None) -> Any:
            """The value of a key, where it is there."""
            with one_hash():
                value = base.get(self, key, ABSENT)
            if value is ABSENT:
                _tell(self, "look up", key)
                return otherwise
            _reads[0] += 1
            _tell(self, "read", key, value)
            return value

        def setdefault(self, key: Any, value: Any = None) -> Any:
            """The value of a key, which is put in where it is not there."""
            before = len(self)
            with one_hash():
                found = base.setdefault(self, key, value)
            is_there = len(self) == before
            _reads[0] += 1
            _writes[0] += not is_there
            _tell(self, "read" if is_there else "write", key, found)
            return found

        def pop(self, key: Any, *otherwise: Any) -> Any:
            """Take a key out."""
            with one_hash():
                value = base.pop(self, key, *otherwise)
            _reads[0] += 1
            _tell(self, "pop", key, value)
            return value

        def popitem(self, *given: Any, **last: Any) -> Any:
            """Take the last pair out."""
            pair = base.popitem(self, *given, **last)
            _reads[0] += 1
            _tell(self, "pop", *pair)
            return pair

        def keys(self) -> Any:
            """The keys: each is read as one goes through them."""
            return _View(base.keys(self), self)

        def values(self) -> Any:
            """The values: each is read as one goes through them."""
            return _View(base.values(self), self)

        def items(self) -> Any:
            """The pairs: each is read as one goes through them."""
            return _View(base.items(self), self)

        def __reduce_ex__(self, _: Any) -> Any:
            return dict, (dict(base.items(self)),)

    for name in ("__eq__", "__ne__"):
        setattr(Keyed, name, one_question(getattr(base, name), SIGNS[name]))
    return named_alike(Keyed, base)


class _View:
    """A view of a dictionary that counts how it is gone through; all else is the view's own."""

    __slots__ = ("of", "within")

    def __init__(self, of: Any, within: Any) -> None:
        self.of, self.within = of, within

    def __iter__(self) -> Iterator[Any]:
        for value in self.of:
            _reads[0] += 1
            _tell(self.within, "read", value)
            yield value

    def __reversed__(self) -> Iterator[Any]:
        for value in reversed(self.of):
            _reads[0] += 1
            yield value

    def __len__(self) -> int:
        return len(self.of)

    def __contains__(self, value: object) -> bool:
        return value in self.of

    def __getattr__(self, name: str) -> Any:
        return getattr(self.of, name)

    def __eq__(self, other: object) -> bool:
        return bool(self.of == (other.of if isinstance(other, _View) else other))

    def __ne__(self, other: object) -> bool:
        return not self == other

    def __hash__(self) -> int:
        return hash(self.of)

    def __repr__(self) -> str:
        return repr(self.of)


for _name in ("or", "and", "sub", "xor", "ror", "rand", "rsub", "rxor", "lt", "le", "gt", "ge"):

    def _passed(self: _View, other: Any, name: str = f"__{_name}__") -> Any:
        if type(other) is CountedSet:
            other = set(set.__iter__(other))  # of two equal items, views keep the one that they keep for a plain set
        return getattr(self.of, name)(other.of if isinstance(other, _View) else other)

    setattr(_View, f"__{_name}__", _passed)

_Dict = _keyed(dict)


class CountedDict(_Dict):  # type: ignore[misc,valid-type]
    """A dictionary that counts what is done to it."""

    __slots__ = ()

    def __init__(self, *given: Any, **named: Any) -> None:
        dict.__init__(self)
        self.update(*given, **named)

    def update(self, *given: Any, **named: Any) -> None:
        """Put pairs in: a hash and a write for each."""
        for key, value in dict(*given, **named).items():
            self[key] = value

    def __ior__(self, other: Any) -> Any:
        self.update(other)
        return self

    def __or__(self, other: Any) -> Any:
        if not isinstance(other, dict):
            return NotImplemented
        made = self.copy()
        made.update(other)
        return made

    def copy(self) -> Any:
        """A copy: every pair is read, hashed and written."""
        _reads[0] += len(self)
        return CountedDict(dict(dict.items(self)))

    @classmethod
    def fromkeys(cls, keys: Iterable[Any], value: Any = None) -> Any:
        """A dictionary of keys with one value."""
        made = cls()
        for key in keys:
            made[key] = value
        return made


named_alike(CountedDict, dict)
CountedDefault = _keyed(defaultdict)
CountedCounter = _keyed(Counter)
CountedOrdered = _keyed(OrderedDict)
