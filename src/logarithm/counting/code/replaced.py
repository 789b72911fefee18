"""What the built-ins and the standard library do with items, seen: sorted, min, max, heaps, bisection.

Their compiled forms compare items where nobody sees it. While a contender is counted these stand in their place. They
compare the same items in the same order, and leave the same behind.
"""

from __future__ import annotations

import bisect
import heapq
from collections.abc import Callable, Iterable
from typing import Any

from ..items.containers import CountedList
from ..items.questions import Key, arranged, is_less, questions_by


def counted_sorted(values: Iterable[Any], /, *, key: Key = None, reverse: Any = False) -> CountedList:
    """As `sorted`: each item is read, and written once into the new list."""
    return CountedList(arranged(list(values), key, reverse))


def _extreme(choose: Callable[..., Any]) -> Callable[..., Any]:
    def chosen(*values: Any, key: Key = None, **more: Any) -> Any:
        return choose(*values, key=questions_by(key), **more)

    return chosen


counted_min, counted_max = _extreme(min), _extreme(max)


def _up(heap: Any, start: int, at: int) -> None:
    """Let an item rise to where its parent is not larger."""
    new = heap[at]
    while at > start:
        above = (at - 1) >> 1
        parent = heap[above]
        if not is_less(new, parent):
            break
        heap[at] = parent
        at = above
    _forget(heap)
    heap[at] = new


def _down(heap: Any, at: int) -> None:
    """Let the smaller children rise to the bottom, then the item that was there."""
    end, start, new = len(heap), at, heap[at]
    child = 2 * at + 1
    while child < end:
        right = child + 1
        if right < end and not is_less(heap[child], heap[right]):
            child = right
        heap[at] = heap[child]
        at = child
        child = 2 * at + 1
    _forget(heap)
    heap[at] = new
    _up(heap, start, at)


def _forget(heap: Any) -> None:
    """What rises or sinks in a heap is moved place by place: that is no exchange, even of two places."""
    if type(heap) is CountedList:
        heap.forget()


def _is_list(heap: Any) -> None:
    if not isinstance(heap, list):
        raise TypeError(f"heap argument must be a list, not {type(heap).__name__}")


def heappush(heap: Any, value: Any) -> None:
    """As `heapq.heappush`."""
    _is_list(heap)
    heap.append(value)
    _up(heap, 0, len(heap) - 1)


def heappop(heap: Any) -> Any:
    """As `heapq.heappop`."""
    _is_list(heap)
    if not heap:
        raise IndexError("index out of range")
    last = heap.pop()
    if not heap:
        return last
    first = heap[0]
    heap[0] = last
    _down(heap, 0)
    return first


def heapreplace(heap: Any, value: Any) -> Any:
    """As `heapq.heapreplace`."""
    _is_list(heap)
    if not heap:
        raise IndexError("index out of range")
    first = heap[0]
    heap[0] = value
    _down(heap, 0)
    return first


def heappushpop(heap: Any, value: Any) -> Any:
    """As `heapq.heappushpop`."""
    _is_list(heap)
    if heap and is_less(heap[0], value):
        value, heap[0] = heap[0], value
        _down(heap, 0)
    return value


def heapify(heap: Any) -> None:
    """As `heapq.heapify`."""
    _is_list(heap)
    for at in reversed(range(len(heap) // 2)):
        _down(heap, at)


def _some(choose: Callable[..., list[Any]]) -> Callable[..., CountedList]:
    def chosen(many: int, values: Iterable[Any], key: Key = None) -> CountedList:
        return CountedList(choose(many, values, key=questions_by(key)))

    return chosen


nsmallest, nlargest = _some(heapq.nsmallest), _some(heapq.nlargest)


def _found(is_right: bool) -> Callable[..., int]:
    def found(values: Any, wanted: Any, lo: int = 0, hi: int | None = None, *, key: Key = None) -> int:
        if lo < 0:
            raise ValueError("lo must be non-negative")
        hi = len(values) if hi is None else hi
        while lo < hi:
            middle = (lo + hi) // 2
            value = values[middle] if key is None else key(values[middle])
            if is_right:
                lo, hi = (lo, middle) if is_less(wanted, value) else (middle + 1, hi)
            else:
                lo, hi = (middle + 1, hi) if is_less(value, wanted) else (lo, middle)
        return lo

    return found


bisect_left, bisect_right = _found(False), _found(True)


def _inserting(find: Callable[..., int]) -> Callable[..., None]:
    def inserted(values: Any, new: Any, lo: int = 0, hi: int | None = None, *, key: Key = None) -> None:
        values.insert(find(values, new if key is None else key(new), lo, hi, key=key), new)

    return inserted


insort_left, insort_right = _inserting(bisect_left), _inserting(bisect_right)

FUNCTIONS: dict[Any, Any] = {
    sorted: counted_sorted,
    min: counted_min,
    max: counted_max,
    heapq.heappush: heappush,
    heapq.heappop: heappop,
    heapq.heapreplace: heapreplace,
    heapq.heappushpop: heappushpop,
    heapq.heapify: heapify,
    heapq.nsmallest: nsmallest,
    heapq.nlargest: nlargest,
    bisect.bisect_left: bisect_left,
    bisect.bisect_right: bisect_right,
    bisect.insort_left: insort_left,
    bisect.insort_right: insort_right,
}
"""What stands in the place of what."""
