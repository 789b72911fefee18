"""What an instance looks like, in plain words, where it can be told."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

from .keeps import longest

NEARLY = 0.1  # so small a share of steps may go the other way
VALUES_FEW = 4  # values, in a long sequence


def looks(instance: Any) -> str:
    """What an instance looks like: "rising", "falling", "equal" …; empty where no such word fits.

    >>> looks([1, 2, 3, 4, 5]), looks([5, 5, 5, 5]), looks("aaaab"), looks([3, 1, 4, 1, 5, 9, 2])
    ('rising', 'equal', 'equal but for the last', '')
    """
    items = longest(instance)
    if len(items) < 3:
        return ""
    try:
        steps = [(other > one) - (other < one) for one, other in pairwise(items)]
        values = len(set(map(repr, items)))
    except TypeError:
        return ""
    if values == 1:
        return "equal"
    if values == 2:
        if all(steps):
            return "two values in turn"
        changes = [at for at, step in enumerate(steps) if step]
        if changes == [len(steps) - 1]:
            return "equal but for the last"
        if changes == [0]:
            return "equal but for the first"
        if len(changes) == 1:
            return "one value, then another"
    if all(step >= 0 for step in steps):
        return "rising" if all(steps) else "rising, with equal ones"
    if all(step <= 0 for step in steps):
        return "falling" if all(steps) else "falling, with equal ones"
    turns = [at for at, (one, other) in enumerate(pairwise(steps)) if one != other]
    if len(turns) == 1:
        return "rising, then falling" if steps[0] > 0 else "falling, then rising"
    for sign, word in ((-1, "nearly rising"), (1, "nearly falling")):
        if sum(step == sign for step in steps) <= max(1, NEARLY * len(steps)):
            return word
    if steps and all(one == -other for one, other in pairwise(steps)):
        return "up and down in turn"
    return f"{values} values, repeated" if values <= VALUES_FEW < len(items) // 2 else ""
