"""Measure or generate the stored logbooks anew: the inputs of the golden files, and of all tests that only read.

    python tests/golden/measure_books.py [NAME…]

Findings change with every new measurement. After this, write the golden files anew with `golden.py write`.
"""

from __future__ import annotations

import json
import lzma
import math
import os
import re
import shlex
import subprocess
import sys
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

TESTS = Path(__file__).parents[1]
sys.path[:0] = [str(TESTS), str(TESTS / "unit")]

import made_up

import studies
from logarithm import demos
from logarithm.logbook.records import (
    AnyRecord,
    Close,
    ContenderRecord,
    Failure,
    FamilyRecord,
    Header,
    StudyRecord,
    Trial,
)
from logarithm.logbook.writing import write_logbook

BOOKS = Path(__file__).parent / "books"
COMMAND = Path(sys.executable).with_name("logarithm")
Words = list[str]

MIXED = """
from bisect import bisect_left, insort
from logarithm import Study
study = Study("ships", sizes="8..1024 *2")
@study.family
def roads(n, rng):
    return {"holds": [rng.random() for _ in range(n)], "add": [rng.random() for _ in range(64)],
            "find": [rng.random() for _ in range(64)]}
@study.contender(operations=["add", "find"], claim={"find": "n"})
class AsTheyCame:
    def build(self, holds): self.ships = list(holds)
    def add(self, ship): self.ships.append(ship)
    def find(self, ship): return ship in self.ships
@study.contender(operations=["add", "find"], claim={"find": "log n"})
class InOrder:
    def build(self, holds): self.ships = sorted(holds)
    def add(self, ship): insort(self.ships, ship)
    def find(self, ship):
        at = bisect_left(self.ships, ship)
        return at < len(self.ships) and self.ships[at] == ship
study.mix("mostly reads", find=9, add=1)
study.mix("mostly writes", find=1, add=9)
"""
VERSIONS = studies.MOORINGS + 'study.versions("each_pair", "each_rope")\n'
VARIED = (
    studies.HARBOUR.replace('sizes="8..64 *2"', "")
    .replace("def rising(n, rng):", "def rising(share, rng):")
    .replace("for _ in range(n)", "for _ in range(round(20 + 200 * share))")
    .replace(", sizes=", "")
    + "study.vary('share', '0.1..0.5 +0.1')\n"
).replace('?", )', '?")')
DEEP = (
    "def dig(levels, at=0):\n    return levels[at] + dig(levels, at + 1) if at < len(levels) else 0.0\n"
    "import sys; sys.setrecursionlimit(300)\nstudy.contender(dig)\n"
)
DOZE = "import time\n@study.contender\ndef doze(levels):\n    time.sleep(0.002 * len(levels)); return sum(levels)\n"
DISAGREES = "\n@study.contender\ndef off_by_one(levels):\n    return sum(levels[1:])\n"
STARTS = studies.a_command("import sys; print(max(map(float, open(sys.argv[1]))) if open(sys.argv[1]).read() else 0)")
LAMPS = """
def highest(levels): return max(levels)
def last_in_order(levels): return sorted(levels)[-1]
def twice(levels): return max(max(levels), max(levels))
"""
RISES = """
#include <stddef.h>
double rise(const double *levels, size_t many) {
    double best = 0, low = many ? levels[0] : 0;
    for (size_t i = 1; i < many; i++) {
        if (levels[i] < low) low = levels[i];
        if (levels[i] - low > best) best = levels[i] - low;
    }
    return best;
}
double rise_by_pairs(const double levels[], int many) {
    double best = 0;
    for (int i = 0; i < many; i++)
        for (int j = i + 1; j < many; j++)
            if (levels[j] - levels[i] > best) best = levels[j] - levels[i];
    return best;
}
"""
CLASS = """
from logarithm import Study
study = Study("rising-water", question="Which stretch of days brought the most water?", sizes="8..256 *2")
@study.family
def gauge(n, rng): return [rng.randrange(-50, 51) for _ in range(n)]
@study.contender(baseline=True)
def reference(rises):
    best = total = 0
    for rise in rises:
        total = max(total + rise, 0)
        best = max(best, total)
    return best
study.submissions("handed-in/*.py", function="best", require="n log n", marks={"right": 5, "order": 3, "time": (2, 3)})
"""
ONE_PASS = """
def best(rises):
    top = total = 0
    for rise in rises:
        total = max(total + rise, 0)
        top = max(top, total)
    return top
"""
HANDED_IN = {
    "handed-in/abel.py": ONE_PASS,
    "handed-in/berta.py": "def best(rises):\n    top = 0\n    for start in range(len(rises)):\n        total = 0\n"
    "        for rise in rises[start:]:\n            total += rise\n            top = max(top, total)\n"
    "    return top\n",
    "handed-in/carla.py": "def best(rises):\n    return max(0, sum(rises))\n",
    "handed-in/dirk.py": ONE_PASS.replace("    return", "    rises.clear()\n    return"),
    "handed-in/edda.py": ONE_PASS.replace("    top =", "    while len(rises) > 4: pass\n    top =", 1),
    "handed-in/finn.py": "import seafaring\n",
    "handed-in/greta.py": "def most(rises):\n    return 0\n",
}
TABLES = {
    "tidy.csv": "contender,family,size,heat,value (ms)\n"
    + "".join(
        f"{who},bay,{n},{heat},{cost * (1 + heat / 300):.6f}\n"
        for heat in range(1, 7)
        for n in (10, 20, 40, 80, 160, 320)
        for who, cost in (("ebb", n / 50 + 1), ("flood", n * n / 9000 + 0.1))
    ),
    "wide.csv": "size,ebb,flood\n" + "".join(f"{n},{n * 2},{n * n}\n" for n in (8, 16, 32, 64, 128)),
}
EDITED = studies.MOORINGS.replace("rope * 1.5", "rope * 1.5 * 1.5")
ADDED = "\n@study.contender\ndef at_once(ropes):\n    return sum(ropes)\n"
CALLS = "size,count\n8,5000\n40,900\n64,90\n"


