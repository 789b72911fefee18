"""Values written down as tagged JSON, and read back: what passes between processes, and stands in files.

Nothing is ever pickled, because reading a pickle can run code. Numbers, texts and nothing stand for themselves; all
else is `[kind, inside]`: a list, tuple, set, frozenset, dict, bytes, bytearray, float that is not finite, or integer
that is long. Where a value need not come back, an object is `[class, its attributes]` or `[class, its repr]`.
"""

from __future__ import annotations

import inspect
import math
import re
from typing import Any

LAZY = "lazy"
ITEMS_MOST, NESTED_MOST = 200_000, 100
LONG_BITS = 4096  # longer integers are written in base 16: in base 10 that takes long, and has a limit
COLLECTIONS = {"list": list, "tuple": tuple, "set": set, "frozenset": frozenset}
_ADDRESS = re.compile(r" at 0x[0-9a-fA-F]+")


class TooLargeError(Exception):
    """A value with too many parts to be written down one by one."""


def is_lazy(answer: Any) -> bool:
    """Whether an answer only promises to compute: a generator, another iterator or an un-awaited coroutine."""
    if inspect.iscoroutine(answer) or inspect.isgenerator(answer) or inspect.isasyncgen(answer):
        return True
    return hasattr(answer, "__next__") and hasattr(answer, "__iter__") and not hasattr(answer, "read")


def encoded(value: Any) -> Any:
    """A value that `decoded` gives back as it is: numbers, texts, bytes and collections of them.

    >>> decoded(encoded(([1, 2.5], {"pier": None})))
    ([1, 2.5], {'pier': None})

    Raises:
        ValueError: where it is made of anything else.
        TooLargeError: with more than 200,000 parts.
    """
    return _encoded(value, [0], 0, True)


def described(value: Any, most: int = ITEMS_MOST) -> Any:
    """Any value, as far as it can be compared: collections are of four kinds, objects are what they hold.

    >>> described((1, 2.5, {"pier": None}))
    ['tuple', [1, 2.5, ['dict', [['pier', None]]]]]

    Raises:
        TooLargeError: with more than so many parts, 200,000 at most.
    """
    return _encoded(value, [ITEMS_MOST - most], 0, False)


def _encoded(value: Any, count: list[int], depth: int, exactly: bool) -> Any:
    count[0] += 1
    if (count[0] > ITEMS_MOST and not exactly) or depth > NESTED_MOST:
        raise TooLargeError
    kind = type(value)
    if value is None or kind in (bool, str):
        return value
    if kind is int:
        return value if value.bit_length() <= LONG_BITS else ["integer", hex(value)]
    if kind is float:
        return value if math.isfinite(value) else ["float", repr(value)]

    def inside(items: Any) -> list[Any]:
        return [_encoded(item, count, depth + 1, exactly) for item in items]

    if kind in (bytes, bytearray):
        return [kind.__name__ if exactly else "bytes", value.hex()]
    if kind in (list, tuple):
        return [kind.__name__, inside(value)]
    if kind in (set, frozenset):
        return [kind.__name__ if exactly else "set", sorted(inside(value), key=repr)]
    if kind is dict:
        return ["dict", [inside(pair) for pair in value.items()]]
    if exactly:
        raise ValueError(f"a {kind.__name__} cannot be written down")
    return _object(value, count, depth, inside)


def _object(value: Any, count: list[int], depth: int, inside: Any) -> Any:
    """What an object of no plain type holds, as far as it can be told."""
    if is_lazy(value):
        return [LAZY, type(value).__name__]
    if isinstance(value, list | tuple):
        return ["list" if isinstance(value, list) else "tuple", inside(value)]
    if isinstance(value, set | frozenset):
        return ["set", sorted(inside(value), key=repr)]
    if isinstance(value, dict):
        return ["dict", [inside(pair) for pair in value.items()]]
    # Scalars and arrays of numeric libraries know their plain counterpart, and so do `array` and `deque` as lists.
    for plain in ("tolist", "item"):
        if callable(getattr(value, plain, None)):
            return _encoded(getattr(value, plain)(), count, depth + 1, False)
    if hasattr(value, "__iter__") and hasattr(value, "__len__"):
        return ["list", inside(value)]
    if isinstance(value, int | float):
        return float(value) if isinstance(value, float) else int(value)
    if hasattr(value, "__dict__"):
        return [type(value).__name__, _encoded(vars(value), count, depth + 1, False)]
    return [type(value).__name__, _ADDRESS.sub("", repr(value))]


def decoded(written: Any) -> Any:
    """The value that was written down; of an object, what was written of it.

    Raises:
        TypeError: where it has parts that Python cannot put into a set.
    """
    if not isinstance(written, list):
        return written
    kind, value = written
    if kind in COLLECTIONS:
        return COLLECTIONS[kind](map(decoded, value))
    if kind == "dict":
        return {decoded(key): decoded(item) for key, item in value}
    if kind in ("bytes", "bytearray"):
        raw = bytes.fromhex(value)
        return raw if kind == "bytes" else bytearray(raw)
    if kind == "float":
        return float(value)
    return int(value, 16) if kind == "integer" else value
