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
SEQUENCES = {"list", "tuple"}  # which agree with each other
ITEMS_MOST = 200_000
MATCHED_MOST = 500  # items that are matched one by one where sorting does not bring them together
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
    ['tuple', [1, 2.5, ['dict', [['pier', None]]]]]

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
        kind = "list" if isinstance(answer, list) else "tuple"
        return [kind, [_written(item, count, depth + 1) for item in answer]]
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
    """The answer as a referee gets it: lists, tuples, sets, dictionaries, numbers and texts.

    >>> unwritten(written((1, {"pier": {2}})))
    (1, {'pier': {2}})

    Raises:
        TypeError: where it has parts that Python cannot put into a set.
    """
    if not isinstance(written, list):
        return written
    kind, value = written
    if kind in SEQUENCES:
        made = [unwritten(item) for item in value]
        return made if kind == "list" else tuple(made)
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
    if len(one) != 2 or len(other) != 2 or (one[0] != other[0] and not {one[0], other[0]} <= SEQUENCES):
        return False
    kind, left, right = one[0], one[1], other[1]
    if not isinstance(left, list) or not isinstance(right, list):
        return agree(left, right, within, unordered)
    if len(left) != len(right):
        return False
    if kind == "set" or (kind in SEQUENCES and unordered):
        return _matched(left, right, within, unordered)
    if kind == "dict":
        return _matched([["list", pair] for pair in left], [["list", pair] for pair in right], within, False)
    if kind in SEQUENCES:
        return all(agree(a, b, within, unordered) for a, b in zip(left, right, strict=True))
    # An object's attributes: [class, ["dict", …]].
    return agree(left, right, within, unordered)


def _matched(left: list[Any], right: list[Any], within: float, unordered: bool) -> bool:
    """Whether the items of two collections agree in some order."""
    left, right = sorted(left, key=_rank), sorted(right, key=_rank)
    if all(agree(a, b, within, unordered) for a, b in zip(left, right, strict=True)):
        return True
    if within == 0.0 or len(left) > MATCHED_MOST:
        return False
    # Numbers within the tolerance of each other may stand in either order.
    for item in left:
        found = next((at for at, other in enumerate(right) if agree(item, other, within, unordered)), None)
        if found is None:
            return False
        del right[found]
    return True


def has_nan(answer: Any) -> bool:
    """Whether a written answer holds a number that is none, which no comparison tells from a right one.

    >>> has_nan(written([1, {"pier": float("nan")}])), has_nan(written(["nan"]))
    (True, False)
    """
    if not isinstance(answer, list):
        return False
    return answer == ["float", "nan"] or any(has_nan(part) for part in answer)


def shown(answer: Any, limit: int = 100) -> str:
    """A written answer as Python would write it, shortened to at most `limit` characters.

    >>> shown(["list", [1, "buoy"]])
    "[1, 'buoy']"
    """
    text = _plain(answer)
    half = (limit - 3) // 2
    return text if len(text) <= limit else f"{text[:half]} … {text[-half:]}"


def _rank(answer: Any) -> tuple[int, Any]:
    """Sorts numbers by value, also within collections, so that answers within a tolerance meet; the rest by text."""
    if isinstance(answer, (int, float)):
        return 0, answer
    if isinstance(answer, list) and len(answer) == 2 and answer[0] in SEQUENCES:
        return 1, [_rank(item) for item in answer[1]]
    return 2, repr(answer)


def _plain(answer: Any) -> str:
    if not isinstance(answer, list):
        return repr(answer)
    kind, value = answer
    if kind == "list":
        return "[" + ", ".join(_plain(item) for item in value) + "]"
    if kind == "tuple":
        return "(" + ", ".join(_plain(item) for item in value) + (",)" if len(value) == 1 else ")")
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
