"""Real functions of known order, in two sets: one to tune on, one that is only looked at last.

Each is (name, order, input made from a size, function, smallest size, largest size). The orders are those of the
cost on the inputs made here.
"""

from __future__ import annotations

import bisect
import itertools
import math
import random
from collections import Counter, deque
from collections.abc import Callable
from typing import Any, NamedTuple


class Case(NamedTuple):
    """A function of known order."""

    name: str
    order: str
    make: Callable[[int], Any]
    call: Callable[[Any], Any]
    low: int
    high: int


def floats(n: int) -> list[float]:
    chance = random.Random(n)
    return [chance.random() for _ in range(n)]


def same(n: int) -> int:
    return n


def tree_sum(levels: list[float]) -> float:
    """Sums of halves, each made anew, so that every level of halving copies everything."""
    if len(levels) < 2:
        return levels[0] if levels else 0.0
    middle = len(levels) // 2
    return max(tree_sum(levels[:middle]), tree_sum(levels[middle:]), max(levels))


def waves(levels: list[complex]) -> list[complex]:
    """A transform into waves, by halves."""
    if len(levels) == 1:
        return levels
    even, odd = waves(levels[::2]), waves(levels[1::2])
    turned = [z * complex(math.cos(k), math.sin(k)) for k, z in enumerate(odd)]
    return [a + b for a, b in zip(even, turned, strict=False)] + [a - b for a, b in zip(even, turned, strict=False)]


def powers_of_two(n: int) -> list[complex]:
    return [complex(level) for level in floats(1 << round(math.log2(n)))]


def halvings(n: int) -> int:
    steps = 0
    while n > 1:
        n //= 2
        steps += 1
    return steps


def pairs(levels: list[float]) -> float:
    best = 0.0
    for i, level in enumerate(levels):
        for other in levels[:i]:
            if level - other > best:
                best = level - other
    return best


def triples(levels: list[float]) -> int:
    found = 0
    for a in levels:
        for b in levels:
            for c in levels:
                if a < b < c:
                    found += 1
    return found


def subsets(n: int) -> int:
    best = 0
    for chosen in range(1 << n):
        best += chosen & 1
    return best


def branches_off(n: int) -> int:
    """Two calls for each: about 2^n of them."""
    return 1 if n == 0 else branches_off(n - 1) + branches_off(n - 1)


def two_or_three(n: int) -> int:
    """Ways to moor boats of one or three lengths: about 1.4656^n calls."""
    return 1 if n < 3 else two_or_three(n - 1) + two_or_three(n - 3)


def orderings(n: int) -> int:
    count = 0
    for _ in itertools.permutations(range(n)):
        count += 1
    return count


def from_the_front(n: int) -> list[int]:
    """Takes everything from the front of a list: the moving up shows late."""
    line = list(range(n))
    while line:
        line.pop(0)
    return line


def digits(n: int) -> tuple[int, int]:
    chance = random.Random(n)
    return chance.getrandbits(30 * n) | 1 << 30 * n - 1, chance.getrandbits(30 * n) | 1 << 30 * n - 1


def by_the_book(signals: tuple[list[int], list[int]]) -> list[int]:
    one, other = signals
    out = [0] * (len(one) + len(other))
    for i, a in enumerate(one):
        for j, b in enumerate(other):
            out[i + j] += a * b
    return out


def two_signals(n: int) -> tuple[list[int], list[int]]:
    return [int(9 * x) for x in floats(n)], [int(9 * x) for x in floats(n + 1)[:n]]


def each_among_pairs(levels: list[float]) -> int:
    ranked = sorted(levels)
    return sum(bisect.bisect(ranked, (a + b) / 2) for a in levels for b in levels)


def rank_each(levels: list[float]) -> int:
    ranked = range(len(levels))
    return sum(bisect.bisect(ranked, level * len(levels)) for level in levels)


def in_stretches(levels: list[float]) -> float:
    stretch = math.isqrt(len(levels))
    return sum(sum(levels[max(0, at - stretch) : at]) for at in range(len(levels)))


def slow_stretches(levels: list[float]) -> float:
    stretch, total = math.isqrt(len(levels)), 0.0
    for _ in levels:
        for k in range(stretch):
            total += levels[k]
    return total


def root_steps(n: int) -> int:
    total = 0
    for k in range(math.isqrt(n)):
        total += k
    return total


def growing_steps(n: int) -> int:
    at, step = 0, 1
    while at < n:
        at += step
        step += 1
    return step


def loop(levels: list[float]) -> float:
    total = 0.0
    for level in levels:
        total += level * level
    return total


def prefix_sums(levels: list[float]) -> float:
    return sum(sum(levels[:at]) for at in range(len(levels)))


def count_by_tens(levels: list[float]) -> Counter[int]:
    return Counter(int(10 * level) for level in levels)


def windows(levels: list[float]) -> float:
    last: deque[float] = deque(maxlen=8)
    best = 0.0
    for level in levels:
        last.append(level)
        if last[0] > best:
            best = last[0]
    return best


