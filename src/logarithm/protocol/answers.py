"""Answers of contenders, written down as data: whether they agree, and how they are shown."""

from __future__ import annotations

import math
from typing import Any

from ..notation.encoding import COLLECTIONS, LAZY, described

SEQUENCES = {"list", "tuple"}  # which agree with each other
MATCHED_MOST = 500  # items that are matched one by one where sorting does not bring them together


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


def in_one_form(answer: Any) -> Any:
    """A written answer as we would have written it: whoever wrote it may have written it otherwise.

    >>> in_one_form(["float", "-NAN"]), in_one_form(["integer", "0x5"]), in_one_form(["frozenset", [2, 1]])
    (['float', 'nan'], 5, ['set', [1, 2]])

    Raises:
        ValueError: where it is none.
    """
    if answer is None or isinstance(answer, bool | int | float | str):
        return answer
    if not (isinstance(answer, list) and len(answer) == 2 and isinstance(answer[0], str)):
        raise ValueError("this is no written answer")
    kind, value = answer
    if kind in ("float", "integer"):
        if not isinstance(value, str):
            raise ValueError("a number is written as a text")
        return described(float(value) if kind == "float" else int(value, 16))
    if kind in COLLECTIONS:
        items = [in_one_form(item) for item in _listed(value)]
        is_set = kind in ("set", "frozenset")
        return ["set", sorted(items, key=repr)] if is_set else [kind, items]
    if kind == "dict":
        pairs = [_listed(pair) for pair in _listed(value)]
        if any(len(pair) != 2 for pair in pairs):
            raise ValueError("a dict has pairs")
        return ["dict", [[in_one_form(part) for part in pair] for pair in pairs]]
    if kind in ("bytes", "bytearray"):
        return ["bytes", bytes.fromhex(str(value)).hex()]
    # What an object holds, or its name.
    return [kind, in_one_form(value)]


def _listed(value: Any) -> list[Any]:
    if not isinstance(value, list):
        raise ValueError("a collection has a list of items")
    return value


def has_nan(answer: Any) -> bool:
    """Whether a written answer holds a number that is none, which no comparison tells from a right one.

    >>> has_nan(["list", [["float", "nan"]]]), has_nan(["list", ["nan"]])
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
