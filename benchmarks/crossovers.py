"""How well crossovers are found, on synthetic pairs whose crossings are known, and on the demo's real ones.

python benchmarks/crossovers.py              synthetic pairs, a minute
python benchmarks/crossovers.py --short      a few, for continuous integration
python benchmarks/crossovers.py --real 10    also the demo measured so many times against one long run (20 minutes)
"""

from __future__ import annotations

import argparse
import json
import math
import subprocess
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

import numpy as np

from logarithm.statistics.comparison.pair import compare_pair
from logarithm.statistics.growth.fit import fit_growth, ratio_of
from logarithm.statistics.readings.series import Series

COMMAND = Path(sys.executable).with_name("logarithm")
SIZES = np.array([8, 11, 16, 23, 32, 45, 64, 91, 128, 181, 256, 362, 512, 724, 1024], dtype=float)
Law = Callable[[np.ndarray], np.ndarray]


def pair(kind: str, chance: np.random.Generator) -> tuple[Law, Law]:
    """Two laws of cost that cross as `kind` says."""
    at = math.exp(chance.uniform(math.log(20), math.log(400)))
    if kind == "one":
        fixed = [chance.uniform(0, 0.25) * at * math.log(at), chance.uniform(0, 0.25) * at * math.log(at)]
        scale = (at * math.log(at) + fixed[1] - fixed[0]) / at**2
        return lambda n: fixed[0] + scale * n**2, lambda n: fixed[1] + n * np.log(n)
    if kind == "two":  # one has a fixed cost, the other a steeper law: ahead in the middle only
        low, high = at / chance.uniform(2.2, 3.5), at * chance.uniform(2.2, 3.5)
        steep = 1 / (low + high)
        return lambda n: n, lambda n: steep * (n**2 + low * high)
    if kind == "none":
        apart = math.exp(chance.choice([-1, 1]) * chance.uniform(0.15, 0.6))
        return lambda n: n * np.log(n), lambda n: apart * n * np.log(n)
    if kind == "touching":
        return lambda n: n, lambda n: n * np.exp(0.15 * np.log(n / at) ** 2)
    return lambda n: n**1.2, lambda n: n**1.2


def noisy(law: Law, noise: float, heats: int, chance: np.random.Generator, name: str) -> Series:
    """Costs with so much relative noise, and five per cent of them spikes."""
    table = law(SIZES)[:, None] * np.exp(noise * chance.standard_normal((len(SIZES), heats)))
    spikes = chance.random(table.shape) < 0.05
    table[spikes] *= chance.uniform(1.5, 4, spikes.sum())
    numbers = np.arange(1, heats + 1, dtype=np.int32)
    return Series(name, "tide", None, "time", SIZES, numbers, np.ones(heats, np.int32), table)


def crossings(one: Law, other: Law) -> list[float]:
    """Where two laws really cross within the sizes, to the last digit."""
    fine = np.geomspace(SIZES[0], SIZES[-1], 4001)
    apart = one(fine) - other(fine)
    flips = np.flatnonzero(apart[:-1] * apart[1:] < 0)
    # The grid is fine enough for a straight line between two of its sizes.
    slopes = np.diff(apart) / np.diff(fine)
    return [float(fine[at] - apart[at] / slopes[at]) for at in flips]


def drawn(kind: str, chance: np.random.Generator) -> tuple[tuple[Law, Law], list[float]]:
    """Two laws, and their crossings: as many as `kind` says, and none at the very ends."""
    wanted = {"one": 1, "two": 2, "none": 0}.get(kind)
    while True:
        laws = pair(kind, chance)
        truth = [] if wanted is None else crossings(*laws)
        if wanted is None or (len(truth) == wanted and all(SIZES[2] < size < SIZES[-3] for size in truth)):
            return laws, truth


