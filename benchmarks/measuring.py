"""What DESIGN promises about measuring, on this machine: every figure is a ratio within a run.

python benchmarks/measuring.py             a few runs of each kind; minutes
python benchmarks/measuring.py --runs 100  as promised; hours
"""

from __future__ import annotations

import argparse
import json
import math
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from logarithm.protocol import clock

COMMAND = Path(sys.executable).with_name("logarithm")

PAIR = """
from logarithm import Study
study = Study("pair", sizes="{sizes}")
@study.family
def levels(n, rng): return [rng.random() for _ in range(n)]
@study.contender(baseline=True)
def first(levels):
    total = 0.0
    for level in levels: total += level * level
    return total
@study.contender
def second(levels):
    total = 0.0
    for level in levels: total += level * level
    {more}
    return total
study.agree(within=1e-9)
"""
# Five per cent more of the same work.
MORE = "again = 0.0\n    for level in levels[: len(levels) // 20]: again += level * level"

SHORT = """
from logarithm import Study
study = Study("short", sizes="1")
@study.family
def one(n, rng): return 1.5
@study.contender
def call(depth): return depth
"""


def measured(study: str, budget: float) -> tuple[dict, list[dict]]:
    """The findings of one run, and its logbook's records."""
    with tempfile.TemporaryDirectory() as folder:
        room = Path(folder)
        (room / "study.py").write_text(study)
        command = [COMMAND, "measure", "study.py", "--budget", f"{budget}s", "--out", "run.jsonl"]
        subprocess.run(command, cwd=room, check=True, capture_output=True)
        told = subprocess.run(
            [COMMAND, "report", "run.jsonl", "--format", "json"], cwd=room, check=True, capture_output=True
        )
        return json.loads(told.stdout), [json.loads(line) for line in (room / "run.jsonl").open()]


def ratio(found: dict) -> float:
    """How many times as fast the second is: the geometric mean over the sizes."""
    costs = next(each for each in found["costs"] if each["contender"] == "second")
    return math.exp(statistics.fmean(math.log(point["ratio"]["value"]) for point in costs["points"]))


def told_apart(found: dict) -> bool:
    return bool(found["crossovers"]) or any(not each["tied"] for each in found["standings"])


def pairs(runs: int, budget: float) -> None:
    same, found, ratios, faster, shares = 0, 0, [], [], []
    for _ in range(runs):
        findings, records = measured(PAIR.format(sizes="4000, 8000, 16000", more="pass"), budget)
        ratios.append(ratio(findings))
        same += told_apart(findings)
        close = records[-1]
        shares.append(close["inside"] / close["elapsed"])
        findings, _ = measured(PAIR.format(sizes="4000, 8000, 16000", more=MORE), budget)
        faster.append(ratio(findings))
        found += any(each["leader"] == "first" for each in findings["standings"])
    within = sum(abs(math.log(each)) <= 0.02 for each in ratios)
    print(f"| identical contenders told apart | {same} of {runs} | at most 2 of 100 |")
    print(f"| identical contenders, ratio within 2 % | {within} of {runs} | 90 of 100 |")
    print(f"| ratios of identical contenders | {min(ratios):.3f} to {max(ratios):.3f} | |")
    print(f"| 5 % difference found | {found} of {runs} | 90 of 100 |")
    print(f"| ratios at 5 % difference | {min(faster):.3f} to {max(faster):.3f} | about 0.952 |")
    print(f"| share of the time inside timed calls | {100 * statistics.median(shares):.0f} % | 80 % |")


def by_hand() -> float:
    """A short call, from a loop unrolled by hand, in units of the machine's pace at that moment."""

    def call(depth: float) -> float:
        return depth

    best = []
    twenties = [(1.5,) * 20] * 2000
    for _ in range(40):
        before = clock.pace()
        start = time.perf_counter_ns()
        # Inputs in turn, as a trial takes them.
        for a, b, c, d, e, f, g, h, i, j, k, m, n, o, p, q, r, s, t, u in twenties:
            call(a)
            call(b)
            call(c)
            call(d)
            call(e)
            call(f)
            call(g)
            call(h)
            call(i)
            call(j)
            call(k)
            call(m)
            call(n)
            call(o)
            call(p)
            call(q)
            call(r)
            call(s)
            call(t)
            call(u)
        took = (time.perf_counter_ns() - start) / 40_000
        best.append(took / ((before + clock.pace()) / 2))
    return statistics.median(best)


def short_call(runs: int) -> None:
    errors = []
    for _ in range(runs):
        _, records = measured(SHORT, 2)
        trials = [
            each
            for each in records
            if each["kind"] == "trial" and each["heat"] and each.get("metric", "time") == "time"
        ]
        costs = [
            (each["elapsed"] - each["overhead"]) / each["calls"] / statistics.fmean(each["pace"]) for each in trials
        ]
        errors.append(statistics.median(costs) / by_hand() - 1)
    shown = f"{100 * statistics.median(errors):+.1f} % ({100 * min(errors):+.1f} to {100 * max(errors):+.1f})"
    print(f"| a call of about 50 ns, against a loop unrolled by hand | {shown} | within 5 % |")


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--runs", type=int, default=3)
    parser.add_argument("--budget", type=float, default=20)
    asked = parser.parse_args()
    print("| what | measured | promised |\n|---|---|---|")
    short_call(max(3, asked.runs // 3))
    pairs(asked.runs, asked.budget)


if __name__ == "__main__":
    main()