@contextmanager
def burning() -> Iterator[None]:
    """Use both processors with other programs."""
    programs = [subprocess.Popen([sys.executable, "-c", "while True: pass"]) for _ in range(os.cpu_count() or 1)]
    try:
        yield
    finally:
        for program in programs:
            program.kill()
            program.wait()


def measured(study: str, *options: str, budget: str = "6s") -> tuple[dict[str, str], list[Words]]:
    """Files and commands that measure a study."""
    return {"study.py": study}, [["measure", "study.py", "--budget", budget, *options]]


def demo(name: str, budget: str = "10s") -> tuple[dict[str, str], list[Words]]:
    """Commands that measure a demo."""
    file = str(next(each.file for each in demos.DEMOS if each.name == name))
    return {}, [["measure", file, "--budget", budget]]


SCENARIOS: dict[str, tuple[dict[str, str], list[Words]]] = {
    "demo_closest_buoys": demo("closest-buoys"),
    "demo_foghorns": demo("foghorns"),
    "demo_tides": demo("tides"),
    "demo_berths": demo("berths"),
    "demo_lowest_tides": demo("lowest-tides", "14s"),
    "demo_soundings": demo("soundings"),
    "demo_polyglot": demo("polyglot", "20s"),
    "busy": measured(studies.BUSY, budget="8s"),
    "busy_buoys": demo("closest-buoys", "8s"),
    "short": demo("closest-buoys", "2s"),
    "shortest": measured(studies.HARBOUR, budget="1s"),
    "gauge": measured(studies.HARBOUR, budget="8s"),
    "gauge_later": measured(studies.HARBOUR.replace("total += level", "total = total + level * 1.0", 1), budget="8s"),
    "moorings": measured(studies.MOORINGS, budget="10s"),
    "moorings_edited": (
        {"study.py": studies.MOORINGS},
        [
            ["measure", "study.py", "--budget", "5s"],
            ["EDIT", EDITED + ADDED],
            ["measure", "study.py", "--budget", "5s", "--resume"],
        ],
    ),
    "many": measured(
        studies.MOORINGS
        + "".join(f"\n@study.contender\ndef quick_{at}(ropes):\n    return sum(ropes)\n" for at in range(20)),
        budget="12s",
    ),
    "failing": measured(studies.HARBOUR + studies.FAILING, "--anyway", budget="12s"),
    "kinds": measured(studies.HARBOUR + studies.KINDS, "--anyway", "--sizes", "8..32 *2"),
    "disagreeing": measured(studies.HARBOUR + DISAGREES, "--anyway"),
    "nothing_works": measured(studies.HARBOUR.replace("total = 0.0", 'raise RuntimeError("ebb")'), budget="2s"),
    "deep": measured(studies.HARBOUR + DEEP, "--sizes", "8..512 *2", budget="5s"),
    "slow": measured(studies.HARBOUR + DOZE, "--ceiling", "50ms"),
    "repeated": measured(studies.LEARNS),
    "repeated_on_purpose": measured(studies.LEARNS, "--inputs", "same", budget="4s"),
    "promises": measured(studies.HARBOUR + studies.PROMISES, "--sizes", "64", "--anyway", budget="8s"),
    "one_size": measured(studies.HARBOUR, "--sizes", "64"),
    "varied": measured(VARIED, budget="8s"),
    "growing_by_itself": measured(studies.HARBOUR.replace(', sizes="8..64 *2"', ""), "--ceiling", "5ms", budget="8s"),
    "steep": measured(studies.STEEP),
    "stages": measured(studies.STAGES),
    "mixed": measured(MIXED, budget="8s"),
    "versions": measured(VERSIONS, budget="8s"),
    "workload": (
        {"study.py": studies.HARBOUR, "calls.csv": CALLS},
        [["measure", "study.py", "--budget", "6s", "--workload", "calls.csv"]],
    ),
    "map": measured(studies.MAP, budget="12s"),
    "counted": measured(studies.TIDES, "--metric", "comparisons", "--metric", "steps", budget="20s"),
    "counted_memory": measured(studies.TIDES, "--metric", "memory"),
    "counted_lengths": measured(studies.LENGTHS, "--metric", "comparisons", "--metric", "swaps", budget="12s"),
    "counted_lines": measured(studies.TIDES, "--only", "by_pairs", "--metric", "steps", budget="20s"),
    "counted_and_timed": measured(studies.TIDES, "--family", "choppy", "--metric", "time", budget="12s"),
    "claims": measured(studies.CLAIMS.replace("CLAIM", "log n"), budget="8s"),
    "programs": measured(studies.PEAK + STARTS, budget="8s"),
    "race": (
        {"lamps.py": LAMPS},
        [
            shlex.split(
                "race lamps.py highest last_in_order twice --family shuffled --family descending --budget 8s"
                " --sizes 8..4096"
            )
        ],
    ),
    "race_expressions": ({}, [["race", "-e", "max(x)", "-e", "sorted(x)[-1]", "--budget", "5s"]]),
    "race_c": (
        {"rises.c": RISES},
        [
            [
                "race",
                "rises.c",
                "rise",
                "rise_by_pairs",
                "--family",
                "decimals",
                "--sizes",
                "16..1024 *2",
                "--budget",
                "6s",
            ]
        ],
    ),
    "race_input": (
        {"lamps.py": LAMPS, "gauge.txt": "3\n9\n4\n12\n7\n"},
        [["race", "lamps.py", "highest", "last_in_order", "--input", "gauge.txt", "--budget", "3s"]],
    ),
    "revisions": (
        {},
        [["HISTORY"], ["measure", "bench/study.py", "--against", "v1", "--budget", "12s"]],
    ),
    "worst": (
        {"study.py": studies.SOUNDINGS},
        [["worst", "study.py", "--sizes", "8, 12, 16, 32, 64", "--budget", "40s"]],
    ),
    "assessed": ({"study.py": CLASS, **HANDED_IN}, [["assess", "study.py"]]),
    "imported": ({"tidy.csv": TABLES["tidy.csv"]}, [["import", "tidy.csv", "--out", "book.jsonl"]]),
    "imported_wide": (
        {"wide.csv": TABLES["wide.csv"]},
        [["import", "wide.csv", "--unit", "ms", "--out", "book.jsonl"]],
    ),
}


