"""Small jobs whose operations were counted by hand, as docs/method.md defines them."""

from __future__ import annotations

import heapq
from bisect import bisect_left
from collections import deque, namedtuple
from dataclasses import dataclass


@dataclass
class Buoy:
    """A buoy that knows the next one."""

    depth: int
    after: Buoy | None = None


@dataclass(order=True)
class Ship:
    """A ship, compared by its length, then by its name."""

    length: int
    name: str


Mark = namedtuple("Mark", "depth colour")


def longest(ships):
    best = ships[0]
    for ship in ships:
        if ship > best:
            best = ship
    return best.length


def highest(levels):
    best = levels[0]
    for level in levels:
        if level > best:
            best = level
    return best


def shifting(levels):
    for at in range(1, len(levels)):
        level, to = levels[at], at
        while to > 0 and levels[to - 1] > level:
            levels[to] = levels[to - 1]
            to -= 1
        levels[to] = level


def exchanging(levels):
    for done in range(len(levels)):
        for at in range(len(levels) - 1 - done):
            if levels[at] > levels[at + 1]:
                levels[at], levels[at + 1] = levels[at + 1], levels[at]


def by_hand(levels):
    kept = levels[0]
    levels[0] = levels[1]
    levels[1] = kept


def copied(levels):
    return list(levels)


def collected(levels):
    out = []
    for level in levels:
        out.append(level)
    return out


def in_front(levels):
    out = []
    for level in levels:
        out.insert(0, level)
    return out


def from_the_front(levels):
    while levels:
        levels.pop(0)


def holds_nine(levels):
    return 9 in levels


def turned(levels):
    levels.reverse()


def in_order(levels):
    return sorted(levels)


def lowest(levels):
    return min(levels)


def different(levels):
    return set(levels)


def how_often(signs):
    counts = {}
    for sign in signs:
        counts[sign] = counts.get(sign, 0) + 1
    return counts


def heaped(levels):
    heap = []
    for level in levels:
        heapq.heappush(heap, level)
    return heap[0]


def placed(levels):
    return bisect_left(levels, 5)


def halves(levels):
    return levels[: len(levels) // 2], levels[len(levels) // 2 :]


def all_cells(chart):
    total = 0
    for row in chart:
        for depth in row:
            total += depth
    return total


def signs_a(signs):
    return sum(1 for sign in signs if sign == "a")


def below_zero(levels):
    return sorted([-level for level in levels])


def in_turn(levels):
    waiting = deque(levels)
    while waiting:
        waiting.popleft()


def joined(levels):
    return levels + [7, 8]


def deepest_buoy(head):
    best = head
    while head is not None:
        if head.depth > best.depth:
            best = head
        head = head.after
    return best.depth


def by_length(levels):
    groups = {}
    for level in levels:
        groups.setdefault(level % 2, []).append(level)
    return sorted((len(group), key) for key, group in groups.items())


def dropped(levels):
    del levels[1]


def filled(levels):
    return [0] * len(levels)


RISING, FALLING = [1, 2, 3, 4], [4, 3, 2, 1]
BERTHS = [(3, "b"), (4, "d"), (1, "a"), (2, "c")]
TRUTHS = (
    (highest, [3, 1, 2], {"reads": 4, "comparisons": 3}),
    (shifting, BERTHS, {"comparisons": 6, "reads": 13, "writes": 7}),
    (exchanging, [3, 1, 2], {"comparisons": 3, "reads": 10, "writes": 4, "swaps": 2}),
    (by_hand, [2, 1], {"reads": 2, "writes": 2, "swaps": 1}),
    (copied, RISING, {"reads": 4, "writes": 4}),
    (collected, RISING, {"reads": 4, "writes": 4}),
    (in_front, RISING, {"reads": 4, "writes": 4, "moves": 6}),
    (from_the_front, RISING, {"reads": 4, "moves": 6}),
    (holds_nine, [1, 2, 9, 4], {"reads": 3, "comparisons": 3}),
    (turned, [1, 2, 3, 4, 5], {"reads": 4, "writes": 4, "swaps": 2}),
    (in_order, RISING, {"reads": 4, "writes": 4, "comparisons": 3}),
    (lowest, FALLING, {"reads": 4, "comparisons": 3}),
    (different, [1, 2, 2, 3], {"reads": 4, "hashes": 4, "writes": 4}),
    (how_often, "aba", {"reads": 4, "hashes": 6, "writes": 3}),
    (placed, [1, 2, 3, 4, 5, 6, 7], {"reads": 3, "comparisons": 3}),
    (halves, RISING, {"reads": 4, "writes": 4}),
    (all_cells, [[1, 2, 3], [4, 5, 6]], {"reads": 6}),
    (signs_a, "abca", {"reads": 4, "comparisons": 4}),
    (below_zero, [3, 2, 1], {"reads": 6, "writes": 6, "comparisons": 2}),
    (in_turn, RISING, {"reads": 8, "writes": 4}),
    (joined, RISING, {"reads": 6, "writes": 8}),
    (deepest_buoy, Buoy(2, Buoy(5, Buoy(3))), {"comparisons": 3}),
    (longest, [Ship(4, "b"), Ship(4, "a"), Ship(6, "c")], {"reads": 4, "comparisons": 3}),
    (in_order, [Mark(1, "red"), Mark(1, "green"), Mark(0, "red")], {"reads": 3, "writes": 3, "comparisons": 2}),
    (dropped, RISING, {"moves": 2}),
    (filled, RISING, {"writes": 4}),
)
"""A job, its instance, and what is counted; what is not named is zero."""
