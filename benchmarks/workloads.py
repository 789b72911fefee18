"""Totals of workloads against making the calls, mixes against their prices, expressions against plain loops.

    python benchmarks/workloads.py [--budget 10s] [--calls 3000]

Each of four jobs has three contenders, and a log of calls of skewed sizes. What `report` says that all calls cost is
held against the processor time of making them in a program of its own, on inputs that were never used.
"""

from __future__ import annotations

import argparse
import bisect
import heapq
import json
import random
import statistics
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable
from itertools import pairwise
from pathlib import Path
from typing import Any

from logarithm.api import tasks
from logarithm.protocol import clock
from logarithm.results.findings import Findings


def by_pairs(levels: list[float]) -> float:
    """The largest rise, from each hour to each later one."""
    return max((later - level for at, level in enumerate(levels) for later in levels[at + 1 :]), default=0.0)


def by_lowest(levels: list[float]) -> float:
    """The same, with the lowest level so far."""
    best, low = 0.0, levels[0]
    for level in levels:
        low = min(low, level)
        best = max(best, level - low)
    return best


def by_halves(levels: list[float]) -> float:
    """The same, by halves."""
    if len(levels) < 2:
        return 0.0
    half = len(levels) // 2
    return max(by_halves(levels[:half]), by_halves(levels[half:]), max(levels[half:]) - min(levels[:half]))


def in_order(levels: list[float]) -> list[float]:
    """The eight lowest, from all in order."""
    return sorted(levels)[:8]


def by_heap(levels: list[float]) -> list[float]:
    """The same, by a heap of eight."""
    return heapq.nsmallest(8, levels)


def one_by_one(levels: list[float]) -> list[float]:
    """The same, each put where it belongs."""
    kept: list[float] = []
    for level in levels:
        bisect.insort(kept, level)
        del kept[8:]
    return kept


def counted(levels: list[float]) -> int:
    """How many tenths of a metre there are."""
    return len({int(10 * level) for level in levels})


def counted_in_order(levels: list[float]) -> int:
    """The same, of all in order."""
    tenths = sorted(int(10 * level) for level in levels)
    return 1 + sum(one != other for one, other in pairwise(tenths))


def counted_by_name(levels: list[float]) -> int:
    """The same, by counting each."""
    return len(Counter(int(10 * level) for level in levels))


def total(levels: list[float]) -> float:
    """The sum."""
    return sum(levels)


def added(levels: list[float]) -> float:
    """The same, one by one."""
    made = 0.0
    for level in levels:
        made += level
    return made


def added_by_parts(levels: list[float]) -> float:
    """The same, part by part."""
    return sum(sum(levels[at : at + 16]) for at in range(0, len(levels), 16))


BATCH, PASSES = 50, 3  # calls that are made at once, and how often all of them are
JOBS: dict[str, list[Callable[[list[float]], Any]]] = {
    "rise": [by_pairs, by_lowest, by_halves],
    "lowest": [in_order, by_heap, one_by_one],
    "tenths": [counted, counted_in_order, counted_by_name],
    "sum": [total, added, added_by_parts],
}
SETUP = """
def lit(n, rng): return frozenset(range(n))
def lamp(n, rng): return rng.randrange(2 * n)
def name(n, rng): return "".join(chr(97 + rng.randrange(20)) for _ in range(n))
"""
SHORT = ("lamp in lit", "len(name)", "'q' in name", "lamp > 40")


def levels_of(n: int, rng: random.Random) -> list[float]:
    """Levels in metres."""
    return [10 * rng.random() for _ in range(n)]


