"""What the interpreter's built-ins and the standard library do with so many items: the table of known operations.

Each entry does what the operation does and counts it: exactly where that can be told (how many comparisons a sort asks,
how many items a removal moves), else an upper bound. docs/method.md lists them. What takes the same time for inputs of
every size, but for a step, is in `CONSTANT`; what is in neither is unknown, and is named so.
"""

from __future__ import annotations

import bisect
import collections
import functools
import heapq
import itertools
import json
import math
import operator
import re
import struct
from array import array
from collections.abc import Callable, Iterable, Iterator
from typing import Any

from .kinds import COMPARED, COPIED, DIGITS, HASHED, MOVED, SEARCHED, SIGNS, TOUCHED, did, did_unknown

Entry = Callable[..., Any]
Sized = (list, tuple, set, frozenset, dict, str, bytes, bytearray, range, collections.deque, array)
TEXTS = (str, bytes, bytearray)
DIGIT = 30  # bits of a digit of a long number
WORD = 62  # bits up to which a number is a single one


class Asked:
    """An item whose comparisons are counted, as `sort`, `min` and a heap ask them."""

    __slots__ = ("of",)

    def __init__(self, of: Any) -> None:
        self.of = of

    def __lt__(self, other: Asked) -> Any:
        did(COMPARED, 1)
        return self.of < other.of

    def __gt__(self, other: Asked) -> Any:
        did(COMPARED, 1)
        return self.of > other.of

    def __eq__(self, other: object) -> Any:
        return isinstance(other, Asked) and self.of == other.of

    __hash__ = None  # type: ignore[assignment]


def through(values: Any, kind: str = TOUCHED) -> Any:
    """What can be gone through, with each item counted that is taken out of it."""
    if isinstance(values, Sized):
        did(kind, len(values))
        return values
    return _taken(iter(values), kind)


def _taken(values: Iterator[Any], kind: str) -> Iterator[Any]:
    for value in values:
        did(kind, 1)
        yield value


