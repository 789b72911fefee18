"""Thirty functions whose work is inside built-ins, containers, texts and arrays, with their orders."""

from __future__ import annotations

import heapq
import itertools
import json
import random
from collections import Counter, deque
from typing import Any

import numpy as np
from functions import Case, floats
from solutions import cut_shorter, inserted, put_in_front

WORDS = ("tide", "buoy", "berth", "foghorn", "lamp", "quay", "mole", "pilot")


def array(n: int) -> Any:
    return np.random.default_rng(n).random(n)


def square(n: int) -> Any:
    return np.random.default_rng(n).random((n, n))


def twin(n: int) -> Any:
    return np.random.default_rng(n).random(1 << round(np.log2(n)))


def whole(n: int) -> list[int]:
    chance = random.Random(n)
    return [chance.randrange(10 * n) for _ in range(n)]


def words(n: int) -> list[str]:
    chance = random.Random(n)
    return [chance.choice(WORDS) + str(chance.randrange(100, 1000)) for _ in range(n)]


def letters(n: int) -> str:
    return "".join(random.Random(n).choices("abcdefgh", k=n))


def long_number(n: int) -> int:
    return random.Random(n).getrandbits(30 * n) | 1 << (30 * n - 1)


def points(n: int) -> list[tuple[float, float]]:
    chance = random.Random(n)
    return [(chance.random(), chance.random()) for _ in range(n)]


def taken_out(levels: list[int]) -> list[int]:
    """The least one removed again and again."""
    rest, order = list(levels), []
    while rest:
        least = min(rest)
        rest.remove(least)
        order.append(least)
    return order


def heaped(levels: list[int]) -> list[int]:
    heap = list(levels)
    heapq.heapify(heap)
    return [heapq.heappop(heap) for _ in range(len(heap))]


def grown_bytes(levels: list[int]) -> bytes:
    made = b""
    for level in levels:
        made += bytes((level % 256,))
    return made


def both_ends(levels: list[int]) -> int:
    line, total = deque(levels), 0
    while len(line) > 1:
        total += line.popleft() - line.pop()
    return total


def widest_gap(levels: list[float]) -> float:
    rising = sorted(levels)
    return max(b - a for a, b in itertools.pairwise(rising))


def by_degree(levels: list[int]) -> list[tuple[int, int]]:
    return sorted((level % 7, level) for level in levels)


def repeated(levels: list[int]) -> list[int]:
    return [level for level in levels if levels.count(level) > 1]


def prefixes(text: str) -> int:
    return len({text[:end] for end in range(len(text))})


def seen_before(names: list[str]) -> int:
    met: dict[str, int] = {}
    for name in names:
        met[name] = met.get(name, 0) + 1
    return max(met.values())


def pairs_apart(a: Any) -> Any:
    return np.abs(a[:, None] - a).max()


def lowest_rows(m: Any) -> Any:
    return np.sort(m, axis=1)[:, 0].sum()


def running(a: Any) -> Any:
    return (np.cumsum(a) / np.arange(1, len(a) + 1)).max()


def one_by_one(a: Any) -> float:
    total = 0.0
    for at in range(len(a)):
        total += a[at:].max()
    return total


COMPILED = (
    Case("taken out", "n^2", whole, taken_out, 8, 3000),
    Case("in front", "n^2", whole, put_in_front, 64, 60000),
    Case("inserted", "n^2", whole, inserted, 256, 120000),
    Case("heaped", "n log n", whole, heaped, 8, 40000),
    Case("cut shorter", "n^2", whole, cut_shorter, 64, 12000),
    Case("grown bytes", "n^2", whole, grown_bytes, 256, 120000),
    Case("both ends", "n", whole, both_ends, 8, 60000),
    Case("widest gap", "n log n", floats, widest_gap, 8, 60000),
    Case("by degree", "n log n", whole, by_degree, 8, 60000),
    Case("points in order", "n log n", points, sorted, 8, 60000),
    Case("repeated", "n^2", whole, repeated, 8, 2000),
    Case("prefixes", "n^2", letters, prefixes, 64, 12000),
    Case("seen before", "n", words, seen_before, 8, 60000),
    Case("counted words", "n", words, Counter, 8, 60000),
    Case("joined", "n", words, " ".join, 8, 60000),
    Case("written down", "n", words, json.dumps, 8, 30000),
    Case("turned round", "n", letters, lambda text: text[::-1] == text, 64, 400000),
    Case("product", "n^1.585", long_number, lambda number: number * number, 128, 12000),
    Case("in decimals", "n^2", long_number, lambda number: str(number) if number.bit_length() < 13000 else 0, 16, 420),
    Case("largest ten", "n", whole, lambda levels: heapq.nlargest(10, levels), 32, 60000),
    Case("array in order", "n log n", array, np.sort, 64, 500000),
    Case("spectrum", "n log n", twin, np.fft.fft, 64, 500000),
    Case("smoothed", "n^2", array, lambda a: np.convolve(a, a), 64, 12000),
    Case("matrix by vector", "n^2", square, lambda m: m @ m[0], 16, 1400),
    Case("placed", "n log n", array, lambda a: np.searchsorted(np.sort(a), a), 64, 200000),
    Case("pairs apart", "n^2", array, pairs_apart, 32, 1600),
    Case("rows in order", "n^2 log n", square, lowest_rows, 16, 1000),
    Case("running mean", "n", array, running, 64, 800000),
    Case("one by one", "n^2", array, one_by_one, 256, 20000),
    Case("inverse", "n^3", square, np.linalg.inv, 16, 400),
)