def workloads(budget: str, calls: int) -> None:
    """Predicted totals against what making the calls takes."""
    off, right = list[float](), 0
    for number, (job, contenders) in enumerate(JOBS.items()):
        rng = random.Random(number)
        sizes = [max(8, min(3000, round(rng.lognormvariate(4, 1.1)))) for _ in range(calls)]
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "calls.txt"
            file.write_text("\n".join(map(str, sizes)))
            lines = ["study.family(w.levels_of)", "study.agree(within=1e-9)"]
            lines += [f"study.contender(w.{each.__name__})" for each in contenders]
            study = written(Path(folder), f"Study({job!r})", lines)
            more = {"workload": str(file), "out": Path(folder) / "run.jsonl", "quiet": True}
            found = tasks.measure(study, budget, **more)
            speed = pace_of(found)
            made = subprocess.run([sys.executable, __file__, "--taken", job, file], capture_output=True, check=True)
        told = {each.contender: each.total or 0.0 for each in found.workload}
        taken = {name: speed * spent for name, spent in json.loads(made.stdout).items()}
        best = min(taken, key=lambda name: taken[name])
        right += best in (found.weighing.best if found.weighing else [])
        for name, seconds in taken.items():
            off.append(told[name] / seconds - 1)
            print(
                f"  {job:8} {name:18} told {told[name]:8.4f} s, taken {seconds:8.4f} s, off by {100 * off[-1]:+.1f} %"
            )
    close = sum(abs(each) <= 0.1 for each in off)
    print(f"workloads: {close} of {len(off)} totals within 10 %, the best one named in {right} of {len(JOBS)} jobs")


def written(folder: Path, study: str, lines: list[str]) -> Path:
    """The file of a study of what is defined here."""
    here = str(Path(__file__).resolve().parent)
    head = ["import sys", f"sys.path.insert(0, {here!r})", "import workloads as w", "from logarithm import Study"]
    path = folder / "study.py"
    path.write_text("\n".join([*head, f"study = {study}", *lines]) + "\n")
    return path


def pace_of(found: Findings) -> float:
    """The nanoseconds of a fixed piece of work, as they were in the middle of a run."""
    import numpy as np

    return float(np.nanmedian(found.logbook().trials.pace)) * 1e9


def _taken(contenders: list[Callable[[list[float]], Any]], sizes: list[int]) -> dict[str, float]:
    """Seconds of the processor for all calls, over the nanoseconds of a fixed piece of work in the same moments.

    The speed of a machine changes from second to second, by as much as a half: contenders take turns, batch by batch,
    and of three passes on new inputs the middle one of each batch counts.
    """
    rng = random.Random(1)
    reading = min(-(time.thread_time_ns() - time.thread_time_ns()) for _ in range(1000))
    batches = [sizes[at : at + BATCH] for at in range(0, len(sizes), BATCH)]
    spent: dict[str, list[list[float]]] = {each.__name__: [[] for _ in batches] for each in contenders}
    for _ in range(PASSES):
        for number, batch in enumerate(batches):
            for call in rng.sample(contenders, len(contenders)):
                inputs = [levels_of(n, rng) for n in batch]
                before = clock.pace()
                begun = time.thread_time_ns()
                for each in inputs:
                    call(each)
                took = time.thread_time_ns() - begun - reading
                spent[call.__name__][number].append(took / 1e9 / ((before + clock.pace()) / 2))
    return {name: sum(statistics.median(passes) for passes in rows) for name, rows in spent.items()}


class Berths:
    """Ships in order."""

    def build(self, ships: list[int]) -> None:
        self.ships = sorted(ships)

    def add(self, ship: int) -> None:
        bisect.insort(self.ships, ship)

    def find(self, ship: int) -> bool:
        at = bisect.bisect_left(self.ships, ship)
        return at < len(self.ships) and self.ships[at] == ship


class AsTheyCome(Berths):
    """Ships as they come."""

    def build(self, ships: list[int]) -> None:
        self.ships = list(ships)

    def add(self, ship: int) -> None:
        self.ships.append(ship)

    def find(self, ship: int) -> bool:
        return self.ships.count(ship) > 0


def harbour(n: int, rng: random.Random) -> dict[str, list[int]]:
    """Ships, and what is asked of them."""
    ships = [rng.randrange(10 * n) for _ in range(n)]
    return {
        "holds": ships,
        "add": [rng.randrange(10 * n) for _ in range(1000)],
        "find": [rng.choice(ships) for _ in range(1000)],
    }


