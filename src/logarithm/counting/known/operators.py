"""What operators, comparisons, parts and removals do with so many items: the third part of the table."""

from __future__ import annotations

import collections
from array import array
from typing import Any

from ...notation.kinds import COMPARED, COPIED, DIGITS, HASHED, MOVED, SEARCHED, SIGNS
from .entries import TEXTS, WORD, Sized, digits
from .kinds import did


def _alike(one: Any, other: Any) -> int:
    """How many pairs of items are compared until two differ."""
    if isinstance(one, TEXTS):
        short = min(len(one), len(other))
        if one[:short] == other[:short]:
            return short + 1
        low, high = 0, short
        while high - low > 1:
            middle = (low + high) // 2
            low, high = (middle, high) if one[:middle] == other[:middle] else (low, middle)
        return high
    many = 0
    for many, (first, second) in enumerate(zip(one, other, strict=False), start=1):
        if first is not second and first != second:
            return many
    return many + 1


def compare(sign: str, one: Any, other: Any) -> None:
    """Count what a comparison of two values asks."""
    kind = type(one)
    if sign in ("in", "not in"):
        return _contains(one, other)
    if kind is not type(other) or kind not in (list, tuple, str, bytes, bytearray, set, frozenset, dict):
        return None
    if kind in (set, frozenset, dict):
        return did(HASHED, min(len(one), len(other)))
    if sign in ("==", "!=") and len(one) != len(other):
        return None
    return did(SIGNS if kind in TEXTS else COMPARED, _alike(one, other))


def _contains(wanted: Any, values: Any) -> None:
    kind = type(values)
    if kind in (list, tuple, collections.deque, array):
        try:
            did(COMPARED, values.index(wanted) + 1)
        except ValueError:
            did(COMPARED, len(values))
    elif kind in TEXTS:
        at = values.find(wanted) if isinstance(wanted, TEXTS) else -1
        did(SEARCHED, len(values) if at < 0 else at + 1)
    elif kind in (set, frozenset, dict):
        did(HASHED, 1)
        if isinstance(wanted, (str, bytes, tuple)):
            did(SIGNS, len(wanted))


def operate(sign: str, one: Any, other: Any, made: Any) -> None:
    """Count what an operator did with two values."""
    kind = type(one)
    if kind is int:
        if type(made) is int and (made.bit_length() > WORD or one.bit_length() > WORD):
            _long(sign, one, other, made)
        elif sign == "*" and isinstance(made, Sized):
            did(SIGNS if isinstance(made, TEXTS) else COPIED, len(made))
    elif kind in (list, tuple, str, bytes, bytearray) and type(made) in (list, tuple, *TEXTS):
        did(SIGNS if isinstance(made, TEXTS) else COPIED, len(made))
    elif kind in (set, frozenset, dict) and hasattr(other, "__len__"):
        did(HASHED, min(len(one), len(other)) if sign == "&" else len(one) + (len(other) if sign in "|^" else 0))


def _long(sign: str, one: int, other: Any, made: int) -> None:
    """Long numbers: sums take their digits, products those of one times those of the other, or less from 70 on."""
    first, second, result = digits(one, other, made)
    if sign == "*":
        short, long = sorted((first, second))
        did(DIGITS, long * short if short < 70 else long / short * (short / 70) ** 1.585 * 4900)
    elif sign in ("//", "%"):
        did(DIGITS, max(first - second + 1, 1) * second)
    elif sign == "**":
        did(DIGITS, result * result if result < 70 else (result / 70) ** 1.585 * 4900)
    else:
        did(DIGITS, max(first, second, result))


def part(values: Any, made: Any) -> None:
    """Count what was copied where a part was taken."""
    if type(values) in (list, tuple, str, bytes, bytearray, array):
        did(SIGNS if isinstance(values, TEXTS) else COPIED, len(made))


def shifted(values: Any, before: int, first: int) -> None:
    """Count the items that were moved where some were put in or taken out at a place."""
    if isinstance(values, (list, bytearray, array)) and len(values) != before:
        did(MOVED, max(len(values) - first, 0))