def run(name: str) -> None:
    """Run the commands of a scenario and store its logbook."""
    files, commands = SCENARIOS[name]
    with tempfile.TemporaryDirectory() as room:
        folder = Path(room)
        for file, text in files.items():
            (folder / file).parent.mkdir(exist_ok=True)
            (folder / file).write_text(text)
        for word, *words in commands:
            if word == "EDIT":
                (folder / "study.py").write_text(words[0])
                continue
            if word == "HISTORY":
                studies.make_project(folder)
                continue
            words += [str(next(folder.glob("logbooks/*.jsonl")))] if words[-1] == "--resume" else []
            if word in ("measure", "race"):
                words += ["-q"]
            done = subprocess.run([COMMAND, word, *words], cwd=folder, capture_output=True, text=True)
            if done.returncode not in (0, 1) and name != "nothing_works":
                raise SystemExit(f"{name}: {done.stderr}")
        path = next(iter([*folder.glob("logbooks/*.jsonl"), *folder.glob("book.jsonl")]))
        text = path.read_text(encoding="utf-8").replace(str(folder), "harbour").replace(str(TESTS.parent), "project")
    store(name, text)


def store(name: str, text: str) -> None:
    """Write a logbook in its compressed form."""
    text = re.sub(r'"commit":"[0-9a-f]{40}","branch":"[^"]*"', '"commit":"' + "0" * 40 + '","branch":"main"', text)
    BOOKS.mkdir(exist_ok=True)
    (BOOKS / f"{name}.jsonl.xz").write_bytes(lzma.compress(text.encode(), preset=9))
    print(f"{name}: {text.count(chr(10))} records", flush=True)