def digits(*numbers: Any) -> list[int]:
    """How many digits of thirty bits long numbers have; of others, and of short ones, 1."""
    return [number.bit_length() // DIGIT + 1 if type(number) is int else 1 for number in numbers]


def _key(key: Any) -> Callable[[Any], Asked]:
    return Asked if key is None else lambda value: Asked(key(value))


def _going(function: Entry, kind: str = TOUCHED) -> Entry:
    """An operation that goes through what it is given first."""

    def counted(*given: Any, **named: Any) -> Any:
        return function(*(through(each, kind) for each in given[:1]), *given[1:], **named)

    return counted


def _writing(function: Entry, kind: str = SIGNS) -> Entry:
    """An operation that writes what it returns."""

    def counted(*given: Any, **named: Any) -> Any:
        made = function(*given, **named)
        did(kind, len(made) if hasattr(made, "__len__") else 1)
        return made

    return counted


def _reading(function: Entry, kind: str = SEARCHED, at: int = 0) -> Entry:
    """An operation that reads all of one of the things it is given."""

    def counted(*given: Any, **named: Any) -> Any:
        if len(given) > at and hasattr(given[at], "__len__"):
            did(kind, len(given[at]))
        return function(*given, **named)

    return counted


def _sorted(values: Iterable[Any], /, *, key: Any = None, reverse: Any = False) -> list[Any]:
    kept = list(values)
    did(COPIED, 2 * len(kept))
    return sorted(kept, key=_key(key), reverse=reverse)


def _sort(values: list[Any], /, *, key: Any = None, reverse: Any = False) -> None:
    did(COPIED, len(values))
    list.sort(values, key=_key(key), reverse=reverse)


def _extreme(choose: Entry) -> Entry:
    def counted(*values: Any, key: Any = None, **more: Any) -> Any:
        return choose(*values, key=_key(key), **more)

    return counted


def _sum(values: Any, /, start: Any = 0) -> Any:
    if isinstance(start, (list, tuple)):
        # Each partial sum is copied.
        total = start
        for value in values:
            total = total + value
            did(COPIED, len(total))
        return total
    return sum(through(values), start)


def _until(stops: bool) -> Entry:
    """`any` and `all`: they go on until the answer is known."""

    def counted(values: Any, /) -> Any:
        for value in values:
            did(TOUCHED, 1)
            if bool(value) is stops:
                return stops
        return not stops

    return counted


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


def _push(heap: list[Any], value: Any) -> None:
    heap.append(value)
    _up(heap, 0, len(heap) - 1)


def _up(heap: list[Any], start: int, at: int) -> None:
    new = heap[at]
    while at > start:
        parent = heap[(at - 1) >> 1]
        did(COMPARED, 1)
        if not new < parent:
            break
        heap[at] = parent
        at = (at - 1) >> 1
    heap[at] = new


def _down(heap: list[Any], at: int) -> None:
    end, start, new = len(heap), at, heap[at]
    child = 2 * at + 1
    while child < end:
        right = child + 1
        if right < end:
            did(COMPARED, 1)
            child = child if heap[child] < heap[right] else right
        heap[at] = heap[child]
        at, child = child, 2 * child + 1
    heap[at] = new
    _up(heap, start, at)


def _heap_pop(heap: list[Any]) -> Any:
    last = heap.pop()
    if not heap:
        return last
    first, heap[0] = heap[0], last
    _down(heap, 0)
    return first


def _replace(heap: list[Any], value: Any) -> Any:
    first, heap[0] = heap[0], value
    _down(heap, 0)
    return first


def _push_pop(heap: list[Any], value: Any) -> Any:
    if heap:
        did(COMPARED, 1)
        if heap[0] < value:
            return _replace(heap, value)
    return value


def _heapify(heap: list[Any]) -> None:
    for at in reversed(range(len(heap) // 2)):
        _down(heap, at)


def _few(choose: Entry) -> Entry:
    def counted(many: int, values: Iterable[Any], key: Any = None) -> list[Any]:
        return list(choose(many, values, key=_key(key)))

    return counted


def _halving(find: Entry) -> Entry:
    """Bisection: a comparison for each halving."""

    def counted(values: Any, wanted: Any, lo: int = 0, hi: int | None = None, **named: Any) -> Any:
        span = (len(values) if hi is None else hi) - lo
        did(COMPARED, max(span, 0).bit_length())
        return find(values, wanted, lo, hi, **named)

    return counted


def _inserting(insert: Entry) -> Entry:
    def counted(values: Any, new: Any, lo: int = 0, hi: int | None = None, **named: Any) -> None:
        did(COMPARED, len(values).bit_length())
        # Half of the items are moved, where nothing else is known; where they are, `insert` says.
        before = len(values)
        insert(values, new, lo, hi, **named)
        key = named.get("key")
        at = bisect.bisect_right(values, new if key is None else key(new), **named)
        did(MOVED, before + 1 - at)

    return counted


def _number(value: Any = 0, *base: Any) -> int:
    if isinstance(value, TEXTS):
        long = len(value) / 9.0
        did(DIGITS, long * long if long > 3 else 1)
    return int(value, *base)


def _text(*given: Any, **named: Any) -> str:
    made = str(*given, **named)
    (long,) = digits(given[0]) if given else (1,)
    did(DIGITS, long * long if long > 3 else 0)
    did(SIGNS, len(made))
    return made


def _power(base: Any, exponent: Any, *modulus: Any) -> Any:
    made = pow(base, exponent, *modulus)
    (long,) = digits(modulus[0] if modulus else made)
    did(DIGITS, long**1.585 * (exponent.bit_length() if modulus and type(exponent) is int else 1))
    return made


def _factors(function: Entry) -> Entry:
    """`factorial`, `comb` and the like: products whose digits grow to those of the result."""

    def counted(*given: Any) -> Any:
        made = function(*given)
        (long,) = digits(made)
        did(DIGITS, long**1.585 + (given[-1] if given and type(given[-1]) is int else 1))
        return made

    return counted


def _common(function: Entry) -> Entry:
    """`gcd` and `lcm`: a division for each step of Euclid's, as many as there are bits."""

    def counted(*numbers: int) -> Any:
        did(DIGITS, sum(long * long for long in digits(*numbers)))
        return function(*numbers)

    return counted


def _join(between: Any, parts: Any) -> Any:
    made = type(between).join(between, through(parts))
    did(SIGNS, len(made))
    return made


def _matched(function: Entry) -> Entry:
    """A pattern over a text: a step for each sign, if it does not go back, which nobody knows."""

    def counted(*given: Any, **named: Any) -> Any:
        did_unknown("a pattern")
        for part in given[-2:]:
            if isinstance(part, TEXTS):
                did(SEARCHED, 5 * len(part))
                break
        return function(*given, **named)

    return counted


def _map(function: Any, *values: Any) -> Iterator[Any]:
    return map(known(function), *values)


def _product(function: Entry) -> Entry:
    """What chooses or arranges items: each that is made has some of them."""

    def counted(*given: Any, **named: Any) -> Iterator[Any]:
        for made in function(*given, **named):
            did(COPIED, len(made))
            yield made

    return counted


def _reduce(function: Any, *given: Any) -> Any:
    return functools.reduce(known(function), *given)


FUNCTIONS: dict[Any, Entry] = {
    sorted: _sorted,
    min: _extreme(min),
    max: _extreme(max),
    sum: _sum,
    any: _until(stops=True),
    all: _until(stops=False),
    list: _going(list, COPIED),
    tuple: _going(tuple, COPIED),
    set: _going(set, HASHED),
    frozenset: _going(frozenset, HASHED),
    dict: _going(dict, HASHED),
    bytes: _writing(bytes),
    bytearray: _writing(bytearray),
    str: _text,
    repr: _writing(repr),
    int: _number,
    pow: _power,
    map: _map,
    array: _writing(array, COPIED),
    hash: _reading(hash, SIGNS),
    collections.deque: _going(collections.deque, COPIED),
    collections.Counter: _going(collections.Counter, HASHED),
    collections.OrderedDict: _going(collections.OrderedDict, HASHED),
    functools.reduce: _reduce,
    heapq.heappush: _push,
    heapq.heappop: _heap_pop,
    heapq.heapreplace: _replace,
    heapq.heappushpop: _push_pop,
    heapq.heapify: _heapify,
    heapq.nsmallest: _few(heapq.nsmallest),
    heapq.nlargest: _few(heapq.nlargest),
    bisect.bisect_left: _halving(bisect.bisect_left),
    bisect.bisect_right: _halving(bisect.bisect_right),
    bisect.insort_left: _inserting(bisect.insort_left),
    bisect.insort_right: _inserting(bisect.insort_right),
    itertools.accumulate: _going(itertools.accumulate),
    itertools.permutations: _product(itertools.permutations),
    itertools.combinations: _product(itertools.combinations),
    itertools.combinations_with_replacement: _product(itertools.combinations_with_replacement),
    itertools.product: _product(itertools.product),
    math.factorial: _factors(math.factorial),
    math.comb: _factors(math.comb),
    math.perm: _factors(math.perm),
    math.gcd: _common(math.gcd),
    math.lcm: _common(math.lcm),
    math.isqrt: _common(math.isqrt),
    math.fsum: _going(math.fsum),
    math.prod: _going(math.prod),
    json.dumps: _writing(json.dumps, SEARCHED),
    json.loads: _reading(json.loads),
    struct.pack: _writing(struct.pack),
    struct.unpack: _reading(struct.unpack, SIGNS, at=1),
    re.match: _matched(re.match),
    re.search: _matched(re.search),
    re.fullmatch: _matched(re.fullmatch),
    re.findall: _matched(re.findall),
    re.sub: _matched(re.sub),
    re.split: _matched(re.split),
}
"""What is called by itself."""


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
    return _writing(lambda text, *more, **named: getattr(type(text), name)(text, *more, **named))


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
        name: _matched(getattr(re.Pattern, name))
        for name in ("match", "search", "fullmatch", "findall", "sub", "split")
    },
}
"""What is called on something, by its type."""

CONSTANT: frozenset[str] = frozenset(
    (
        *("len", "abs", "isinstance", "issubclass", "id", "callable", "getattr", "setattr", "hasattr", "iter", "next"),
        *(
            "range",
            "enumerate",
            "zip",
            "filter",
            "reversed",
            "chr",
            "ord",
            "round",
            "divmod",
            "float",
            "bool",
            "complex",
        ),
        *(
            "type",
            "object",
            "slice",
            "print",
            "append",
            "add",
            "discard",
            "popitem",
            "setdefault",
            "get",
            "keys",
            "items",
        ),
        *(
            "values",
            "appendleft",
            "popleft",
            "startswith",
            "endswith",
            "bit_length",
            "bit_count",
            "random",
            "getrandbits",
        ),
        *("sqrt", "log", "log2", "exp", "sin", "cos", "floor", "ceil", "hypot", "dist", "islice", "chain", "repeat"),
        *("count", "cycle", "starmap", "takewhile", "dropwhile", "groupby", "pairwise", "zip_longest", "itemgetter"),
        *("attrgetter", "partial", "send", "throw", "close", "pop", "is_integer", "most_common", "from_iterable"),
    )
)
"""What takes the same time whatever the size, or gives its items one by one, each of which is a step or counted where it
is taken."""


def known(function: Any) -> Any:
    """The counting form of a function of the table; itself where it is not there."""
    try:
        return FUNCTIONS.get(function, function)
    except TypeError:  # what cannot be hashed
        return function


# --- operators --------------------------------------------------------------------------------------------------------


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