def synthetic(count: int) -> None:
    print(
        "| pairs | noise | median error | covered by 95 % | missed | invented | called a tie |\n"
        "|---|---|---|---|---|---|---|"
    )
    for kind in ("one", "two", "none", "touching", "identical"):
        for noise in (0.02, 0.05, 0.10):
            chance = np.random.default_rng(5)
            errors, covered, missed, invented, ties, real = [], 0, 0, 0, 0, 0
            for _ in range(count):
                laws, truth = drawn(kind, chance)
                heats = int(chance.integers(7, 16))
                series = [noisy(law, noise, heats, chance, name) for law, name in zip(laws, "ab", strict=True)]
                found = compare_pair(*series, ratio_of(*(fit_growth(each.sizes, each.costs) for each in series)))
                real += len(truth)
                left = list(found.crossings)
                for size in truth:
                    nearest = min(left, key=lambda each: abs(math.log(each.size / size)), default=None)
                    if nearest is None or abs(math.log(nearest.size / size)) > 0.7:
                        missed += 1
                        continue
                    left.remove(nearest)
                    errors.append(abs(nearest.size / size - 1))
                    covered += nearest.low <= size <= nearest.high
                invented += len(left)
                ties += not found.crossings and all(zone.sign == 0 for zone in found.zones)
            shown = f"{100 * np.median(errors):.2f} % | {100 * covered / len(errors):.0f} %" if errors else "| "
            print(
                f"| {kind} | {100 * noise:.0f} % | {shown} | {missed} of {real} | {invented} | {ties} of {count} |",
                flush=True,
            )


def measured(folder: Path, budget: int, name: str) -> dict[tuple[str, str, str], dict]:
    """The crossovers that a run of the demo finds, by family and pair."""
    command = [COMMAND, "measure", "study.py", "--ceiling", "0.1s", "--budget", f"{budget}s", "--out", f"{name}.jsonl"]
    subprocess.run(command, cwd=folder, check=True, capture_output=True)
    told = subprocess.run(
        [COMMAND, "report", f"{name}.jsonl", "--format", "json"], cwd=folder, check=True, capture_output=True
    )
    rows = json.loads(told.stdout)["crossovers"]
    return {(row["family"], row["before"], row["after"]): row for row in rows if row["basis"] == "measured"}


def real(runs: int, long: int = 600) -> None:
    """Whether the intervals of runs of 20 s hold the crossovers that a run of ten minutes finds."""
    with tempfile.TemporaryDirectory() as folder:
        room = Path(folder)
        from logarithm.demos import DEMOS

        file = next(each for each in DEMOS if each.name == "closest-buoys").file
        (room / "study.py").write_text(file.read_text())
        truth = measured(room, long, "long")
        held = dict.fromkeys(truth, 0)
        seen = dict.fromkeys(truth, 0)
        for number in range(runs):
            found = measured(room, 20, f"short-{number}")
            for key, row in truth.items():
                if key in found:
                    seen[key] += 1
                    held[key] += found[key]["low"] <= row["size"] <= found[key]["high"]
                    print("   ", key, row["size"], found[key]["low"], found[key]["high"], file=sys.stderr)
        print("| real crossover | in the long run | found in | interval holds it in |\n|---|---|---|---|")
        for key, row in truth.items():
            family, before, after = key
            where = f"{row['size']:.4g} ({row['low']:.4g} to {row['high']:.4g})"
            print(f"| {after} over {before}, {family} | {where} | {seen[key]} of {runs} | {held[key]} |")
        found, right = sum(seen.values()), sum(held.values())
        print(f"| all | | {found} of {runs * len(truth)} | {right} of {found}, promised 9 of 10 |")


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--short", action="store_true")
    parser.add_argument("--count", type=int, default=400)
    parser.add_argument("--real", type=int, default=0)
    parser.add_argument("--long", type=int, default=600)
    asked = parser.parse_args()
    synthetic(20 if asked.short else asked.count)
    if asked.real:
        real(asked.real, asked.long)


if __name__ == "__main__":
    main()
