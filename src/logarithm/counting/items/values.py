"""Counted values: numbers, texts, bytes and tuples that count when they are compared or hashed.

They are subclasses of what they stand for, and what is computed from them is counted again: sums, negatives, parts of
texts, conversions. A tuple is one item, whatever is inside it: comparing two is one comparison.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from ..tallies import COMPARISONS, HASHES, QUICK, READS, WRITES
from .questions import one_question
from .watching import TOLD

SIGNS = {"__lt__": "<", "__le__": "<=", "__gt__": ">", "__ge__": ">=", "__eq__": "==", "__ne__": "!="}
BINARY = ("add", "sub", "mul", "truediv", "floordiv", "mod", "pow", "and", "or", "xor", "lshift", "rshift", "divmod")
UNARY = ("neg", "pos", "abs", "invert", "round", "trunc", "floor", "ceil")
NUMBER = (
    *(f"__{name}__" for name in (*BINARY, *UNARY)),
    *(f"__r{name}__" for name in BINARY),
    "conjugate",
)
TEXT = (
    *(
        "__add__",
        "__mul__",
        "__rmul__",
        "__mod__",
        "capitalize",
        "casefold",
        "center",
        "encode",
        "decode",
        "expandtabs",
    ),
    *("format", "format_map", "join", "ljust", "lower", "lstrip", "partition", "removeprefix", "removesuffix"),
    *("replace", "rjust", "rpartition", "rsplit", "rstrip", "split", "splitlines", "strip", "swapcase", "title"),
    *("translate", "upper", "zfill"),
)
KINDS: dict[type, type] = {}
"""The counted kind of each kind of value."""
BASES: dict[type, type] = {}
"""And the other way round."""

_comparisons, _hashes, _reads, _writes = (QUICK[name] for name in (COMPARISONS, HASHES, READS, WRITES))


def item(value: Any) -> Any:
    """A value as a counted one, where there is a counted kind of it; a tuple with its parts.

    >>> type(item(3)).__mro__[1], item(None) is None
    (<class 'int'>, True)
    """
    kind = KINDS.get(type(value))
    if kind is None:
        return value
    return kind(map(item, value)) if kind is CountedTuple else kind(value)


def _asking(base: Any, name: str) -> Callable[[Any, Any], Any]:
    """A comparison that is counted; what it cannot answer itself is asked of the other value, and counted there."""
    compare = getattr(base, name)

    def asked(self: Any, other: Any) -> Any:
        _comparisons[0] += 1
        answer = compare(self, other)
        if answer is NotImplemented and type(other) in BASES:
            _comparisons[0] -= 1
        return answer

    return asked


def _telling(kind: Any, name: str) -> Callable[[Any, Any], Any]:
    """The same, which also tells who watches."""
    ask, sign = getattr(kind, name), SIGNS[name]

    def told(self: Any, other: Any) -> Any:
        answer = ask(self, other)
        if TOLD.watcher is not None and answer is not NotImplemented:
            TOLD.watcher(sign, None, (self, other))
        return answer

    return told


@contextmanager
def told_of_comparisons() -> Iterator[None]:
    """Have comparisons of numbers and texts tell who watches. Only meanwhile: there are many, and few are watched."""
    kinds = CountedInt, CountedFloat, CountedText, CountedBytes
    before = {(kind, name): getattr(kind, name) for kind in kinds for name in SIGNS}
    try:
        for kind, name in before:
            setattr(kind, name, _telling(kind, name))
        yield
    finally:
        for (kind, name), method in before.items():
            setattr(kind, name, method)


def _computing(base: Any, name: str) -> Callable[..., Any]:
    """An operation whose result is counted too; a text that is made is written sign by sign."""
    compute, is_text = getattr(base, name), base in (str, bytes) and name != "__add__"

    def computed(self: Any, *others: Any) -> Any:
        result = compute(self, *others)
        if is_text and type(result) in (str, bytes):
            _writes[0] += len(result)
        kind = KINDS.get(type(result))
        if kind is None:
            return list(map(item, result)) if type(result) is list else result
        return kind(map(item, result)) if kind is CountedTuple else kind(result)

    return computed


def _with_one(base: Any, name: str) -> Callable[[Any, Any], Any]:
    """The same for a number and one more, as quick as it can be."""
    compute, wider = getattr(base, name), getattr(float, name, None)

    def computed(self: Any, other: Any) -> Any:
        result = compute(self, other)
        kind = KINDS.get(type(result))
        if kind is not None:
            return kind(result)
        if result is NotImplemented and wider is not None and type(other) is float:
            result = wider(float(self), other)
            return CountedFloat(result) if type(result) is float else result
        return result

    return computed


def _hashing(base: Any) -> Callable[[Any], int]:
    compute = base.__hash__

    def hashed(self: Any) -> int:
        _hashes[0] += 1
        return int(compute(self))

    return hashed


def _in_text(base: Any) -> dict[str, Any]:
    """Reading a text or bytes: a place is one read, a part is as many as it is long."""
    take, go = base.__getitem__, base.__iter__

    def taken(self: Any, at: Any) -> Any:
        found = item(take(self, at))
        _reads[0] += len(found) if type(at) is slice else 1
        if TOLD.watcher is not None and type(at) is not slice:
            TOLD.watcher("read", self, (int(at) % len(self), found))
        return found

    def walked(self: Any) -> Iterator[Any]:
        for at, value in enumerate(go(self)):
            _reads[0] += 1
            found = item(value)
            if TOLD.watcher is not None:
                TOLD.watcher("read", self, (at, found))
            yield found

    return {"__getitem__": taken, "__iter__": walked}


def plain(value: Any) -> Any:
    """A counted value as the one that it stands for; others as they are.

    >>> type(plain(item("pier"))), plain(item((1, (2, 3))))
    (<class 'str'>, (1, (2, 3)))
    """
    base = BASES.get(type(value))
    if base is None:
        return value
    if base is tuple:
        return tuple(map(plain, tuple.__iter__(value)))
    return base.__getnewargs__(value)[0]  # type: ignore[attr-defined]


def _added_behind(base: Any) -> Callable[[Any, Any], Any]:
    """A text put behind another: that one is written, while the first may stay where it is."""
    add = base.__add__

    def added(self: Any, other: Any) -> Any:
        made = add(self, plain(other))
        _writes[0] += len(other)
        return item(made)

    return added


def _added_in_front(self: Any, other: Any) -> Any:
    if not isinstance(other, (str, bytes)):
        return NotImplemented
    _writes[0] += len(self)
    return item(other + plain(self))


def _as_text(self: Any) -> Any:
    return CountedText(repr(self))


def _kind(base: Any, names: tuple[str, ...], more: dict[str, Any]) -> Any:
    methods: dict[str, Any] = {name: _asking(base, name) for name in SIGNS}
    for name in names:
        if hasattr(base, name):
            single = name.startswith("__") and name.strip("_").removeprefix("r") in BINARY[:-1] and "pow" not in name
            methods[name] = (_with_one if single and base in (int, float) else _computing)(base, name)
    methods |= {"__hash__": _hashing(base), "__reduce_ex__": lambda self, _: (base, (plain(self),))}
    made = type(base.__name__, (base,), {**methods, **more, "__slots__": ()})
    KINDS[base], BASES[made] = made, base
    return named_alike(made, base)


def named_alike(kind: Any, base: type) -> Any:
    """Give a counted kind the name of what it stands for, which errors and texts show."""
    kind.__name__, kind.__qualname__, kind.__module__ = base.__name__, base.__qualname__, base.__module__
    return kind


CountedInt = _kind(int, NUMBER, {"__str__": _as_text})
CountedFloat = _kind(float, NUMBER, {"__str__": _as_text})
CountedText = _kind(
    str,
    TEXT,
    {**_in_text(str), "__add__": _added_behind(str), "__radd__": _added_in_front, "__str__": lambda self: self},
)
CountedBytes = _kind(bytes, TEXT, {**_in_text(bytes), "__add__": _added_behind(bytes), "__radd__": _added_in_front})


class CountedTuple(tuple[Any, ...]):
    """A tuple that is one item: what happens inside it while it is compared or hashed is not counted."""

    __slots__ = ()

    def __hash__(self) -> int:
        before = _hashes[0]
        made = tuple.__hash__(self)
        _hashes[0] = before + 1
        return made

    def __getitem__(self, at: Any) -> Any:
        found = tuple.__getitem__(self, at)
        return CountedTuple(found) if type(found) is tuple else found

    def __add__(self, other: Any) -> Any:
        made = tuple.__add__(self, other)
        return made if made is NotImplemented else CountedTuple(made)

    def __mul__(self, times: Any) -> Any:
        made = tuple.__mul__(self, times)
        return made if made is NotImplemented else CountedTuple(made)

    __rmul__ = __mul__

    def __reduce_ex__(self, _: Any) -> Any:
        return tuple, (plain(self),)


for _name in SIGNS:
    # One question, however many it asks inside.
    setattr(CountedTuple, _name, one_question(getattr(tuple, _name), SIGNS[_name]))
KINDS[tuple], BASES[CountedTuple] = named_alike(CountedTuple, tuple), tuple
