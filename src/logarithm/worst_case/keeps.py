"""What an instance must keep to: ready checks for `@study.family(keeps=…)`.

Each takes an instance, or the longest sequence in it, and says whether it is allowed.
"""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise
from typing import Any

Check = Callable[[Any], bool]


def permutation(instance: Any) -> bool:
    """Whether it holds each of the whole numbers 0 to n - 1 once."""
    items = longest(instance)
    return sorted(items, key=lambda each: (not isinstance(each, int), each if isinstance(each, int) else 0)) == list(
        range(len(items))
    )


def rising(instance: Any) -> bool:
    """Whether no item is less than the one before it."""
    return all(not other < one for one, other in pairwise(longest(instance)))


def distinct(instance: Any) -> bool:
    """Whether no item is there twice."""
    items = longest(instance)
    try:
        return len(set(items)) == len(items)
    except TypeError:
        return all(one != other for at, one in enumerate(items) for other in items[:at])


def longest(instance: Any) -> list[Any]:
    """The items of the longest sequence in an instance.

    >>> longest(([3, 1], 7))
    [3, 1]
    """
    if isinstance(instance, list | str | bytes | bytearray):
        return list(instance)
    if isinstance(instance, tuple):
        return max((longest(each) for each in instance), key=len, default=[])
    return list(instance) if isinstance(instance, dict | set | frozenset) else []


ORDERED: tuple[Check, ...] = (permutation,)
"""Checks that only another order of the same items can pass."""
