"""Instances written down as JSON, and read back: numbers, texts, bytes, lists, tuples, sets, dictionaries, nested."""

from __future__ import annotations

import math
from typing import Any


def encoded(instance: Any) -> Any:
    """An instance as a tagged JSON value that `decoded` reads back: numbers, texts, bytes and collections of them.

    >>> decoded(encoded(([1, 2.5], {"pier": None})))
    ([1, 2.5], {'pier': None})

    Raises:
        ValueError: where it is made of anything else.
    """
    if type(instance) is float and not math.isfinite(instance):
        return ["float", repr(instance)]
    if instance is None or type(instance) in (bool, int, float, str):
        return instance
    if type(instance) in (bytes, bytearray):
        return [type(instance).__name__, instance.hex()]
    if type(instance) in (set, frozenset):
        return [type(instance).__name__, [encoded(item) for item in sorted(instance, key=repr)]]
    if type(instance) in (list, tuple):
        return [type(instance).__name__, [encoded(item) for item in instance]]
    if type(instance) is dict:
        return ["dict", [[encoded(key), encoded(value)] for key, value in instance.items()]]
    raise ValueError(f"a {type(instance).__name__} cannot be written down")


def decoded(written: Any) -> Any:
    """The instance that was written down by `encoded`."""
    if not isinstance(written, list):
        return written
    kind, items = written
    if kind == "dict":
        return {decoded(key): decoded(value) for key, value in items}
    if kind == "float":
        return float(items)
    if kind in ("bytes", "bytearray"):
        raw = bytes.fromhex(items)
        return raw if kind == "bytes" else bytearray(raw)
    made = [decoded(item) for item in items]
    return {"tuple": tuple, "set": set, "frozenset": frozenset}.get(kind, list)(made)