def mixes(budget: str) -> None:
    """Priced mixes against measured ones."""
    lines = ["study.family(w.harbour)"]
    lines += [f'study.contender(w.{each}, operations=["add", "find"])' for each in ("Berths", "AsTheyCome")]
    for name, find, add in (("mostly reads", 9, 1), ("both", 1, 1), ("mostly writes", 1, 9)):
        lines.append(f"study.mix({name!r}, find={find}, add={add})")
    with tempfile.TemporaryDirectory() as folder:
        study = written(Path(folder), 'Study("berths", sizes="64..4096 *4")', lines)
        found = tasks.measure(study, budget, out=Path(folder) / "run.jsonl", quiet=True)
    off = [abs(each.off) for each in found.mixes]
    close = sum(each <= 0.15 for each in off)
    middle = 100 * sorted(off)[len(off) // 2]
    print(f"mixes: {close} of {len(off)} measured within 15 % of their price, median {middle:.1f} %")


def expressions(budget: str) -> None:
    """Expressions against a loop that is written out by hand, ten inputs a turn."""
    from logarithm.logbook.reading import read_trials
    from logarithm.study.files.plain import Plain, study_of

    with tempfile.TemporaryDirectory() as folder:
        setup = Path(folder) / "lights.py"
        setup.write_text(SETUP)
        plain = Plain(expressions=SHORT, setup=setup, sizes={"": "64"})
        with study_of(plain) as study:
            found = tasks.measure(study, budget, out=Path(folder) / "run.jsonl", quiet=True, anyway=True)
        told = {each.contender: each.points[0].typical * 1e9 for each in found.costs}
        speed = pace_of(found)
        trials = [trial for trial in read_trials(Path(folder) / "run.jsonl") if trial.heat]
        among = {text: max(trial.instances for trial in trials if trial.contender == text) for text in SHORT}
    off = []
    for text in SHORT:
        taken = speed * _by_hand(text, max(among[text], 100))
        off.append(told[text] / taken - 1)
        print(f"  {text:14} told {told[text]:6.2f} ns, by hand {taken:6.2f} ns, off by {100 * off[-1]:+.1f} %")
    print(f"expressions: {sum(abs(each) <= 0.1 for each in off)} of {len(off)} within 10 %")


def _by_hand(text: str, many: int) -> float:
    """Nanoseconds of an expression in a loop of ten a turn, without what the loop takes, over those of fixed work.

    It takes as many inputs in turn as the run did.
    """
    rng, space = random.Random(5), dict[str, Any]()
    exec(SETUP, space)
    used = [name for name in ("lamp", "lit", "name") if name in text.split() or f"({name})" in text]
    rows = [tuple(space[name](64, rng) for name in used) for _ in range(many // 10 * 10)]
    tens = [tuple(rows[at : at + 10]) for at in range(0, len(rows), 10)]
    heads = ", ".join(f"({''.join(f'{name}{at}, ' for name in used)})" for at in range(10))
    loops = []
    for is_empty in (False, True):
        turns = [_numbered(text, at) for at in range(10)] if not is_empty else ["pass"]
        lines = "\n".join(f"        {turn}" for turn in turns)
        source = f"def loop(tens):\n    begun = now()\n    for {heads} in tens:\n{lines}\n    return now() - begun\n"
        made: dict[str, Any] = {"now": time.perf_counter_ns}
        exec(source, made)
        loops.append(made["loop"])
    passes = [(loops[0](tens) - loops[1](tens)) / len(rows) / clock.pace() for _ in range(301)]
    return sorted(passes)[len(passes) // 2]


def _numbered(text: str, at: int) -> str:
    for name in ("lamp", "lit", "name"):
        text = text.replace(name, f"{name}{at}")
    return text


def main() -> None:
    """Run all three."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--budget", default="10s")
    parser.add_argument("--calls", type=int, default=3000)
    parser.add_argument("--taken", nargs=2, metavar=("JOB", "FILE"), help="make the calls of a job, and nothing else")
    asked = parser.parse_args()
    if asked.taken is not None:
        job, file = asked.taken
        print(json.dumps(_taken(JOBS[job], [int(line) for line in Path(file).read_text().split()])))
        return
    workloads(asked.budget, asked.calls)
    mixes("40s")
    expressions(asked.budget)


if __name__ == "__main__":
    main()
