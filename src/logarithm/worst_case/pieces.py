"""Pieces of an instance: its items in order, and items made into a sequence of its kind again."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any


def in_order(items: list[Any]) -> list[Any]:
    """The items in rising order; as they are where they have none.

    >>> in_order([2, 1]), in_order([2, "one"])
    ([1, 2], [2, 'one'])
    """
    try:
        return sorted(items)
    except TypeError:
        return items


def rebuilt(like: Any, items: Iterable[Any]) -> Any:
    """A text, bytes or a list of some items, of the kind and at most the length of another.

    >>> rebuilt("abc", ["b", "a", "cd"]), rebuilt(b"ab", [98, 300]), rebuilt([1, 2], (2, 1))
    ('bac', b'b,', [2, 1])
    """
    if isinstance(like, str):
        return "".join(map(str, items))[: len(like)]
    if isinstance(like, bytes | bytearray):
        return type(like)(each % 256 for each in items)
    return list(items)
