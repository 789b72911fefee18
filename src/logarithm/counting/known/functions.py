"""What functions of the interpreter and of its standard library do with so many items: the first part of the table.

Each entry does what the operation does and counts it: exactly where that can be told (how many comparisons a sort
asks), else an upper bound. docs/method.md lists them. What takes the same time for inputs of every size, but for a
step, is in `CONSTANT`; what is in neither is unknown, and is named so.
"""

from __future__ import annotations

import bisect
import collections
import functools
import heapq
import itertools
import json
import math
import re
import struct
from array import array
from collections.abc import Iterable, Iterator
from typing import Any

from ...notation.kinds import COMPARED, COPIED, DIGITS, HASHED, MOVED, SEARCHED, SIGNS, TOUCHED
from .entries import TEXTS, Entry, by_asking, digits, going, matched, reading, through, writing
from .kinds import did


def _sorted(values: Iterable[Any], /, *, key: Any = None, reverse: Any = False) -> list[Any]:
    kept = list(values)
    did(COPIED, 2 * len(kept))
    return sorted(kept, key=by_asking(key), reverse=reverse)


def _extreme(choose: Entry) -> Entry:
    def counted(*values: Any, key: Any = None, **more: Any) -> Any:
        return choose(*values, key=by_asking(key), **more)

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
        return list(choose(many, values, key=by_asking(key)))

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
    list: going(list, COPIED),
    tuple: going(tuple, COPIED),
    set: going(set, HASHED),
    frozenset: going(frozenset, HASHED),
    dict: going(dict, HASHED),
    bytes: writing(bytes),
    bytearray: writing(bytearray),
    str: _text,
    repr: writing(repr),
    int: _number,
    pow: _power,
    map: _map,
    array: writing(array, COPIED),
    hash: reading(hash, SIGNS),
    collections.deque: going(collections.deque, COPIED),
    collections.Counter: going(collections.Counter, HASHED),
    collections.OrderedDict: going(collections.OrderedDict, HASHED),
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
    itertools.accumulate: going(itertools.accumulate),
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
    math.fsum: going(math.fsum),
    math.prod: going(math.prod),
    json.dumps: writing(json.dumps, SEARCHED),
    json.loads: reading(json.loads),
    struct.pack: writing(struct.pack),
    struct.unpack: reading(struct.unpack, SIGNS, at=1),
    re.match: matched(re.match),
    re.search: matched(re.search),
    re.fullmatch: matched(re.fullmatch),
    re.findall: matched(re.findall),
    re.sub: matched(re.sub),
    re.split: matched(re.split),
}
"""What is called by itself."""

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
"""What takes the same time whatever the size, or gives items one by one, each of which is a step, or counted where it
is taken."""


def known(function: Any) -> Any:
    """The counting form of a function of the table; itself where it is not there."""
    try:
        return FUNCTIONS.get(function, function)
    except TypeError:  # what cannot be hashed
        return function
