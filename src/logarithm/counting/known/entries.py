"""What entries of the table of known operations are made of: ways to count what one goes through, writes or asks."""

from __future__ import annotations

import collections
from array import array
from collections.abc import Callable, Iterator
from typing import Any

from ...notation.kinds import COMPARED, PARTED, SEARCHED, SIGNS, TOUCHED
from .kinds import did, did_unknown

Entry = Callable[..., Any]
Sized = (list, tuple, set, frozenset, dict, str, bytes, bytearray, range, collections.deque, array)
TEXTS = (str, bytes, bytearray)
PARTS = (tuple, list, *TEXTS)
DIGIT = 30  # bits of a digit of a long number
WORD = 62  # bits up to which a number is a single one


class Asked:
    """An item whose comparisons are counted, as `sort`, `min` and a heap ask them."""

    __slots__ = ("of",)

    def __init__(self, of: Any) -> None:
        self.of = of

    def __lt__(self, other: Asked) -> Any:
        did(PARTED if isinstance(self.of, PARTS) else COMPARED, 1)
        return self.of < other.of

    def __gt__(self, other: Asked) -> Any:
        did(PARTED if isinstance(self.of, PARTS) else COMPARED, 1)
        return self.of > other.of

    def __eq__(self, other: object) -> Any:
        return isinstance(other, Asked) and self.of == other.of

    __hash__ = None  # type: ignore[assignment]


def through(values: Any, kind: str = TOUCHED) -> Any:
    """What can be gone through, with each item counted that is taken out of it."""
    if isinstance(values, Sized):
        did(kind, len(values))
        return values
    return _taken(iter(values), kind)


def _taken(values: Iterator[Any], kind: str) -> Iterator[Any]:
    for value in values:
        did(kind, 1)
        yield value


def digits(*numbers: Any) -> list[int]:
    """How many digits of thirty bits long numbers have; of others, and of short ones, 1."""
    return [number.bit_length() // DIGIT + 1 if type(number) is int else 1 for number in numbers]


def by_asking(key: Any) -> Callable[[Any], Asked]:
    """The key by which values, or what a key makes of them, are compared and counted."""
    return Asked if key is None else lambda value: Asked(key(value))


def going(function: Entry, kind: str = TOUCHED) -> Entry:
    """An operation that goes through what it is given first."""

    def counted(*given: Any, **named: Any) -> Any:
        return function(*(through(each, kind) for each in given[:1]), *given[1:], **named)

    return counted


def writing(function: Entry, kind: str = SIGNS) -> Entry:
    """An operation that writes what it returns."""

    def counted(*given: Any, **named: Any) -> Any:
        made = function(*given, **named)
        did(kind, len(made) if hasattr(made, "__len__") else 1)
        return made

    return counted


def reading(function: Entry, kind: str = SEARCHED, at: int = 0) -> Entry:
    """An operation that reads all of one of the things it is given."""

    def counted(*given: Any, **named: Any) -> Any:
        if len(given) > at and hasattr(given[at], "__len__"):
            did(kind, len(given[at]))
        return function(*given, **named)

    return counted


def matched(function: Entry) -> Entry:
    """A pattern over a text: a step for each sign, if it does not go back, which nobody knows."""

    def counted(*given: Any, **named: Any) -> Any:
        did_unknown("a pattern")
        for part in given[-2:]:
            if isinstance(part, TEXTS):
                did(SEARCHED, 5 * len(part))
                break
        return function(*given, **named)

    return counted