def lowest_triples(n: int) -> int:
    return sum(1 for a in range(n) for b in range(a) for _ in range(b))


def all_gaps(levels: list[float]) -> int:
    return len({int((a - b) * 100) for a in levels for b in levels})


def modular(n: int) -> int:
    return pow(3, n, 1_000_003)


def grow_front(n: int) -> list[int]:
    line: list[int] = []
    for k in range(n):
        line.insert(0, k)
    return line


def peaks(levels: list[float]) -> list[int]:
    return [at for at in range(1, len(levels) - 1) if levels[at - 1] < levels[at] > levels[at + 1]]


TUNING = (
    Case("the first", "1", floats, lambda x: x[0], 8, 4096),
    Case("the middle ten", "1", floats, lambda x: sum(x[len(x) // 2 : len(x) // 2 + 4]), 8, 65536),
    Case("a key", "1", lambda n: dict.fromkeys(range(n)), lambda x: x.get(7), 8, 65536),
    Case("halvings", "log n", same, halvings, 8, 2**24),
    Case("place among many", "log n", same, lambda n: bisect.bisect(range(n), n // 3), 8, 2**24),
    Case("root steps", "sqrt n", same, root_steps, 64, 2**22),
    Case("loop", "n", floats, loop, 8, 65536),
    Case("sum", "n", floats, sum, 8, 65536),
    Case("highest", "n", floats, max, 32, 65536),
    Case("copy", "n", floats, list.copy, 32, 262144),
    Case("backwards", "n", floats, lambda x: x[::-1], 32, 262144),
    Case("count by tens", "n", floats, count_by_tens, 8, 32768),
    Case("peaks", "n", floats, peaks, 8, 32768),
    Case("distinct", "n", floats, set, 8, 65536),
    Case("halves", "n log n", floats, tree_sum, 8, 16384),
    Case("waves", "n log n", powers_of_two, waves, 8, 32768),
    Case("in order", "n log n", floats, sorted, 8, 65536),
    Case("slow stretches", "n^1.5", floats, slow_stretches, 16, 4096),
    Case("pairs", "n^2", floats, pairs, 8, 1024),
    Case("signals by the book", "n^2", two_signals, by_the_book, 8, 512),
    Case("from the front", "n^2", same, from_the_front, 512, 131072),
    Case("gaps", "n^2", floats, all_gaps, 8, 512),
    Case("each among pairs", "n^2 log n", floats, each_among_pairs, 8, 256),
    Case("triples", "n^3", floats, triples, 4, 96),
    Case("subsets", "2^n", same, subsets, 4, 18),
    Case("moorings", "1.47^n", same, two_or_three, 6, 32),
    Case("orderings", "n!", same, orderings, 4, 10),
)

HELD_BACK = (
    Case("the last", "1", floats, lambda x: x[-1], 8, 65536),
    Case("length", "1", floats, len, 8, 65536),
    Case("swap ends", "1", floats, lambda x: (x[-1], x[0]), 16, 16384),
    Case("power of three", "log n", same, modular, 8, 2**26),
    Case("place by value", "log n", floats, lambda x: bisect.bisect(x, 2.0), 8, 262144),
    Case("growing steps", "sqrt n", same, growing_steps, 32, 2**22),
    Case("windows", "n", floats, windows, 8, 32768),
    Case("pair up", "n", floats, lambda x: list(itertools.pairwise(x)), 8, 65536),
    Case("rounded", "n", floats, lambda x: [round(each, 2) for each in x], 8, 16384),
    Case("as text", "n", floats, lambda x: list(map(str, x)), 8, 16384),
    Case("products", "n", floats, math.prod, 32, 65536),
    Case("by key", "n", floats, lambda x: {each: at for at, each in enumerate(x)}, 8, 32768),
    Case("any above", "n", floats, lambda x: any(each > 2 for each in x), 8, 65536),
    Case("filtered", "n", floats, lambda x: [each for each in x if each > 0.5], 8, 65536),
    Case("rank each", "n log n", floats, rank_each, 8, 16384),
    Case("ordered keys", "n log n", floats, lambda x: sorted(x, key=lambda each: -each), 8, 32768),
    Case("stretches", "n^1.5", floats, in_stretches, 64, 16384),
    Case("prefix sums", "n^2", floats, prefix_sums, 32, 4096),
    Case("all pairs", "n^2", same, lambda n: sum(1 for _ in itertools.combinations(range(n), 2)), 8, 1024),
    Case("grow at the front", "n^2", same, grow_front, 512, 65536),
    Case("digits by the book", "n^2", digits, lambda x: x[0] * x[1], 4, 60),
    Case("digits in three", "n^1.58", digits, lambda x: x[0] * x[1], 140, 9000),
    Case("lowest triples", "n^3", same, lowest_triples, 6, 160),
    Case("calls in pairs", "2^n", same, branches_off, 3, 17),
    Case("orderings in full", "n!", same, lambda n: len(list(itertools.permutations(range(n)))), 4, 9),
)
