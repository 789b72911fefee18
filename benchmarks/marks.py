"""Marks repeat: files that were handed in several times get the same marks, in every run, quiet and busy.

    python benchmarks/marks.py [--files 40] [--copies 8] [--runs 5] [--busy]

Each copy has a comment of its own, so that none is recognised as another's text. Told are the files whose copies got
different marks within a run, or in different runs; and how many marks were left open.
"""

from __future__ import annotations

import argparse
import csv
import io
import subprocess
import sys
import tempfile
import time
from collections import defaultdict
from pathlib import Path

COMMAND = str(Path(sys.executable).with_name("logarithm"))
STUDY = """
from logarithm import Study
study = Study("swell", question="How high is the highest swell in a row?", sizes="8..512 *2")
@study.family
def calm(n, rng): return [rng.randrange(-50, 51) for _ in range(n)]
@study.family
def rough(n, rng): return [rng.randrange(-5000, 5001) for _ in range(n)]
@study.contender(baseline=True)
def reference(rises):
    best = total = 0
    for rise in rises:
        total = max(total + rise, 0)
        best = max(best, total)
    return best
study.submissions("handed-in/*.py", function="best", require="n log n", marks={"right": 5, "order": 3, "time": (2, 3)})
"""
PASS = """
def best(rises):
    top = total = 0
    for rise in rises:
        total = {step}
        {more}
        if total > top: top = total
    return top
"""
HALVES = """
def best(rises, start=0, end=None):
    end = len(rises) if end is None else end
    if end - start < {least}:
        return slow(rises, start, end)
    middle = (start + end) // 2
    left = right = total = 0
    for day in range(middle - 1, start - 1, -1):
        total += rises[day]
        left = max(left, total)
    total = 0
    for day in range(middle, end):
        total += rises[day]
        right = max(right, total)
    return max(best(rises, start, middle), best(rises, middle, end), left + right)
def slow(rises, start, end):
    top = 0
    for first in range(start, end):
        total = 0
        for day in range(first, end):
            total += rises[day]
            top = max(top, total)
    return top
"""
PAIRS = """
def best(rises):
    top = 0
    for first in range(len(rises)):
        total = 0
        for rise in rises[first:]:
            total += rise
            {more}
            if total > top: top = total
    return top
"""
SUMS = """
from itertools import accumulate
def best(rises):
    low = top = 0
    for level in accumulate({given}):
        if level < low: low = level
        {more}
        if level - low > top: top = level - low
    return top
"""
STEPS = ("max(total + rise, 0)", "total + rise if total + rise > 0 else 0", "(total + rise) * (total + rise > 0)")
MORE = ("pass", "again = total", "for _ in range(2): pass", "for _ in range(9): pass", "for _ in range(40): pass")
TEXTS = [
    *(PASS.format(step=step, more=more) for step in STEPS for more in MORE),
    *(HALVES.format(least=least) for least in (2, 4, 8, 16, 64)),
    *(PAIRS.format(more=more) for more in MORE),
    *(
        SUMS.format(given=given, more=more.replace("total", "level"))
        for given in ("rises", "list(rises)")
        for more in MORE
    ),
    PASS.format(step=STEPS[0], more="pass").replace("top = total = 0", "top = total = 0\n    rises[0]"),
    PASS.format(step=STEPS[0], more="pass").replace("return top", "return top + (len(rises) == 3)"),
    "def best(rises): return 0\n",
    "def best(rises)\n    return 0\n",
    PASS.format(step="total + rise", more="if total < 0: total = 0"),
]


def marks_of(files: int, copies: int) -> dict[int, list[tuple[str, str, str]]]:
    """The verdict, the marks and what is open, for each copy of each file."""
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        (folder / "study.py").write_text(STUDY)
        (folder / "handed-in").mkdir()
        for number in range(files):
            for copy in range(copies):
                text = f"# {number} {copy}\n" + TEXTS[number % len(TEXTS)]
                (folder / "handed-in" / f"s{number:02}_{copy}.py").write_text(text)
        done = subprocess.run(
            [COMMAND, "assess", "study.py", "--format", "csv"], cwd=folder, capture_output=True, text=True
        )
        found: dict[int, list[tuple[str, str, str]]] = defaultdict(list)
        for row in csv.DictReader(io.StringIO(done.stdout)):
            number = int(row["submission"][1:].partition("_")[0])
            found[number].append((row["verdict"], row["marks"], row.get("open", "")))
        return found


def main() -> None:
    """Assess the class again and again."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--files", type=int, default=40)
    parser.add_argument("--copies", type=int, default=8)
    parser.add_argument("--runs", type=int, default=5)
    parser.add_argument("--busy", action="store_true", help="two other programs run meanwhile")
    asked = parser.parse_args()
    others = [subprocess.Popen([sys.executable, "-c", "while True: pass"]) for _ in range(2 * asked.busy)]
    ever: dict[int, set[tuple[str, str, str]]] = defaultdict(set)
    try:
        for run in range(asked.runs):
            begun = time.monotonic()
            found = marks_of(asked.files, asked.copies)
            differing = {number: sorted(set(rows)) for number, rows in found.items() if len(set(rows)) > 1}
            unsure = sum(bool(row[2]) for rows in found.values() for row in rows)
            took = time.monotonic() - begun
            many = sum(map(len, found.values()))
            print(
                f"run {run + 1}: {len(differing)} of {len(found)} files with copies that differ, {unsure} of {many} "
                f"rows with something open, {took:.0f} s {differing or ''}",
                flush=True,
            )
            for number, rows in found.items():
                ever[number] |= {*rows}
    finally:
        for each in others:
            each.kill()
    differing = {number: sorted(rows) for number, rows in ever.items() if len(rows) > 1}
    print(f"over all runs: {len(differing)} of {len(ever)} files have marks that differ {differing or ''}")


if __name__ == "__main__":
    main()
