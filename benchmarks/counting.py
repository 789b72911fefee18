"""Counting: how much it slows a contender down, whether it repeats, and exact forms found and invented.

python benchmarks/counting.py [PYTHON ...]   with other interpreters named, steps are counted under these too
"""

from __future__ import annotations

import math
import random
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

from logarithm.counting.items.counted import counted
from logarithm.counting.steps import counted_steps
from logarithm.counting.tallies import counting
from logarithm.statistics.growth.exact import closed_form
from logarithm.worker.count.counts import allocated

SIZES = [2, 3, 4, 6, 8, 11, 16, 23, 32, 45, 64, 91, 128]
HIGH: Callable[[int], int] = lambda n: (n - 1).bit_length()  # noqa: E731
LOW: Callable[[int], int] = lambda n: n.bit_length() - 1  # noqa: E731

KNOWN: dict[str, Callable[[int], int]] = {
    "n - 1": lambda n: n - 1,
    "pairs": lambda n: n * (n - 1) // 2,
    "pairs with oneself": lambda n: n * (n + 1) // 2,
    "triples": lambda n: n * (n - 1) * (n - 2) // 6,
    "stretches of stretches": lambda n: n * (n + 1) * (n + 2) // 6,
    "sum of squares": lambda n: n * (n + 1) * (2 * n + 1) // 6,
    "sum of cubes": lambda n: (n * (n + 1) // 2) ** 2,
    "a quadratic": lambda n: 3 * n * n + 2 * n + 1,
    "a cubic less a line": lambda n: n**3 - n,
    "halvings": LOW,
    "halvings and one": lambda n: LOW(n) + 1,
    "doublings": HIGH,
    "n doublings": lambda n: n * HIGH(n),
    "merging at most": lambda n: n * HIGH(n) - 2 ** HIGH(n) + 1,
    "halving across": lambda n: n * LOW(n) + 2 * n - 2 * 2 ** LOW(n),
    "n and its root": lambda n: n + 2 * math.isqrt(n),
    "root": math.isqrt,
    "halves, rounded down": lambda n: n // 2,
    "halves, rounded up": lambda n: (n + 1) // 2,
    "quarter squares": lambda n: n * n // 4,
    "three halves": lambda n: 3 * n // 2,
    "always seven": lambda _: 7,
}


def formless(seed: int) -> list[int]:
    """Counts that have no form: rounded powers, divisors, bits, chance."""
    chance = random.Random(seed)
    kinds: list[Callable[[int], int]] = [
        lambda n: int(n ** (1.1 + seed / 40)),
        lambda n: int(n * math.log(n + seed)),
        lambda n: sum(n % k == 0 for k in range(1, n + 1)) + seed * n,
        lambda n: sum(bin(i).count("1") for i in range(n + seed)),
        lambda n: n * n + chance.randrange(3),
    ]
    return [kinds[seed % len(kinds)](n) for n in SIZES]


def loop(n: int) -> int:
    total = 0
    for i in range(n):
        total += i * i & 7
    return total


def highest(levels: list[float]) -> float:
    best = levels[0]
    for level in levels:
        if level > best:
            best = level
    return best


def pairs(levels: list[float]) -> int:
    later = 0
    for i in range(len(levels)):
        for j in range(i):
            if levels[i] > levels[j]:
                later += i - j
    return later


def seconds(call: Callable[[], object]) -> float:
    times = []
    for _ in range(5):
        begun = time.perf_counter()
        call()
        times.append(time.perf_counter() - begun)
    return float(np.median(times))


def main() -> None:
    print("| what | measured | promised |\n|---|---|---|")
    plain = seconds(lambda: loop(20_000))
    slow = seconds(lambda: counted_steps(lambda: loop(20_000))) / plain
    print(f"| steps slow a plain loop down | {slow:.0f} × | 60 × |")
    chance = random.Random(1)
    levels = [chance.random() for _ in range(20_000)]
    few = levels[:300]
    for what, job, given in (
        ("a bare loop of comparisons", highest, levels),
        ("comparisons of every pair", pairs, few),
    ):
        bare = seconds(lambda: job(given))  # noqa: B023
        for lists in (False, True):
            own = counted(given, lists=lists)
            with counting():
                slow = seconds(lambda: job(own)) / bare  # noqa: B023
            print(f"| comparisons{' and reads' if lists else ''} slow {what} down | {slow:.0f} × | 10 × |")
    steps = {counted_steps(lambda: loop(1000)) for _ in range(3)}
    blocks = {tuple(allocated(lambda: [str(i) for i in range(500)]).values()) for _ in range(3)}
    print(f"| steps, and memory with allocations, in three runs | {steps}, {blocks} | one value each |")
    found = [name for name, law in KNOWN.items() if closed_form(SIZES, [law(n) for n in SIZES])]
    missed = ", ".join(name for name in KNOWN if name not in found)
    print(f"| exact forms found | {len(found)} of {len(KNOWN)} (not: {missed or 'none'}) | 20 |")
    invented = sum(closed_form(SIZES, formless(seed)) is not None for seed in range(1, 41))
    print(f"| exact forms invented where there are none | {invented} of 40 | 0 |")
    for python in sys.argv[1:]:
        script = "import counting as c; print({c.counted_steps(lambda: c.loop(1000)) for _ in range(3)})"
        room = Path(__file__).parent
        done = subprocess.run([python, "-c", script], cwd=room, capture_output=True, text=True)
        print(f"| the same steps under {python} | {done.stdout.strip() or done.stderr.splitlines()[-1]} | one value |")


if __name__ == "__main__":
    main()
