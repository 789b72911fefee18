"""What methods of lists, texts, sets, dictionaries, deques and patterns do: the second part of the table."""

from __future__ import annotations

import collections
import operator
import re
from array import array
from typing import Any

from ...notation.kinds import COMPARED, COPIED, HASHED, MOVED, SEARCHED, SIGNS, TOUCHED
from .entries import Entry, Sized, by_asking, matched, through, writing
from .kinds import did


def _sort(values: list[Any], /, *, key: Any = None, reverse: Any = False) -> None:
    did(COPIED, len(values))
    list.sort(values, key=by_asking(key), reverse=reverse)


def _place(values: Any, wanted: Any, *between: Any) -> int:
    """`index`: compares up to the place; all, where it is not there."""
    try:
        at = type(values).index(values, wanted, *between)
    except ValueError:
        did(COMPARED, len(values))
        raise
    did(COMPARED, at + 1 - (between[0] if between and 0 <= between[0] <= at else 0))
    return int(at)


def _remove(values: Any, wanted: Any) -> None:
    at = _place(values, wanted)
    did(MOVED, len(values) - at - 1)
    del values[at]


def _insert(values: Any, at: Any, value: Any) -> None:
    type(values).insert(values, at, value)
    place = operator.index(at)
    did(MOVED, max(len(values) - 1 - max(place if place >= 0 else place + len(values) - 1, 0), 0))


def _pop(values: Any, at: Any = -1) -> Any:
    found = type(values).pop(values, at)
    place = operator.index(at)
    did(MOVED, max(len(values) - (place if place >= 0 else place + len(values) + 1), 0))
    return found


def _rotate(values: Any, by: int = 1) -> None:
    did(MOVED, min(abs(by), len(values)))
    values.rotate(by)


def _join(between: Any, parts: Any) -> Any:
    made = type(between).join(between, through(parts))
    did(SIGNS, len(made))
    return made


def _copying(name: str, kind: str) -> Entry:
    def counted(values: Any, *more: Any) -> Any:
        did(kind, len(values))
        return getattr(type(values), name)(values, *more)

    return counted


def _adding(name: str, kind: str) -> Entry:
    """A method that goes through others, and takes them in."""

    def counted(values: Any, *others: Any, **named: Any) -> Any:
        return getattr(type(values), name)(values, *(through(each, kind) for each in others), **named)

    return counted


def _signs(name: str) -> Entry:
    return writing(lambda text, *more, **named: getattr(type(text), name)(text, *more, **named))


def _found(name: str, backwards: bool = False) -> Entry:
    """A search in a text: as far as the place that is found, all of it where nothing is."""

    def counted(text: Any, *more: Any) -> Any:
        found = getattr(type(text), name)(text, *more)
        reached = len(text) if not isinstance(found, int) or found < 0 else len(text) - found if backwards else found
        did(SEARCHED, reached)
        return found

    return counted


def _meeting(name: str) -> Entry:
    """Two sets: the smaller one is gone through where they meet, else both."""

    def counted(values: Any, *others: Any) -> Any:
        kept = [each if isinstance(each, Sized) else list(each) for each in others]
        smaller = name.startswith(("intersection", "isdisjoint")) and len(kept) == 1
        many = [len(values), *map(len, kept)]
        did(HASHED, min(many) if smaller else sum(many))
        return getattr(type(values), name)(values, *kept)

    return counted


_SET = {name: _meeting(name) for name in ("union", "intersection", "difference", "symmetric_difference", "isdisjoint")}
_SET |= {name: _meeting(name) for name in ("issubset", "issuperset", "intersection_update", "difference_update")}
_SET |= {"update": _adding("update", HASHED), "copy": _copying("copy", TOUCHED)}
_DICT = {"update": _adding("update", HASHED), "copy": _copying("copy", TOUCHED)}
_WRITTEN = (
    *("replace", "lower", "upper", "title", "strip", "lstrip", "rstrip", "translate", "zfill", "center", "ljust"),
    *("rjust", "encode", "decode", "swapcase", "capitalize", "casefold", "format", "expandtabs", "hex"),
)
_SPLIT = (
    "split",
    "rsplit",
    "splitlines",
    "partition",
    "rpartition",
    "isdigit",
    "isalpha",
    "isalnum",
    "isspace",
    "count",
)
_TEXT: dict[str, Entry] = {name: _signs(name) for name in _WRITTEN} | {"join": _join}
_TEXT |= {name: _copying(name, SEARCHED) for name in _SPLIT}
_TEXT |= {name: _found(name, backwards=name.startswith("r")) for name in ("find", "index", "rfind", "rindex")}
_LIST: dict[str, Entry] = {
    "sort": _sort,
    "index": _place,
    "count": _copying("count", COMPARED),
    "remove": _remove,
    "insert": _insert,
    "pop": _pop,
    "extend": _adding("extend", COPIED),
    "reverse": _copying("reverse", MOVED),
    "copy": _copying("copy", COPIED),
    "clear": _copying("clear", COPIED),
}
METHODS: dict[type, dict[str, Entry]] = {
    list: _LIST,
    tuple: {"index": _place, "count": _copying("count", COMPARED)},
    str: _TEXT,
    bytes: _TEXT,
    bytearray: _TEXT | {"extend": _adding("extend", SIGNS), "pop": _pop, "insert": _insert, "remove": _remove},
    set: _SET,
    frozenset: _SET,
    dict: _DICT,
    collections.deque: {
        name: _LIST[name] for name in ("index", "count", "remove", "insert", "extend", "reverse", "copy", "clear")
    }
    | {"rotate": _rotate, "extendleft": _adding("extendleft", COPIED)},
    array: {name: _LIST[name] for name in ("index", "count", "remove", "insert", "pop", "extend", "reverse")},
    re.Pattern: {
        name: matched(getattr(re.Pattern, name)) for name in ("match", "search", "fullmatch", "findall", "sub", "split")
    },
}
"""What is called on something, by its type."""
