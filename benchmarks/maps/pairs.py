"""Real pairs on a map: the boundary that a run finds against a plain loop that takes both contenders in turn.

    python benchmarks/maps/pairs.py [--budget 15s] [--only NAME]

The reference goes through a fine ladder of the second size at three first sizes, takes fresh inputs in turn, reads the
processor's time, and looks where the lower quartiles of both cross.
"""

from __future__ import annotations

import argparse
import bisect
import heapq
import math
import random
import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import logarithm


def levels_and_k(n: int, k: int, rng: random.Random) -> Any:
    return [rng.random() for _ in range(n)], k


def levels_and_asked(n: int, k: int, rng: random.Random) -> Any:
    levels = sorted(rng.random() for _ in range(n))
    return levels, [rng.choice(levels) for _ in range(k)]


def by_heap(asked: Any) -> Any:
    levels, k = asked
    waiting = levels[:]
    heapq.heapify(waiting)
    return [heapq.heappop(waiting) for _ in range(k)]


def by_order(asked: Any) -> Any:
    levels, k = asked
    return sorted(levels)[:k]


def by_looks(asked: Any) -> Any:
    levels, k = asked
    left, found = levels[:], []
    for _ in range(k):
        lowest = min(left)
        left.remove(lowest)
        found.append(lowest)
    return found


def by_walking(asked: Any) -> Any:
    levels, wanted = asked
    return [levels.index(level) for level in wanted]


def by_table(asked: Any) -> Any:
    levels, wanted = asked
    place = {level: at for at, level in enumerate(levels)}
    return [place[level] for level in wanted]


def by_halves(asked: Any) -> Any:
    levels, wanted = asked
    return [bisect.bisect_left(levels, level) for level in wanted]


def by_kept(asked: Any) -> Any:
    levels, k = asked
    kept: list[float] = []
    for level in levels:
        if len(kept) < k:
            bisect.insort(kept, level)
        elif level < kept[-1]:
            kept.pop()
            bisect.insort(kept, level)
    return kept


Code = Callable[[Any], Any]
PAIRS: dict[str, tuple[Any, Code, Code, str, str]] = {
    "heap against order": (levels_and_k, by_heap, by_order, "256..16384 *2", "1..2048 *2"),
    "looks against order": (levels_and_k, by_looks, by_order, "64..4096 *2", "1..64 *2"),
    "walking against a table": (levels_and_asked, by_walking, by_table, "64..4096 *2", "1..256 *2"),
    "halves against a table": (levels_and_asked, by_halves, by_table, "64..4096 *2", "1..4096 *2"),
    "kept against order": (levels_and_k, by_kept, by_order, "256..16384 *2", "1..1024 *2"),
}


def reference(make: Any, one: Code, other: Code, n: int, ladder: list[int]) -> float | None:
    """The second size at which both cost the same, at a first size; None where one leads all along."""
    ratios = []
    for k in ladder:
        instances = [make(n, k, random.Random(seed)) for seed in range(24)]
        took: dict[Code, list[float]] = {one: [], other: []}
        for turn in range(12):
            for code in (one, other) if turn % 2 else (other, one):
                begun = time.process_time_ns()
                for instance in instances:
                    code(instance)
                took[code].append((time.process_time_ns() - begun) / len(instances))
        ratios.append(math.log(*[statistics.quantiles(took[one])[0] / statistics.quantiles(took[other])[0]]))
    flips = [at for at in range(len(ladder) - 1) if ratios[at] * ratios[at + 1] <= 0]
    if not flips:
        return None
    at = flips[len(flips) // 2]
    share = ratios[at] / (ratios[at] - ratios[at + 1])
    return float(ladder[at] * (ladder[at + 1] / ladder[at]) ** share)


def found_by(name: str, budget: str) -> logarithm.Findings:
    """What a run of the tool finds of a pair."""
    make, one, other, first, second = PAIRS[name]
    text = [f'name = "{name}"', f'sizes = {{ n = "{first}", k = "{second}" }}', f'where = "{Path(__file__)}:possible"']
    text += ["[[family]]", f'python = "{Path(__file__)}:{make.__name__}"']
    for code in (one, other):
        text += ["[[contender]]", f'python = "{Path(__file__)}:{code.__name__}"']
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "pair.toml"
        file.write_text("\n".join(text) + "\n")
        from logarithm.api import tasks

        return tasks.measure(file, budget, out=Path(folder) / "pair.jsonl", quiet=True, ceiling="0.1s")


def possible(n: int, k: int) -> bool:
    """No more are wanted than there are."""
    return k <= n


def main() -> None:
    """Run what was asked for, and print a line for each pair."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--budget", default="15s")
    parser.add_argument("--only", choices=list(PAIRS))
    asked = parser.parse_args()
    errors = []
    for name in [asked.only] if asked.only else PAIRS:
        make, one, other, _, _ = PAIRS[name]
        begun = time.monotonic()
        found = found_by(name, asked.budget)
        took = time.monotonic() - begun
        edges = [edge for edge in found.boundaries if edge.along == "k"]
        told = []
        for edge in edges[:1]:
            rows = [edge.curve[round(share * (len(edge.curve) - 1))] for share in (0.15, 0.5, 0.85)]
            for row in rows:
                n = round(row["n"])
                ladder = sorted({max(1, min(round(row["k"] * 1.12**step), n)) for step in range(-6, 7)})
                truth = reference(make, one, other, n, ladder)
                if truth is None:
                    told.append(f"n = {n}: {row['k']:.3g}, no crossing seen near it")
                    continue
                errors.append(abs(math.log(row["k"] / truth)))
                held = "in" if row["low"] <= truth <= row["high"] else "out of"
                told.append(f"n = {n}: {row['k']:.3g} against {truth:.3g}, {held} its band")
        said = edges[0].law if edges else "no boundary"
        print(f"{name} ({took:.0f} s, settled {found.run.settled}): {said}; {'; '.join(told)}", flush=True)
    if errors:
        within = sum(each <= math.log(1.2) for each in errors)
        print(f"within 20 %: {within} of {len(errors)}; median error {100 * statistics.median(errors):.0f} %")


if __name__ == "__main__":
    main()
