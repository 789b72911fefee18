"""Are counts right and quick, do they change nothing, and is the line named that makes code grow.

python benchmarks/counting/run.py              everything: some minutes
python benchmarks/counting/run.py --short      fewer programs, and no culprits
"""

from __future__ import annotations

import argparse
import copy
import json
import random
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

import truths

import programs
from logarithm.counting.code.item_counting import ITEMS, ITEMS_WITHOUT_CONTAINERS
from logarithm.counting.code.rewriting import rewritten
from logarithm.counting.items.counted import counted
from logarithm.counting.steps import counted_steps
from logarithm.counting.tallies import counting

HOME = Path(__file__).parent


def right() -> int:
    """How many of the jobs that were counted by hand are counted alike."""
    found = 0
    for function, instance, expected in truths.TRUTHS:
        made = counted(instance)
        with rewritten(function, ITEMS), counting() as tallied:
            function(made)
        found += dict(tallied) == expected
        if dict(tallied) != expected:
            print(f"  {function.__name__}: {dict(tallied)}, not {expected}")
    return found


def alike(many: int) -> tuple[int, int]:
    """How many random programs do the same on counted instances, and how many of all end with an error."""
    chance = random.Random(11)
    texts = [[programs.statement(chance) for _ in range(chance.randrange(1, 8))] for _ in range(many)]
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "random_programs.py"
        path.write_text(programs.HEAD + "\n".join(programs.program(f"p{at}", text) for at, text in enumerate(texts)))
        module = programs.loaded(path, "random_programs")
        functions = [getattr(module, f"p{at}") for at in range(many)]
        instances = [programs.instance(chance) for _ in range(many)]
        plainly = [
            programs.outcome(each, copy.deepcopy(given)) for each, given in zip(functions, instances, strict=True)
        ]
        made = [counted(given) for given in instances]
        with rewritten(functions[0], ITEMS):
            found = [programs.outcome(each, given) for each, given in zip(functions, made, strict=True)]
    same = sum(repr(one) == repr(other) for one, other in zip(plainly, found, strict=True))
    return same, sum(kind != "answers" for kind, _ in plainly)


def shifted(levels: list[int]) -> list[int]:
    """A job that compares, and does some arithmetic."""
    ordered = list(levels)
    for at in range(1, len(ordered)):
        level, low, to = ordered[at], ordered[at] - 3, at - 1
        while to >= 0 and ordered[to] - 3 > low:
            ordered[to + 1] = ordered[to]
            to -= 1
        ordered[to + 1] = level
    return ordered


def times(call: Callable[[], Any], often: int = 5) -> float:
    taken = []
    for _ in range(often):
        begun = time.perf_counter()
        call()
        taken.append(time.perf_counter() - begun)
    return min(taken)


def slower() -> dict[str, float]:
    """How many times as long a call takes while it is counted."""
    levels = [random.Random(3).randrange(3000) for _ in range(300)]
    found = {}
    once = times(partial(shifted, levels), 20)
    for name, containers in (("comparisons", False), ("all that is done to items", True)):
        made = counted(levels, containers)
        with rewritten(shifted, ITEMS if containers else ITEMS_WITHOUT_CONTAINERS):
            found[name] = times(partial(shifted, made)) / once
    found["steps"] = times(partial(counted_steps, partial(shifted, levels)), 3) / once
    return found


def culprits() -> tuple[int, int]:
    """How many jobs have the line named that makes them grow, of how many."""
    file = HOME / "culprits.py"
    lines = file.read_text().splitlines()
    wanted = [number for number, line in enumerate(lines, start=1) if line.endswith("# culprit")]
    with tempfile.TemporaryDirectory() as folder:
        book = str(Path(folder) / "culprits.jsonl")
        command = [str(Path(sys.executable).with_name("logarithm"))]
        options = ["--anyway", "--metric", "steps", "--budget", "40s", "--out", book]
        subprocess.run([*command, "measure", str(file), *options], check=True, capture_output=True)
        said = subprocess.run(
            [*command, "growth", "--lines", "--format", "json", book], check=True, capture_output=True, text=True
        )
    named = {row["line"]: row for row in json.loads(said.stdout) if row["culprit"]}
    for line in sorted(set(named) ^ set(wanted)):
        print(f"  line {line}: {lines[line - 1].strip()}")
    return len(set(named) & set(wanted)), len(wanted)


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--short", action="store_true")
    asked = parser.parse_args()
    many = 300 if asked.short else 6000
    print("| what | seen | promised |\n|---|---|---|")
    print(f"| jobs counted by hand | {right()} of {len(truths.TRUTHS)} right | all |")
    same, errors = alike(many)
    print(f"| random programs, {errors} of which end with an error | {same} of {many} do the same | all |")
    promised = {"comparisons": "10 ×", "steps": "40 ×"}
    for name, ratio in slower().items():
        print(f"| a call while it is counted: {name} | {ratio:.1f} × | {promised.get(name, '')} |")
    if not asked.short:
        named, of = culprits()
        print(f"| the line that makes it grow | {named} of {of} named | all |")


if __name__ == "__main__":
    main()
