"""Shrinking: from an instance on which an answer is wrong to a smaller one on which it still is.

The list is cut in halves, quarters and so on, and what can be left out is left out: the minimizing delta debugging of
Zeller and Hildebrandt, IEEE Transactions on Software Engineering 28 (2002), 183-200. Then values are made plainer.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

TRIES_MOST = 300


def shrunk(instance: Any, is_wrong: Callable[[Any], bool]) -> Any:
    """A smaller instance on which the answer is still wrong.

    Args:
        instance: one on which it is; only lists, alone or as the first part of a tuple, are made smaller.
        is_wrong: whether the answer to an instance is wrong; false for instances on which nobody can tell.

    >>> shrunk([5, 1, 7, 2, 9, 3], lambda levels: 7 in levels)
    [7]
    """
    tries = [0]

    def wrong(candidate: Any) -> bool:
        tries[0] += 1
        return tries[0] <= TRIES_MOST and is_wrong(candidate)

    if isinstance(instance, tuple) and instance and isinstance(instance[0], list):
        rest = instance[1:]
        return (_smaller(instance[0], lambda items: wrong((items, *rest))), *rest)
    return _smaller(instance, wrong) if isinstance(instance, list) else instance


def _smaller(items: list[Any], wrong: Callable[[list[Any]], bool]) -> list[Any]:
    chunk = max(len(items) // 2, 1)
    while items:
        at, shorter = 0, False
        while at < len(items):
            candidate = items[:at] + items[at + chunk :]
            if candidate and wrong(candidate):
                items, shorter = candidate, True
            else:
                at += chunk
        if chunk == 1 and not shorter:
            break
        chunk = max(chunk // 2, 1) if not shorter or chunk > 1 else 1
    for at, item in enumerate(items):
        for plainer in _plainer(item):
            candidate = [*items[:at], plainer, *items[at + 1 :]]
            if wrong(candidate):
                items = candidate
                break
    return items


def _plainer(item: Any) -> list[Any]:
    """Plainer values to try in place of one, the plainest first."""
    if isinstance(item, bool) or not isinstance(item, (int, float)):
        return []
    tried = [0, 1, round(item), round(item, 1) if isinstance(item, float) else item]
    return [value for value in dict.fromkeys(tried) if value != item]
