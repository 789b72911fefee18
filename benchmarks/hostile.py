"""A run beside contenders that do their worst, and runs that are killed: what is lost, and who is harmed.

python benchmarks/hostile.py
"""

from __future__ import annotations

import json
import random
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import psutil

COMMAND = Path(sys.executable).with_name("logarithm")
BUDGET = 20.0

HONEST = """
from logarithm import Study
study = Study("hostile", sizes="8..512 *2")
@study.family
def levels(n, rng): return [rng.random() for _ in range(n)]
@study.contender(baseline=True)
def honest(levels):
    total = 0.0
    for level in levels: total += level * level
    return total
@study.contender
def upright(levels): return sum(level * level for level in levels)
study.agree(within=1e-6)
"""
HOSTILE = """
import ctypes, gc, os, sys, threading, time
def total(levels): return sum(level * level for level in levels)
@study.contender
def loops(levels):
    while len(levels) > 100: pass
    return total(levels)
@study.contender
def leaves(levels):
    if len(levels) > 50: sys.exit(3)
    return total(levels)
@study.contender
def crashes(levels):
    if len(levels) > 30: ctypes.string_at(0)
    return total(levels)
@study.contender
def hoards(levels):
    if len(levels) > 100: hoard = [bytearray(2**28) for _ in range(400)]
    return total(levels)
@study.contender
def dives(levels, at=0):
    return levels[at] ** 2 + dives(levels, at + 1) if at < len(levels) else 0.0
sys.setrecursionlimit(300)
@study.contender
def floods(levels):
    if len(levels) > 500:
        for _ in range(1000): print("fog" * 350_000)
    return total(levels)
@study.contender
def closes(levels):
    sys.stdout.close()
    return total(levels)
@study.contender
def resets(levels):
    time.perf_counter_ns = time.monotonic_ns = gc.collect = gc.disable = gc.enable = lambda *_: 0
    return total(levels)
@study.contender
def spins(levels):
    def spin():
        while True: pass
    if threading.active_count() < 4: threading.Thread(target=spin, daemon=True).start()
    return total(levels)
"""


def measure(folder: Path, study: str, name: str) -> tuple[float, list[dict]]:
    (folder / "study.py").write_text(study)
    begun = time.monotonic()
    command = [COMMAND, "measure", "study.py", "--budget", f"{BUDGET}s", "--out", f"{name}.jsonl"]
    subprocess.run(command, cwd=folder, check=True, capture_output=True)
    return time.monotonic() - begun, read(folder / f"{name}.jsonl")


def read(path: Path) -> list[dict]:
    return [json.loads(line) for line in path.read_bytes().splitlines() if line.endswith(b"}")]


def paced(records: list[dict], name: str) -> dict[int, float]:
    """The honest contender's cost at each size, in units of the machine's pace."""
    costs: dict[int, list[float]] = {}
    for each in records:
        if each["kind"] == "trial" and each["contender"] == name and each["heat"]:
            call = (each["elapsed"] - each["overhead"]) / each.get("calls", 1)
            costs.setdefault(each["size"], []).append(call / statistics.fmean(each["pace"]))
    return {size: statistics.median(values) for size, values in costs.items()}


def beside(folder: Path) -> None:
    _, alone = measure(folder, HONEST, "alone")
    took, crowd = measure(folder, HONEST + HOSTILE, "crowd")
    print(f"| time taken with a budget of {BUDGET:g} s | {took:.1f} s | at most {1.1 * BUDGET:g} s |")
    for name in ("honest", "upright"):
        before, after = paced(alone, name), paced(crowd, name)
        shifts = [100 * (after[size] / before[size] - 1) for size in sorted(before) if size in after]
        print(
            f"| {name} beside the hostile against alone | {min(shifts):+.1f} to {max(shifts):+.1f} % | within noise |"
        )
    for each in crowd:
        if each["kind"] == "failure":
            works = f"works up to {each['works']}, then " if "works" in each else ""
            print(f"| {each['contender']} | {works}{each['reason']} at {each['size']} | told |")
        if each["kind"] == "note" and each["topic"] == "trap":
            print(f"| {each['contender']} | {each['text']} | told |")


def left_behind(folder: Path) -> int:
    """Workers of this folder that still run."""
    time.sleep(0.5)
    return sum(
        "logarithm.measuring.child.worker" in (each.info["cmdline"] or []) and each.info["cwd"] == str(folder)
        for each in psutil.process_iter(["cmdline", "cwd"])
    )


def killed(folder: Path) -> None:
    (folder / "study.py").write_text(HONEST)
    chance, lost, behind, completed = random.Random(7), 0, 0, 0
    for number in range(20):
        path = folder / f"killed-{number}.jsonl"
        command = [COMMAND, "measure", "study.py", "--budget", "6s", "--out", path.name]
        process = subprocess.Popen(command, cwd=folder, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        time.sleep(chance.uniform(0.8, 5.0))
        if number % 2:
            workers = psutil.Process(process.pid).children()
            if workers:
                chance.choice(workers).kill()
            completed += process.wait() == 0
        else:
            before = path.read_bytes() if path.exists() else b""
            process.kill()
            process.wait()
            behind += left_behind(folder)
            if not before:  # killed before there was anything to lose
                completed += 1
                continue
            lost += not path.read_bytes().startswith(before) or not before.endswith(b"\n")
            done = subprocess.run(
                [COMMAND, "measure", "study.py", "--resume", path.name], cwd=folder, capture_output=True
            )
            used = b"used its budget" in done.stderr or b"is finished" in done.stderr
            completed += done.returncode == 0 or used
    print(f"| runs killed (10 times the parent, 10 times a worker), completed in the end | {completed} of 20 | 20 |")
    print(f"| logbooks that lost a flushed heat | {lost} of 10 | 0 |\n| workers left behind | {behind} | 0 |")


def main() -> None:
    print("| what | measured | promised |\n|---|---|---|")
    with tempfile.TemporaryDirectory() as folder:
        beside(Path(folder).resolve())
        killed(Path(folder).resolve())


if __name__ == "__main__":
    main()
