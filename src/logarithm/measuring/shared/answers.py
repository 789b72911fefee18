"""Answers: written down by a worker in plain JSON values, and compared by the parent.

A worker's answer never comes back as a pickle, because reading a pickle can run code. What is no number, text
or collection is kept as its `repr`.
"""

from __future__ import annotations

import inspect
import math
import re
from typing import Any

LAZY = "lazy"
ITEMS_MOST = 200_000
LONG_BITS = 4096  # longer integers are written in base 16: in base 10 that takes long, and has a limit
_ADDRESS = re.compile(r" at 0x[0-9a-fA-F]+")


class TooLargeError(Exception):
    """An answer with too many parts to compare one by one."""


def is_lazy(answer: Any) -> bool:
    """Whether an answer only promises to compute: a generator, another iterator or an un-awaited coroutine."""
    if inspect.iscoroutine(answer) or inspect.isgenerator(answer) or inspect.isasyncgen(answer):
        return True
    return hasattr(answer, "__next__") and hasattr(answer, "__iter__") and not hasattr(answer, "read")


def written(answer: Any) -> Any:
    """The answer as a tagged JSON value.

    >>> written((1, 2.5, {"pier": None}))
    ['list', [1, 2.5, ['dict', [['pier', None]]]]]

    Raises:
        TooLargeError: with more than 200,000 parts.

    """
    return _written(answer, [0], 0)


def _written(answer: Any, count: list[int], depth: int) -> Any:
    count[0] += 1
    if count[0] > ITEMS_MOST or depth > 100:
        raise TooLargeError
    if answer is None or type(answer) in (bool, str):
        return answer
    if type(answer) is int:
        return answer if answer.bit_length() <= LONG_BITS else ["integer", hex(answer)]
    if type(answer) is float:
        return answer if math.isfinite(answer) else ["float", repr(answer)]
    if is_lazy(answer):
        return [LAZY, type(answer).__name__]
    if isinstance(answer, (list, tuple)):
        return ["list", [_written(item, count, depth + 1) for item in answer]]
    if isinstance(answer, (set, frozenset)):
        return ["set", sorted((_written(item, count, depth + 1) for item in answer), key=repr)]
    if isinstance(answer, dict):
        pairs = answer.items()
        return [
            "dict",
            [[_written(key, count, depth + 1), _written(value, count, depth + 1)] for key, value in pairs],
        ]
    if isinstance(answer, (bytes, bytearray)):
        return ["bytes", bytes(answer).hex()]
    # Scalars and arrays of numeric libraries know their plain counterpart, and so do `array` and `deque` as lists.
    for plain in ("tolist", "item"):
        if callable(getattr(answer, plain, None)):
            return _written(getattr(answer, plain)(), count, depth + 1)
    if hasattr(answer, "__iter__") and hasattr(answer, "__len__"):
        return ["list", [_written(item, count, depth + 1) for item in answer]]
    if isinstance(answer, (int, float)):
        return float(answer) if isinstance(answer, float) else int(answer)
    if hasattr(answer, "__dict__"):
        return [type(answer).__name__, _written(vars(answer), count, depth + 1)]
    return [type(answer).__name__, _ADDRESS.sub("", repr(answer))]


def unwritten(written: Any) -> Any:
    """The answer as a referee gets it: lists, sets, dictionaries, numbers and texts.

    >>> unwritten(written((1, {"pier": {2}})))
    [1, {'pier': {2}}]
    """
    if not isinstance(written, list):
        return written
    kind, value = written
    if kind == "list":
        return [unwritten(item) for item in value]
    if kind == "set":
        return {unwritten(item) for item in value}
    if kind == "dict":
        return {unwritten(key): unwritten(item) for key, item in value}
    if kind == "float":
        return float(value)
    if kind == "integer":
        return int(value, 16)
    return bytes.fromhex(value) if kind == "bytes" else value


def agree(one: Any, other: Any, within: float = 0.0, unordered: bool = False) -> bool:
    """Whether two written answers agree; numbers within a relative tolerance, lists in any order if `unordered`.

    >>> agree(1.0, 1.0 + 1e-12, within=1e-9), agree(["list", [1, 2]], ["list", [2, 1]], unordered=True)
    (True, True)
    """
    if isinstance(one, bool) or isinstance(other, bool):
        return one is other or (not isinstance(one, list) and not isinstance(other, list) and one == other)
    if isinstance(one, (int, float)) and isinstance(other, (int, float)):
        return one == other or (within > 0 and math.isclose(one, other, rel_tol=within, abs_tol=within * 1e-3))
    if not (isinstance(one, list) and isinstance(other, list)):
        return type(one) is type(other) and bool(one == other)
    if len(one) != 2 or len(other) != 2 or one[0] != other[0]:
        return False
    kind, left, right = one[0], one[1], other[1]
    if not isinstance(left, list) or not isinstance(right, list):
        return agree(left, right, within, unordered)
    if len(left) != len(right):
        return False
    if kind == "dict":
        left, right = (
            sorted(left, key=lambda pair: repr(pair[0])),
            sorted(right, key=lambda pair: repr(pair[0])),
        )
        return all(
            agree(a, c, within, unordered) and agree(b, d, within, unordered)
            for (a, b), (c, d) in zip(left, right, strict=True)
        )
    if kind == "list" and unordered:
        left, right = sorted(left, key=_rank), sorted(right, key=_rank)
    if kind in ("list", "set"):
        return all(agree(a, b, within, unordered) for a, b in zip(left, right, strict=True))
    # An object's attributes: [class, ["dict", …]].
    return agree(left, right, within, unordered)


def shown(answer: Any, limit: int = 100) -> str:
    """A written answer as Python would write it, shortened to at most `limit` characters.

    >>> shown(["list", [1, "buoy"]])
    "[1, 'buoy']"
    """
    text = _plain(answer)
    half = (limit - 3) // 2
    return text if len(text) <= limit else f"{text[:half]} … {text[-half:]}"


def _rank(answer: Any) -> tuple[int, Any]:
    """Sorts numbers by value, so that answers within a tolerance of each other meet, and the rest by text."""
    number = isinstance(answer, (int, float))
    return (0, answer) if number else (1, repr(answer))


def _plain(answer: Any) -> str:
    if not isinstance(answer, list):
        return repr(answer)
    kind, value = answer
    if kind == "list":
        return "[" + ", ".join(_plain(item) for item in value) + "]"
    if kind == "set":
        return "{" + ", ".join(_plain(item) for item in value) + "}"
    if kind == "dict":
        return "{" + ", ".join(f"{_plain(key)}: {_plain(item)}" for key, item in value) + "}"
    if kind == LAZY:
        return f"a {value} from which nothing was drawn"
    return (
        str(value)
        if kind in ("float", "bytes", "integer")
        else f"{kind} {_plain(value) if isinstance(value, list) else value}"
    )
