"""Counted instances: what a family makes, with every container and value in it counted.

They are of subclasses of what they stand for, so that code under study need not be touched. Dictionaries, lists,
deques, sets, texts, numbers, arrays, objects and dataclasses are counted at any depth, also where they hold each other;
other things stay as they are.
"""

from __future__ import annotations

import copy
from array import array
from collections import Counter, OrderedDict, defaultdict, deque
from typing import Any

from ..tallies import OPERATIONS, QUICK
from .containers import CountedArray, CountedBytearray, CountedDeque, CountedList
from .keyed import CountedCounter, CountedDefault, CountedDict, CountedFrozenset, CountedOrdered, CountedSet
from .values import BASES, KINDS, CountedTuple, item
from .values import plain as plain_value

DEPTH_MOST = 200
STANDS_FOR: dict[type, type] = {
    **BASES,
    CountedList: list,
    CountedBytearray: bytearray,
    CountedArray: array,
    CountedDeque: deque,
    CountedSet: set,
    CountedFrozenset: frozenset,
    CountedDict: dict,
    CountedDefault: defaultdict,
    CountedCounter: Counter,
    CountedOrdered: OrderedDict,
}
"""What each counted kind stands for."""


def counted(instance: Any, containers: bool = True) -> Any:
    """An instance that counts.

    Args:
        instance: what a family made; it is not changed.
        containers: whether containers count too; where only comparisons are asked for, plain ones are quicker.

    >>> from logarithm.counting.tallies import counting
    >>> with counting() as found:
    ...     levels = counted([3, 1, 2])
    ...     best = max(levels)
    >>> found["comparisons"], found["reads"], found["writes"]
    (2, 3, 0)
    """
    before = {name: QUICK[name][0] for name in OPERATIONS}
    try:
        return _Wrapping(containers).of(instance)
    finally:
        # Making the instance is not the contender's work.
        for name, number in before.items():
            QUICK[name][0] = number


class _Wrapping:
    """One instance on its way; what is met again is the same again."""

    def __init__(self, containers: bool) -> None:
        self.containers = containers
        self.done: dict[int, Any] = {}
        self.kept: list[Any] = []

    def of(self, value: Any) -> Any:
        """The counted form of a value."""
        kind = type(value)
        if kind in KINDS and kind is not tuple:
            return item(value)
        if id(value) in self.done:
            return self.done[id(value)]
        make = _MAKERS.get(kind)
        if make is not None:
            return make(self, value)
        if is_named_tuple(kind):
            return self.remember(value, kind._make(map(self.of, value)))
        if hasattr(value, "__dict__") and not isinstance(value, type) and not callable(value) and _is_plain(kind):
            return self.object(value)
        return value

    def remember(self, value: Any, made: Any) -> Any:
        """Know a container again where it is met once more."""
        self.done[id(value)] = made
        self.kept.append(value)
        return made

    def object(self, value: Any) -> Any:
        """A plain object or dataclass with its attributes counted."""
        try:
            made = copy.copy(value)
        except Exception:  # what cannot be copied stays as it is
            return value
        self.remember(value, made)
        for name, part in vars(value).items():
            object.__setattr__(made, name, self.of(part))
        return made


def is_named_tuple(kind: type) -> bool:
    """Whether a class is a tuple whose parts have names."""
    return issubclass(kind, tuple) and hasattr(kind, "_make")


def _is_plain(kind: type) -> bool:
    """Whether a class is one of Python text, by which its attributes are all there is."""
    return kind.__module__ not in ("builtins", "random") and all(
        base is object or "__dict__" in vars(base) or base.__module__ == "typing" for base in kind.__mro__
    )


def _list(wrapping: _Wrapping, value: list[Any]) -> Any:
    made: list[Any] = CountedList() if wrapping.containers else []
    wrapping.remember(value, made)
    list.extend(made, [wrapping.of(each) for each in value])
    return made


def _tuple(wrapping: _Wrapping, value: tuple[Any, ...]) -> Any:
    return wrapping.remember(value, CountedTuple(map(wrapping.of, value)))


def _filled(kind: Any, base: Any) -> Any:
    def make(wrapping: _Wrapping, value: Any) -> Any:
        parts = [wrapping.of(each) for each in value]
        made = (kind if wrapping.containers else base)(parts)
        return wrapping.remember(value, made)

    return make


def _deque(wrapping: _Wrapping, value: deque[Any]) -> Any:
    made: deque[Any] = (CountedDeque if wrapping.containers else deque)((), value.maxlen)
    wrapping.remember(value, made)
    deque.extend(made, [wrapping.of(each) for each in value])
    return made


def _dictionary(kind: Any, base: Any) -> Any:
    def make(wrapping: _Wrapping, value: Any) -> Any:
        chosen = kind if wrapping.containers else base
        made = chosen(value.default_factory) if base is defaultdict else chosen()
        wrapping.remember(value, made)
        for key, each in value.items():
            base.__setitem__(made, wrapping.of(key), wrapping.of(each))
        return made

    return make


def _bytes(kind: Any) -> Any:
    def make(wrapping: _Wrapping, value: Any) -> Any:
        if not wrapping.containers:
            return copy.copy(value)
        return wrapping.remember(value, kind(value.typecode, value) if isinstance(value, array) else kind(value))

    return make


_MAKERS: dict[type, Any] = {
    list: _list,
    tuple: _tuple,
    set: _filled(CountedSet, set),
    frozenset: _filled(CountedFrozenset, frozenset),
    deque: _deque,
    dict: _dictionary(CountedDict, dict),
    defaultdict: _dictionary(CountedDefault, defaultdict),
    Counter: _dictionary(CountedCounter, Counter),
    OrderedDict: _dictionary(CountedOrdered, OrderedDict),
    bytearray: _bytes(CountedBytearray),
    array: _bytes(CountedArray),
}


def plain(value: Any, depth: int = 0) -> Any:
    """What a counted value stands for, with all that it holds; nothing is counted.

    >>> plain(counted({"pier": [(1, "a")]}))
    {'pier': [(1, 'a')]}
    """
    if depth > DEPTH_MOST:
        return value
    kind = STANDS_FOR.get(type(value), type(value))
    if kind is tuple:
        return tuple(plain(each, depth + 1) for each in tuple.__iter__(value))
    if is_named_tuple(kind):
        return kind._make(plain(each, depth + 1) for each in tuple.__iter__(value))  # type: ignore[attr-defined]
    if kind in (list, set, frozenset):
        return kind(plain(each, depth + 1) for each in kind.__iter__(value))
    if kind is deque:
        return deque((plain(each, depth + 1) for each in deque.__iter__(value)), value.maxlen)
    if isinstance(value, dict):
        return {plain(key, depth + 1): plain(each, depth + 1) for key, each in dict.items(value)}
    if kind is array:
        return array(value.typecode, array.tobytes(value))
    return bytearray(value) if kind is bytearray else plain_value(value)
