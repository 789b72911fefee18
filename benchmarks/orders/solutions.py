"""Twenty solutions such as a class hands in, most of their work inside built-ins, with the orders of it."""

from __future__ import annotations

import bisect
import heapq
import itertools
from collections import Counter, deque
from collections.abc import Callable
from typing import Any

SOLUTIONS: list[tuple[str, Callable[[list[int]], Any]]] = []
Solution = Callable[[list[int]], Any]


def order(name: str) -> Callable[[Solution], Solution]:
    def kept(solution: Solution) -> Solution:
        SOLUTIONS.append((name, solution))
        return solution

    return kept


@order("n log n")
def middle_of_sorted(tides: list[int]) -> Any:
    return sorted(tides)[len(tides) // 2]


@order("n log n")
def in_place(tides: list[int]) -> Any:
    tides.sort(key=lambda tide: -tide)
    return tides


@order("n log n")
def by_heap(tides: list[int]) -> Any:
    heapq.heapify(tides)
    return [heapq.heappop(tides) for _ in range(len(tides))]


@order("n log n")
def pairs_in_order(tides: list[int]) -> Any:
    return sorted((tide % 7, tide) for tide in tides)


@order("n log n")
def places(tides: list[int]) -> Any:
    rising = sorted(tides)
    return [bisect.bisect_left(rising, tide) for tide in tides]


@order("n log n")
def least_gap(tides: list[int]) -> Any:
    return min(b - a for a, b in itertools.pairwise(sorted(tides)))


@order("n^2")
def least_removed(tides: list[int]) -> Any:
    made = []
    while tides:
        least = min(tides)
        tides.remove(least)
        made.append(least)
    return made


@order("n^2")
def put_in_front(tides: list[int]) -> Any:
    made: list[int] = []
    for tide in tides:
        made.insert(0, tide)
    return made


@order("n^2")
def inserted(tides: list[int]) -> Any:
    made: list[int] = []
    for tide in tides:
        bisect.insort(made, tide)
    return made


@order("n^2")
def from_the_front(tides: list[int]) -> Any:
    total = 0
    while tides:
        total += tides.pop(0)
    return total


@order("n^2")
def only_once(tides: list[int]) -> Any:
    return [tide for tide in tides if tides.count(tide) == 1]


@order("n^2")
def seen_later(tides: list[int]) -> Any:
    return any(tide in tides[at + 1 :] for at, tide in enumerate(tides))


@order("n^2")
def highest_behind(tides: list[int]) -> Any:
    return [max(tides[at:]) for at in range(len(tides))]


@order("n^2")
def cut_shorter(tides: list[int]) -> Any:
    total = 0
    while tides:
        total += tides[0]
        tides = tides[1:]
    return total


@order("n^2")
def lists_added(tides: list[int]) -> Any:
    return sum(([tide] for tide in tides), [])  # noqa: RUF017 (it is what a beginner writes)


@order("n^2")
def bytes_added(tides: list[int]) -> Any:
    made = b""
    for tide in tides:
        made += bytes((tide % 256,))
    return made


@order("n")
def different(tides: list[int]) -> Any:
    return len(set(tides))


@order("n")
def counted(tides: list[int]) -> Any:
    return Counter(tides).most_common(3)


@order("n")
def written(tides: list[int]) -> Any:
    return ",".join(map(str, tides))


@order("n")
def from_both_ends(tides: list[int]) -> Any:
    line, total = deque(tides), 0
    while len(line) > 1:
        total += line.popleft() - line.pop()
    return total