def bay(path: Path) -> None:
    """Write three contenders on two families, in which leaders change."""
    rows = [("sweep", 40.0, 1.0, 900.0), ("every pair", 2.0, 2.0, 50.0), ("grid", 200.0, 1.0, 4000.0)]
    trials = [
        Trial(contender=name, family=family, size=n, heat=heat, elapsed=fixed + scale * n**power * (1 + heat / 500))
        for family in ("calm", "rough")
        for heat in range(1, 6)
        for name, scale, power, fixed in rows
        for n in (8, 16, 32, 64, 128, 256, 512)
    ]
    contenders = [ContenderRecord(name=name) for name, *_ in rows]
    write_logbook(path, [Header(), StudyRecord(name="bay", question="Who is quickest?"), *contenders, *trials])


def seven(path: Path) -> None:
    """Write seven contenders on two families."""
    laws: made_up.Laws = {}
    for at in range(7):
        for family, by in (("calm", 1.0), ("storm", 1.7)):
            law = made_up.RISING[1 + at % 4]
            laws[f"berth_{at}", family, None] = lambda n, law=law, by=by, at=at: 300 * law(n) * by * (1 + at / 5)
    made_up.written(path, laws)


def a_map(path: Path) -> None:
    """Write a map of two sizes in which a heap leads for many of few."""
    costs = {"heap": lambda n, k: 40 * n + 60 * k * math.log2(n), "look_again": lambda n, k: 20 * n * k + 300}
    chance = made_up.np.random.default_rng(7)
    sizes, seconds = [16, 64, 256, 1024, 4096], [1, 4, 16, 64, 256]
    opening = StudyRecord(name="lowest-tides", names=["n", "k"], seconds=seconds, sizes=sizes, budget=8.0)
    claims = {"heap": "n + k log n", "look_again": "n k"}
    records: list[AnyRecord] = [Header(), opening, FamilyRecord(name="gauges")]
    records += [ContenderRecord(name=name, claims=[made_up.ClaimRecord(claims[name])]) for name in costs]
    for heat in range(1, 10):
        for n in sizes:
            for k in [each for each in seconds if each <= n]:
                for name, cost in costs.items():
                    elapsed = cost(n, k) * math.exp(0.01 * chance.normal())
                    records.append(Trial(name, "gauges", n, heat, 1 + heat // 3, second=k, elapsed=float(elapsed)))
    write_logbook(path, records)


def counts_beside_times(path: Path) -> None:
    """Write a contender with a count beside its time, and one whose count is zero everywhere."""
    trials = [
        Trial(contender=who, family="bay", size=n, heat=heat, metric=metric, elapsed=9.0 * n * n, value=value)
        for heat in (1, 2, 3)
        for n in (8, 16, 32, 64, 128)
        for who, metric, value in (
            ("pairs", "time", None),
            ("pairs", "looks", n * (n - 1) / 2),
            ("calm", "time", None),
            ("calm", "looks", 0.0),
        )
    ]
    write_logbook(path, [Header(), *trials])


def unfinished(path: Path) -> None:
    """Write a run that was interrupted: a failure, no end, and a torn last line."""
    bay(path)
    lines = path.read_text(encoding="utf-8").splitlines()
    failure = {"kind": "failure", "contender": "grid", "family": "calm", "size": 1024, "reason": "RecursionError"}
    path.write_text("\n".join([*lines, json.dumps(failure), lines[-1][:40]]), encoding="utf-8")


def ended(path: Path) -> None:
    """Write a run that ended with questions that time cannot settle."""
    made_up.written(
        path,
        {("one", "bay", None): lambda n: 9.0 * n, ("two", "bay", None): lambda n: n**2},
        more=(StudyRecord("harbour", budget=9.0), Close("finished", 9.0, 9, 4, settled=True, orders_untold=["a", "b"])),
    )


def failing_beyond(path: Path) -> None:
    """Write a contender that fails at twice its last size."""
    failure = Failure(contender="surge", family="bay", size=1024, reason="RecursionError", detail="", works=1000)
    made_up.written(path, {("surge", "bay", None): lambda n: 100.0 * n}, more=(StudyRecord("tide"), failure))


GENERATED: dict[str, Callable[[Path], object]] = {
    **{f"any_{seed}": (lambda path, seed=seed: made_up.any_logbook(path, seed)) for seed in (2, 3, 5, 8, 13)},
    "bay": bay,
    "seven": seven,
    "map_of_laws": a_map,
    "counts_beside_times": counts_beside_times,
    "unfinished": unfinished,
    "ended": ended,
    "failing_beyond": failing_beyond,
}


def main(names: list[str]) -> None:
    """Make the logbooks of these names, or all."""
    for name in names or [*SCENARIOS, *GENERATED]:
        if name in GENERATED:
            with tempfile.TemporaryDirectory() as room:
                path = Path(room) / "book.jsonl"
                GENERATED[name](path)
                store(name, path.read_text(encoding="utf-8"))
        elif name.startswith("busy"):
            with burning():
                run(name)
        else:
            run(name)


if __name__ == "__main__":
    main(sys.argv[1:])
