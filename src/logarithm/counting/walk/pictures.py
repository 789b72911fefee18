"""Picturing: variables as they are at one moment, as plain lists and texts that can be sent and drawn.

A state is a pair: what it is, and what is in it.

    ["cells", [text, …]]             a list, set, deque or array, place by place
    ["heap", [text, …]]              a list that is used as a heap: those below place i stand at 2 i + 1 and 2 i + 2
    ["letters", [text, …]]           a text, sign by sign
    ["rows", [[text, …], …]]         a grid: a list of lists
    ["pairs", [[key, value], …]]     a dictionary
    ["chain", [text, …]]             objects that are linked by one attribute
    ["tree", [text, [tree, …]]]      objects that are linked by several; null where one could be
    ["value", text]                  anything else

Nothing is counted here, and no code of the contender's is run.
"""

from __future__ import annotations

import types
from array import array
from collections import deque
from collections.abc import Callable
from typing import Any

from ..items.counted import STANDS_FOR
from ..items.values import plain
from .event import State

CELLS_MOST, LETTERS_MOST, LINKS_MOST = 200, 24, 40
LISTS = (list, deque, array, bytearray, set, frozenset)
IGNORED = (types.FunctionType, types.ModuleType, types.BuiltinFunctionType, type, types.GeneratorType, types.MethodType)


def state(value: Any) -> State | None:
    """A value as a state; None for what is no data, such as a function or an iterator."""
    kind = STANDS_FOR.get(type(value), type(value))
    if kind in LISTS:
        inside = _items(kind, value)
        if inside and kind is list and all(STANDS_FOR.get(type(each), type(each)) is list for each in inside):
            return ["rows", [[text(cell) for cell in list.__iter__(row)] for row in inside]]
        return ["cells", [text(each) for each in inside]]
    if kind in (str, bytes):
        whole = plain(value)
        if len(whole) < 2:
            return ["value", repr(whole)]
        if kind is bytes:
            return ["cells", [str(each) for each in whole[:CELLS_MOST]]]
        return ["letters", [*whole[:CELLS_MOST]]]
    if isinstance(value, dict):
        pairs = [[text(key), text(each)] for key, each in dict.items(value)]
        return ["pairs", pairs[:CELLS_MOST]]
    if isinstance(value, IGNORED) or hasattr(type(value), "__next__"):
        return None
    if kind is tuple or (not hasattr(value, "__dict__") and not _slots(value)):
        return ["value", text(value)]
    return _linked(value)


def is_small(found: State) -> bool:
    """Whether a state is a single value: a number, a flag."""
    return bool(found[0] == "value")


def text(value: Any, room: int = LETTERS_MOST) -> str:
    """A value in a few letters, as Python writes it."""
    kind = STANDS_FOR.get(type(value), type(value))
    if kind in LISTS or kind is tuple:
        inside = ", ".join(text(each) for each in _items(kind, value))
        ends = {list: "[]", tuple: "()", set: "{}"}.get(kind, "[]")
        made = f"{ends[0]}{inside}{',' if kind is tuple and inside and ',' not in inside else ''}{ends[1]}"
    elif isinstance(value, dict):
        made = "{" + ", ".join(f"{text(key)}: {text(each)}" for key, each in dict.items(value)) + "}"
    elif kind is float:
        made = repr(round(float(value), 3))
    elif kind in (int, str, bytes, bool, type(None), complex):
        made = repr(plain(value))
    elif hasattr(value, "__dict__") or _slots(value):
        made = f"{type(value).__name__}({_label(value)})"
    else:
        made = type(value).__name__
    return made if len(made) <= room else made[: room - 1] + "…"


def _items(kind: Any, value: Any) -> list[Any]:
    go: Callable[[Any], Any] = kind.__iter__
    found = []
    for each in go(value):
        found.append(each)
        if len(found) >= CELLS_MOST:
            break
    return sorted(found, key=repr) if kind in (set, frozenset) and not any(map(_is_odd, found)) else found


def _is_odd(value: Any) -> bool:
    return STANDS_FOR.get(type(value), type(value)) not in (int, float, str, bytes)


def _slots(value: Any) -> list[str]:
    return [name for kind in type(value).__mro__ for name in getattr(kind, "__slots__", ()) if hasattr(value, name)]


def parts_of(value: Any) -> dict[str, Any]:
    """The attributes of an object, as they stand in it."""
    return {**getattr(value, "__dict__", {}), **{name: getattr(value, name) for name in _slots(value)}}


def _links(value: Any) -> list[str]:
    """The attributes through which an object holds others of its own kind, or could."""
    parts = parts_of(value)
    return [name for name, part in parts.items() if type(part) is type(value)]


def _label(value: Any) -> str:
    """What an object holds beside its links, in a few letters."""
    parts = [part for part in parts_of(value).values() if type(part) is not type(value) and part is not None]
    return ", ".join(text(part, 12 if len(parts) == 1 else 8) for part in parts)


def _linked(value: Any) -> State:
    """An object with all that it is linked to."""
    names: list[str] = []
    waiting, seen = [value], {id(value)}
    empty = {name for name, part in parts_of(value).items() if part is None}
    while waiting and len(seen) < LINKS_MOST:
        each = waiting.pop()
        empty &= {name for name, part in parts_of(each).items() if part is None}
        for name in _links(each):
            if name not in names:
                names.append(name)
            other = parts_of(each)[name]
            if id(other) not in seen:
                seen.add(id(other))
                waiting.append(other)
    # One through which no other one is held may still be one that could.
    names = [name for name in parts_of(value) if name in empty or name in names]
    if not names:
        return ["value", text(value, 2 * LETTERS_MOST)]
    if len(names) == 1:
        chain: list[str] = []
        met: set[int] = set()
        at = value
        while type(at) is type(value) and id(at) not in met and len(chain) < LINKS_MOST:
            met.add(id(at))
            chain.append(_label(at))
            at = parts_of(at).get(names[0])
        return ["chain", chain + (["↺"] if id(at) in met else [])]
    return ["tree", _branches(value, names, set())]


def _branches(value: Any, names: list[str], met: set[int]) -> list[Any]:
    if id(value) in met or len(met) > LINKS_MOST:
        return ["↺", []]
    met.add(id(value))
    parts = parts_of(value)
    below = [parts.get(name) for name in names]
    if not any(type(each) is type(value) for each in below):
        return [_label(value), []]
    return [_label(value), [_branches(each, names, met) if type(each) is type(value) else None for each in below]]


def in_words(found: State) -> str:
    """A state in a line.

    >>> in_words(["cells", ["3", "1"]]), in_words(["chain", ["3", "1"]]), in_words(["tree", ["3", [["1", []], None]]])
    ('[3, 1]', '3 → 1', '3 (1 ·)')
    """
    kind, inside = found
    if kind in ("cells", "heap"):
        return "[" + ", ".join(inside) + "]"
    if kind == "letters":
        return repr("".join(inside))
    if kind == "rows":
        return "[" + ", ".join("[" + ", ".join(row) + "]" for row in inside) + "]"
    if kind == "pairs":
        return "{" + ", ".join(f"{key}: {value}" for key, value in inside) + "}"
    if kind == "tree":
        label, below = inside
        return f"{label} ({' '.join(in_words(['tree', each]) if each else '·' for each in below)})" if below else label
    return " → ".join(inside) if kind == "chain" else str(inside)
