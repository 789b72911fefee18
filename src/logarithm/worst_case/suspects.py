"""The usual suspects: instances that are known to make much work, made from a typical one."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial
from typing import Any

from .pieces import in_order, rebuilt

Pattern = Callable[[list[Any]], list[Any]]


def _pipe(items: list[Any]) -> list[Any]:
    return items[::2] + items[1::2][::-1]


def _valley(items: list[Any]) -> list[Any]:
    return items[::-2][: (len(items) + 1) // 2] + items[len(items) % 2 :: 2]


def _both_ends(items: list[Any]) -> list[Any]:
    back = items[::-1]
    return [items[at // 2] if at % 2 == 0 else back[at // 2] for at in range(len(items))]


def _nearly(items: list[Any]) -> list[Any]:
    made = list(items)
    if len(made) > 3:
        made[1], made[-2] = made[-2], made[1]
    return made


ORDERS: dict[str, Pattern] = {
    "rising": list,
    "falling": lambda items: items[::-1],
    "rising, then falling": _pipe,
    "falling, then rising": _valley,
    "in turn from both ends": _both_ends,
    "nearly rising": _nearly,
    "the largest first, the rest rising": lambda items: items[-1:] + items[:-1],
    "the smallest last, the rest rising": lambda items: items[1:] + items[:1],
}
"""Orders of sorted items."""

VALUES: dict[str, Pattern] = {
    "equal": lambda items: [items[len(items) // 2]] * len(items),
    "equal but for the last": lambda items: [items[0]] * (len(items) - 1) + [items[-1]],
    "equal but for the first": lambda items: [items[-1]] + [items[0]] * (len(items) - 1),
    "two values in turn": lambda items: [(items[0], items[-1])[at % 2] for at in range(len(items))],
    "each value twice": lambda items: [items[at // 2] for at in range(len(items))],
}
"""What becomes of sorted items whose values may change."""

NUMBERS: dict[str, Callable[[int], int]] = {
    "multiples of 64": lambda at: 64 * at,
    "multiples of 1024": lambda at: 1024 * at,
    "multiples of 2²⁰": lambda at: at << 20,
    "powers of two": lambda at: 1 << min(at, 200),
}
"""Whole numbers by their place."""


def suspects(typical: Any, order_only: bool = False) -> Iterator[tuple[str, Any]]:
    """Instances with their names, each made from a typical instance: all of its longer sequences are given a pattern.

    >>> dict(suspects([2, 1, 3]))["falling"]
    [3, 2, 1]
    """
    patterns = ORDERS if order_only else {**ORDERS, **VALUES}
    for name, pattern in patterns.items():
        made = _with(typical, partial(_ordered, pattern=pattern))
        if made is not None:
            yield name, made
    if order_only:
        return
    for name, number in NUMBERS.items():
        made = _with(typical, partial(_numbered, number=number))
        if made is not None:
            yield name, made


def _with(instance: Any, pattern: Pattern) -> Any:
    """The instance with every longer sequence in it given a pattern; None where there is none."""
    if isinstance(instance, list | str | bytes | bytearray):
        return rebuilt(instance, pattern(list(instance))) if len(instance) > 1 else None
    if isinstance(instance, tuple):
        parts = [_with(each, pattern) for each in instance]
        if all(part is None for part in parts):
            return None
        return tuple(each if part is None else part for each, part in zip(instance, parts, strict=True))
    if isinstance(instance, dict) and len(instance) > 1:
        keys = pattern(list(instance))
        return {key: instance[key] for key in keys} if set(keys) == set(instance) else None
    return None


def _ordered(items: list[Any], pattern: Pattern) -> list[Any]:
    return pattern(in_order(items))


def _numbered(items: list[Any], number: Callable[[int], int]) -> list[Any]:
    """Whole numbers by their place, for items that are such; others stay."""
    if not all(type(each) is int for each in items):
        return items
    return [number(at) for at in range(len(items))]
