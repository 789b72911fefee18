"""Functions of two sizes whose laws are known, in our own scenario: (law, first sizes, second sizes, function)."""

from __future__ import annotations

import bisect
import heapq
import random
from collections.abc import Callable

RNG = random.Random(11)
Case = tuple[str, tuple[int, int], tuple[int, int], Callable[[int, int], object]]


def lowest_by_heap(n: int, k: int) -> list[float]:
    levels = [RNG.random() for _ in range(n)]
    heapq.heapify(levels)
    return [heapq.heappop(levels) for _ in range(min(k, n))]


def lowest_by_order(n: int, k: int) -> list[float]:
    levels = [RNG.random() for _ in range(n)]

    def halves(rows: list[float]) -> list[float]:
        if len(rows) < 2:
            return rows
        left, right = halves(rows[: len(rows) // 2]), halves(rows[len(rows) // 2 :])
        made, i, j = [], 0, 0
        while i < len(left) and j < len(right):
            if left[i] <= right[j]:
                made.append(left[i])
                i += 1
            else:
                made.append(right[j])
                j += 1
        return made + left[i:] + right[j:]

    return halves(levels)[:k]


def lowest_each_time(n: int, k: int) -> list[float]:
    levels, found = [RNG.random() for _ in range(n)], []
    for _ in range(k):
        least = 0
        for i in range(1, len(levels)):
            if levels[i] < levels[least]:
                least = i
        found.append(levels[least])
        levels[least] = 2.0
    return found


def signal_in_log(n: int, k: int) -> int:
    log, signal, seen = "." * n, "." * (k - 1) + "!", 0
    for i in range(n - k + 1):
        j = 0
        while j < k and log[i + j] == signal[j]:
            j += 1
        seen += j == k
    return seen


def readings(n: int, k: int) -> float:
    total = 0.0
    for station in range(n):
        for hour in range(k):
            total += station * hour % 7
    return total


def tables_looked_up(n: int, k: int) -> int:
    table, total = range(n), 0
    for _ in range(k):
        wanted, low, high = RNG.randrange(n), 0, n
        while low < high:
            middle = (low + high) // 2
            if table[middle] < wanted:
                low = middle + 1
            else:
                high = middle
        total += low
    return total


def two_logs(n: int, k: int) -> int:
    total = 0
    for buoy in range(n):
        total += buoy & 3
    for bell in range(k):
        total ^= bell
    return total


def every_pair_then_list(n: int, k: int) -> int:
    near = 0
    for i in range(n):
        for j in range(n):
            near += (i ^ j) == 1
    for hour in range(k):
        near += hour & 1
    return near


def loads(n: int, k: int) -> int:
    best = [0] * (k + 1)
    for crate in range(n):
        weight = 1 + crate % 3
        for room in range(k, weight - 1, -1):
            value = best[room - weight] + crate
            if value > best[room]:
                best[room] = value
    return best[k]


def logs_merged(n: int, k: int) -> list[float]:
    runs = [sorted(RNG.random() for _ in range(max(1, n // k))) for _ in range(k)]
    while len(runs) > 1:
        merged = []
        for at in range(0, len(runs) - 1, 2):
            left, right, made, i, j = runs[at], runs[at + 1], [], 0, 0
            while i < len(left) and j < len(right):
                if left[i] < right[j]:
                    made.append(left[i])
                    i += 1
                else:
                    made.append(right[j])
                    j += 1
            merged.append(made + left[i:] + right[j:])
        runs = merged + runs[len(runs) - len(runs) % 2 :]
    return runs[0]


def distances_doubled(n: int, k: int) -> int:
    total = 0
    while k:
        for i in range(n):
            for j in range(n):
                total += i == j
        k >>= 1
    return total


def pairs_over_hours(n: int, k: int) -> int:
    total = 0
    for i in range(n):
        for j in range(n):
            for hour in range(k):
                total += i ^ j ^ hour
    return total


def only_stations(n: int, _: int) -> int:
    total = 0
    for i in range(n):
        total += i % 5
    return total


def only_hours(_: int, k: int) -> int:
    total = 0
    for i in range(k):
        for j in range(k):
            total += i & j
    return total


def ordered_then_asked(n: int, k: int) -> int:
    table = lowest_by_order(n, n)
    total = 0
    for _ in range(k):
        wanted, low, high = RNG.random(), 0, n
        while low < high:
            middle = (low + high) // 2
            if table[middle] < wanted:
                low = middle + 1
            else:
                high = middle
        total += low
    return total


def spread(n: int, k: int) -> int:
    """A search over n stations and k channels between them."""
    near: list[list[int]] = [[] for _ in range(n)]
    for _ in range(k):
        one, other = RNG.randrange(n), RNG.randrange(n)
        near[one].append(other)
        near[other].append(one)
    seen, order = [False] * n, []
    for start in range(n):
        if seen[start]:
            continue
        seen[start] = True
        order.append(start)
        at = len(order) - 1
        while at < len(order):
            for other in near[order[at]]:
                if not seen[other]:
                    seen[other] = True
                    order.append(other)
            at += 1
    return len(order)


def shortest(n: int, k: int) -> list[float]:
    """Shortest ways from one station over k channels, the next one taken by looking at all."""
    near: list[list[tuple[int, float]]] = [[] for _ in range(n)]
    for _ in range(k):
        near[RNG.randrange(n)].append((RNG.randrange(n), RNG.random()))
    far, done = [9e9] * n, [False] * n
    far[0] = 0.0
    for _ in range(n):
        best = -1
        for i in range(n):
            if not done[i] and (best < 0 or far[i] < far[best]):
                best = i
        done[best] = True
        for other, way in near[best]:
            if far[best] + way < far[other]:
                far[other] = far[best] + way
    return far


def two_tracks(n: int, k: int) -> int:
    """How alike two tracks are, by a table of n rows and k columns."""
    one, other = [RNG.randrange(4) for _ in range(n)], [RNG.randrange(4) for _ in range(k)]
    row = [0] * (k + 1)
    for mark in one:
        before = 0
        for j in range(k):
            above = row[j + 1]
            row[j + 1] = before + 1 if mark == other[j] else max(above, row[j])
            before = above
    return row[k]


def window(n: int, k: int) -> list[int]:
    """The highest of each k hours in turn, looked for anew each time."""
    levels = [RNG.randrange(99) for _ in range(n)]
    found = []
    for i in range(n - k + 1):
        high = levels[i]
        for j in range(i + 1, i + k):
            if levels[j] > high:
                high = levels[j]
        found.append(high)
    return found


def window_sum(n: int, k: int) -> int:
    levels = [RNG.randrange(99) for _ in range(n)]
    total = 0
    for i in range(k):
        total += levels[i]
    best = total
    for i in range(k, n):
        total += levels[i] - levels[i - k]
        if total > best:
            best = total
    return best


def raised(n: int, k: int) -> int:
    """A matrix of moves raised to a power by squaring: n³ log k."""
    rows = [[(i * j) % 3 for j in range(n)] for i in range(n)]

    def times(one: list[list[int]], other: list[list[int]]) -> list[list[int]]:
        made = []
        for i in range(n):
            line = []
            for j in range(n):
                total = 0
                for m in range(n):
                    total += one[i][m] * other[m][j]
                line.append(total % 1009)
            made.append(line)
        return made

    result, power = rows, k
    while power > 1:
        rows = times(rows, rows)
        if power & 1:
            result = times(result, rows)
        power >>= 1
    return result[0][0]


def kept_in_order(n: int, k: int) -> list[float]:
    """The k lowest, kept in a list in order, each put in its place by moving the others."""
    kept: list[float] = []
    for _ in range(n):
        level = RNG.random()
        if len(kept) < k:
            kept.append(level)
        elif level < kept[-1]:
            kept[-1] = level
        at = len(kept) - 1
        while at and kept[at - 1] > kept[at]:
            kept[at - 1], kept[at] = kept[at], kept[at - 1]
            at -= 1
    return kept


def each_by_halves(n: int, k: int) -> int:
    """N questions put to a table of k tides."""
    table = [i / k for i in range(k)]
    total = 0
    for _ in range(n):
        total += bisect.bisect_left(table, RNG.random())
        low, high, wanted = 0, k, RNG.random()
        while low < high:
            middle = (low + high) // 2
            if table[middle] < wanted:
                low = middle + 1
            else:
                high = middle
        total += low
    return total


def subsets(n: int, k: int) -> int:
    """Every choice of k flags, looked through for n signals."""
    total = 0
    for choice in range(2**k):
        for signal in range(n):
            total += (choice >> (signal % 8)) & 1
    return total


CASES: dict[str, Case] = {
    "lowest_by_heap": ("n + k", (1024, 8192), (4, 1024), lowest_by_heap),
    "lowest_by_order": ("n log n", (64, 2048), (2, 64), lowest_by_order),
    "lowest_each_time": ("n k", (16, 512), (4, 16), lowest_each_time),
    "signal_in_log": ("n k", (16, 512), (2, 16), signal_in_log),
    "readings": ("n k", (4, 256), (4, 256), readings),
    "tables_looked_up": ("k log n", (16, 65536), (4, 256), tables_looked_up),
    "two_logs": ("n + k", (16, 4096), (16, 4096), two_logs),
    "every_pair_then_list": ("n^2 + k", (4, 64), (16, 16384), every_pair_then_list),
    "loads": ("n k", (4, 128), (8, 256), loads),
    "logs_merged": ("n log k", (256, 4096), (2, 128), logs_merged),
    "distances_doubled": ("n^2 log k", (4, 48), (2, 4096), distances_doubled),
    "pairs_over_hours": ("n^2 k", (4, 32), (4, 64), pairs_over_hours),
    "only_stations": ("n", (8, 2048), (8, 2048), only_stations),
    "only_hours": ("k^2", (8, 2048), (4, 64), only_hours),
    "ordered_then_asked": ("n log n + k log n", (32, 1024), (8, 2048), ordered_then_asked),
    "spread": ("n + k", (64, 2048), (64, 8192), spread),
    "shortest": ("n^2 + k", (8, 128), (8, 32768), shortest),
    "two_tracks": ("n k", (8, 128), (8, 128), two_tracks),
    "window": ("n k", (64, 512), (2, 32), window),
    "window_sum": ("n", (64, 4096), (2, 32), window_sum),
    "raised": ("n^3 log k", (2, 14), (2, 4096), raised),
    "kept_in_order": ("n + k^2 log n", (512, 8192), (2, 64), kept_in_order),
    "each_by_halves": ("n log k + k", (8, 1024), (8, 8192), each_by_halves),
    "subsets": ("n 2^k", (8, 128), (2, 9), subsets),
}
