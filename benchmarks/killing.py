"""Killed at any moment, a run leaves a logbook that can be reported on and gone on with; cut anywhere, it can be read.

python benchmarks/killing.py             ten moments, and a logbook cut at every byte (two minutes)
python benchmarks/killing.py --kills 50  more of them
"""

from __future__ import annotations

import argparse
import random
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import psutil

from logarithm.errors import LogbookError
from logarithm.logbook.reading import logbook_of

COMMAND = str(Path(sys.executable).with_name("logarithm"))
STUDY = """
from logarithm import Study
study = Study("tide-gauge", sizes="8..256 *2")
@study.family
def rising(n, rng): return [rng.random() for _ in range(n)]
@study.contender(baseline=True)
def add_up(levels): return sum(levels)
@study.contender
def again(levels):
    total = 0.0
    for level in levels: total += level
    return total
study.agree(within=1e-9)
"""
BUDGET = 6.0


def killed(folder: Path, after: float) -> list[object]:
    """A run that is killed after so many seconds: trials that are left, what report and going on say, who is left."""
    book = folder / f"{after:.3f}.jsonl"
    command = [COMMAND, "measure", "study.py", "--budget", f"{BUDGET:g}s", "--whole-budget", "--out", book.name, "-q"]
    running = subprocess.Popen(command, cwd=folder, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    time.sleep(after)
    started = psutil.Process(running.pid).children(recursive=True)
    running.send_signal(signal.SIGKILL)
    running.wait()
    time.sleep(0.5)
    left = sum(each.is_running() and each.status() != psutil.STATUS_ZOMBIE for each in started)
    if not book.exists():
        return [f"{after:.2f} s", "no logbook yet", "", "", left]
    trials = book.read_bytes().count(b'"trial"')
    report = subprocess.run([COMMAND, "report", book.name], cwd=folder, capture_output=True)
    on = [COMMAND, "measure", "study.py", "--resume", book.name, "--budget", "3s", "-q"]
    resumed = subprocess.run(on, cwd=folder, capture_output=True, text=True)
    more = book.read_bytes().count(b'"trial"') - trials
    return [
        f"{after:.2f} s",
        trials,
        report.returncode,
        f"{resumed.returncode}, {more} more {resumed.stderr[:80]}",
        left,
    ]


def cut(book: Path) -> tuple[int, int]:
    """How many beginnings of a logbook there are, and how many of them are not read, or lose a whole line."""
    raw, bad = book.read_bytes(), 0
    lines = 0
    for end in range(len(raw) + 1):
        lines += end > 0 and raw[end - 1 : end] == b"\n"
        whole = raw[:end].count(b'"trial"', 0, raw.rfind(b"\n", 0, end) + 1)
        try:
            bad += len(logbook_of(book, raw[:end]).trials) < whole
        except LogbookError:
            bad += lines > 3  # before that there is no study to report on
    return len(raw) + 1, bad


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--kills", type=int, default=10)
    asked = parser.parse_args()
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        (folder / "study.py").write_text(STUDY)
        print("| killed after | trials there | report | going on | processes left |\n|---|---|---|---|---|")
        for number in range(asked.kills):
            after = 0.3 + (BUDGET - 0.5) * (number + random.random()) / asked.kills
            print("| " + " | ".join(map(str, killed(folder, after))) + " |", flush=True)
        book = max(folder.glob("*.jsonl"), key=lambda each: each.stat().st_size)
        head = folder / "head.jsonl"
        head.write_bytes(b"".join(book.read_bytes().splitlines(keepends=True)[:80]))
        print("\ncut at every byte: {} beginnings, {} not as they should be".format(*cut(head)))


if __name__ == "__main__":
    main()
