"""Crossovers of real pairs, found in runs of ten seconds, against a plain loop that takes both in turn.

python benchmarks/pairs.py                six runs of each pair: some minutes
python benchmarks/pairs.py --runs 25      more
python benchmarks/pairs.py --busy         with two programs beside them

The loop reads processor time around calls on fresh inputs, at seven sizes about the crossover, and takes the parabola
through the logarithm of the ratio.
"""

from __future__ import annotations

import argparse
import gc
import json
import math
import random
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

COMMAND = Path(sys.executable).with_name("logarithm")
HEAD = """
from logarithm import Study
study = Study("ships", sizes="4..256 *1.19")
@study.family
def ships(n, rng): return [rng.random() * n for _ in range(n)]
"""
NEAR = """
@study.contender
def by_pairs(ships):
    near = 0
    for at, one in enumerate(ships):
        for other in ships[:at]:
            if -1 < one - other < 1: near += 1
    return near
@study.contender
def by_bands(ships):
    bands, near = {}, 0
    for one in ships:
        band = int(one)
        for beside in (band - 1, band, band + 1):
            for other in bands.get(beside, ()):
                if -1 < one - other < 1: near += 1
        bands.setdefault(band, []).append(one)
    return near
"""
LAST = """
@study.contender
def by_steps(ships):
    ahead = 0
    for one in ships:
        for other in ships:
            ahead += other > one
    return ahead
@study.contender
def by_halves(ships):
    def parted(line):
        if len(line) < 2: return line, 0
        middle = len(line) // 2
        (left, a), (right, b) = parted(line[:middle]), parted(line[middle:])
        made, one, other = [], 0, 0
        while one < len(left) and other < len(right):
            if left[one] <= right[other]: made.append(left[one]); one += 1
            else: made.append(right[other]); other += 1
        return made + left[one:] + right[other:], a + b
    line, _ = parted(ships)
    ahead = done = 0
    for at, one in enumerate(line):
        if at and line[at - 1] != one: done = at
        ahead += done
    return ahead
"""
PAIRS = {"by_pairs, by_bands": NEAR, "by_steps, by_halves": LAST}


def reference(functions: list[Callable[[list[float]], Any]], near: float) -> float:
    """The crossover as a plain loop finds it, near a size."""
    sizes = sorted({round(near * factor) for factor in (0.5, 0.65, 0.8, 1.0, 1.25, 1.5, 2.0)})
    logs = []
    gc.disable()
    for size in sizes:
        took = [0, 0]
        for _ in range(round(1.5e5 / size)):
            ships = [random.random() * size for _ in range(size)]
            for which, function in enumerate(functions):
                given = ships[:]
                begun = time.thread_time_ns()
                function(given)
                took[which] += time.thread_time_ns() - begun
        logs.append(math.log(took[0] / took[1]))
    gc.enable()
    x = np.log(np.array(sizes))
    roots = np.roots(np.polyfit(x, logs, 2))
    real = [float(math.exp(root.real)) for root in roots if abs(root.imag) < 1e-9 and x[0] <= root.real <= x[-1]]
    return real[0] if real else math.nan


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--runs", type=int, default=6)
    parser.add_argument("--busy", action="store_true")
    asked = parser.parse_args()
    beside = [subprocess.Popen([sys.executable, "-c", "while True: pass"]) for _ in range(2 * asked.busy)]
    print("| pair | reference | found | held | reach, median | seconds |\n|---|---|---|---|---|---|")
    try:
        for name, text in PAIRS.items():
            with tempfile.TemporaryDirectory() as room:
                pair(name, HEAD + text, Path(room), asked.runs)
    finally:
        for each in beside:
            each.kill()


def pair(name: str, text: str, folder: Path, runs: int) -> None:
    (folder / "study.py").write_text(text)
    found: list[tuple[float, float, float]] = []
    seconds = []
    for seed in range(1, runs + 1):
        command = ["measure", "study.py", "--budget", "10s", "--out", f"{seed}.jsonl", "--seed", str(seed), "-q"]
        subprocess.run([COMMAND, *command], cwd=folder, capture_output=True, check=False)
        shown = subprocess.run(
            [COMMAND, "report", f"{seed}.jsonl", "--format", "json"], cwd=folder, capture_output=True, check=False
        )
        findings = json.loads(shown.stdout)
        seconds.append(findings["run"]["elapsed"])
        found += [(each["size"], each["low"], each["high"]) for each in findings["crossovers"][:1]]
    space: dict[str, Any] = {"__name__": "study"}
    exec(compile(text, "study.py", "exec"), space)
    near = statistics.median(size for size, _, _ in found)
    truth = reference([space[each] for each in name.split(", ")], near)
    held = sum(low <= truth <= high for _, low, high in found)
    reach = statistics.median(max(high / size, size / low) - 1 for size, low, high in found)
    sizes = f"{min(size for size, _, _ in found):.1f} to {max(size for size, _, _ in found):.1f}"
    print(
        f"| {name} | {truth:.1f} | {sizes}, {len(found)} of {runs} | {held} of {len(found)} | {100 * reach:.1f} % "
        f"| {statistics.median(seconds):.1f} |",
        flush=True,
    )


if __name__ == "__main__":
    main()
