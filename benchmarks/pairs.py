"""Crossovers of real pairs, found in runs of ten seconds, against a plain loop that takes both in turn.

python benchmarks/pairs.py                six runs of each pair: some minutes; one pair needs cc
python benchmarks/pairs.py --runs 25      more
python benchmarks/pairs.py --busy         with two programs beside them
python benchmarks/pairs.py --only bands   those whose name has this in it

The loop reads processor time around calls on fresh inputs, at seven sizes about the crossover, and takes the parabola
through the logarithm of the ratio. It runs in five processes, whose crossovers lie apart; their median is held against
what was found.
"""

from __future__ import annotations

import argparse
import array
import ctypes
import gc
import json
import math
import multiprocessing
import random
import shutil
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
PROCESSES = 5
HEAD = """
from logarithm import Study
study = Study("ships", sizes="{sizes}")
@study.family(format="lines")
def ships(n, rng): return [rng.random() * n for _ in range(n)]
"""
PAIRWISE = """
@study.contender
def by_pairs(ships):
    near = 0
    for at, one in enumerate(ships):
        for other in ships[:at]:
            if -1 < one - other < 1: near += 1
    return near
"""
BANDS = """
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
STEPS = """
@study.contender
def by_steps(ships):
    ahead = 0
    for one in ships:
        for other in ships:
            ahead += other > one
    return ahead
"""
HALVES = """
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
RANKS = """
@study.contender
def by_ranks(ships):
    rank = {one: at for at, one in enumerate(sorted(set(ships)), 1)}
    tree, ahead = [0] * (len(rank) + 1), 0
    for seen, one in enumerate(ships):
        for at, sign in ((rank[one] - 1, 1), (rank[one], -1)):
            while at:
                ahead += sign * tree[at]
                at &= at - 1
        ahead += seen
        at = rank[one]
        while at < len(tree):
            tree[at] += 1
            at += at & -at
    return ahead
"""
COMPILED = """
study.program("in_c", worker=["{build}/worker"], build=["cc", "-O2", "-o", "{build}/worker", "near.c", "-lm"])
"""
DRAFTED = """double best = count ? values[0] : 0;
    for (size_t i = 1; i < count; i++)
        if (values[i] > best) best = values[i];
    return best;"""
NEAR = """double near = 0;
    for (size_t i = 0; i < count; i++)
        for (size_t j = 0; j < i; j++)
            if (values[i] - values[j] < 1 && values[i] - values[j] > -1) near++;
    return near;"""
PAIRS = {
    "by_pairs, by_bands": ("4..256 *1.19", PAIRWISE + BANDS),
    "by_steps, by_halves": ("4..256 *1.19", STEPS + HALVES),
    "by_steps, by_ranks": ("4..256 *1.19", STEPS + RANKS),
    "in_c, by_bands": ("128..4096 *1.19", BANDS + COMPILED),
}
Job = Callable[[Any], Any]


def jobs(name: str, folder: Path) -> list[Job]:
    """The two jobs of a pair as functions of an instance."""
    sizes, text = PAIRS[name]
    space: dict[str, Any] = {"__name__": "study"}
    exec(compile(HEAD.replace("{sizes}", sizes) + text.replace(COMPILED, ""), "study.py", "exec"), space)
    if "in_c" in name:
        (folder / "job.c").write_text(f"#include <stddef.h>\ndouble job(const double *values, size_t count) {{{NEAR}}}")
        library = folder / f"job-{time.monotonic_ns()}.so"
        subprocess.run(["cc", "-O2", "-shared", "-fPIC", "-o", library, folder / "job.c"], check=True)
        code = ctypes.CDLL(str(library)).job
        code.restype = ctypes.c_double
        space["in_c"] = lambda ships: code(ctypes.c_void_p(ships.buffer_info()[0]), ctypes.c_size_t(len(ships)))
    return [space[each] for each in name.split(", ")]


def by_hand(name: str, near: float, folder: Path) -> float:
    """The crossover as a plain loop finds it, near a size."""
    sizes = sorted({round(near * factor) for factor in (0.5, 0.65, 0.8, 1.0, 1.25, 1.5, 2.0)})
    logs, functions = [], jobs(name, folder)
    gc.disable()
    for size in sizes:
        took = [0, 0]
        for _ in range(max(60, round(1.5e5 / size))):
            ships = [random.random() * size for _ in range(size)]
            for which, function in enumerate(functions):
                given = ships[:] if (which or "in_c" not in name) else array.array("d", ships)
                begun = time.thread_time_ns()
                function(given)
                took[which] += time.thread_time_ns() - begun
        logs.append(math.log(took[0] / took[1]))
    gc.enable()
    x = np.log(np.array(sizes))
    roots = np.roots(np.polyfit(x, logs, 2))
    real = [float(math.exp(root.real)) for root in roots if abs(root.imag) < 1e-9 and x[0] <= root.real <= x[-1]]
    return real[0] if real else math.nan


def reference(name: str, near: float, folder: Path) -> list[float]:
    """What the loop finds in some processes of its own, rising."""
    fresh = multiprocessing.get_context("spawn")
    found = []
    for _ in range(PROCESSES):
        with fresh.Pool(1) as pool:
            found.append(pool.apply(by_hand, (name, near, folder)))
    return sorted(each for each in found if not math.isnan(each))


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--runs", type=int, default=6)
    parser.add_argument("--busy", action="store_true")
    parser.add_argument("--only", default="")
    asked = parser.parse_args()
    beside = [subprocess.Popen([sys.executable, "-c", "while True: pass"]) for _ in range(2 * asked.busy)]
    print("| pair | by hand | found | held | reach, median | seconds |\n|---|---|---|---|---|---|")
    try:
        for name in (each for each in PAIRS if asked.only in each):
            if "in_c" in name and shutil.which("cc") is None:
                print(f"| {name} | cc is not installed: left out | | | | |")
                continue
            with tempfile.TemporaryDirectory() as room:
                pair(name, Path(room), asked.runs)
    finally:
        for each in beside:
            each.kill()


def pair(name: str, folder: Path, runs: int) -> None:
    sizes, text = PAIRS[name]
    (folder / "study.py").write_text(HEAD.replace("{sizes}", sizes) + text)
    if COMPILED in text:
        subprocess.run([COMMAND, "draft", "near.c"], cwd=folder, check=True, capture_output=True)
        drafted = (folder / "near.c").read_text()
        assert DRAFTED in drafted
        (folder / "near.c").write_text(drafted.replace(DRAFTED, NEAR))
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
    if not found:
        print(f"| {name} | | none of {runs} | | | |")
        return
    by_loop = reference(name, statistics.median(size for size, _, _ in found), folder)
    truth = statistics.median(by_loop)
    held = sum(low <= truth <= high for _, low, high in found)
    reach = statistics.median(max(high / size, size / low) - 1 for size, low, high in found)
    sizes = f"{min(size for size, _, _ in found):.1f} to {max(size for size, _, _ in found):.1f}"
    print(
        f"| {name} | {truth:.1f} ({by_loop[0]:.1f} to {by_loop[-1]:.1f}) | {sizes}, {len(found)} of {runs} "
        f"| {held} of {len(found)} | {100 * reach:.1f} % | {statistics.median(seconds):.1f} |",
        flush=True,
    )


if __name__ == "__main__":
    main()
