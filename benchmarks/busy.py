"""Are verdicts on a busy machine those of a quiet one? Studies measured alone, and beside programs that burn.

python benchmarks/busy.py                    every study, quiet and beside 1, 2 and 4 others, pinned and not (an hour)
python benchmarks/busy.py --short            fewer studies, beside 2 others (some minutes)
python benchmarks/busy.py --studies pier,nap some of them

Quiet is measured twice, so that what two quiet runs differ by stands in the table, too.
"""

from __future__ import annotations

import argparse
import contextlib
import itertools
import json
import math
import os
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

COMMAND = str(Path(sys.executable).with_name("logarithm"))
DEMOS = Path(__file__).parents[1] / "src" / "logarithm" / "demos"
HEAD = """
import math, random, threading, time
from concurrent.futures import ThreadPoolExecutor
from logarithm import Study
study = Study("{name}", sizes="{sizes}")
@study.family
def levels(n, rng): return [rng.random() for _ in range(n)]
"""
FUNCTIONS = {
    "pier": (
        "16..2048 *2",
        """
@study.contender(claim="n")
def sweep(levels):
    top = levels[0]
    for each in levels:
        if each > top: top = each
    return top
@study.contender(claim="n")
def built_in(levels): return max(levels)
@study.contender(claim="n")
def folded(levels):
    from functools import reduce
    return reduce(lambda a, b: a if a > b else b, levels)
""",
    ),
    "gap": (
        "8..256 *1.4",
        """
@study.contender(claim="n^2")
def pairs(levels):
    best = 2.0
    for i in range(len(levels)):
        for j in range(i):
            gap = abs(levels[i] - levels[j])
            if gap < best: best = gap
    return best
@study.contender(claim="n log n")
def neighbours(levels):
    row = sorted(levels)
    return min((b - a for a, b in zip(row, row[1:])), default=2.0)
""",
    ),
    "blasts": (
        "4..24 +2",
        """
@study.contender(claim="1.618^n")
def each_way(levels):
    def ways(minutes): return 1 if minutes < 2 else ways(minutes - 1) + ways(minutes - 2)
    return ways(len(levels))
@study.contender(claim="n")
def minute_by_minute(levels):
    before = now = 1
    for _ in levels[1:]: before, now = now, before + now
    return now
""",
    ),
    "swells": (
        "8..256 *1.4",
        """
@study.contender(claim="n^2")
def every_rise(levels):
    best = 0.0
    for i in range(len(levels)):
        total = 0.0
        for j in range(i, len(levels)):
            total += levels[j] - 0.5
            if total > best: best = total
    return best
@study.contender(claim="n^2")
def shifting(levels):
    best, row = 0.0, list(levels)
    while row:
        total = 0.0
        for each in row:
            total += each - 0.5
            best = total if total > best else best
        row.pop(0)
    return best
@study.contender(claim="n")
def one_pass(levels):
    best = total = 0.0
    for each in levels:
        total = max(total + each - 0.5, 0.0)
        best = max(best, total)
    return best
study.agree(within=1e-9)
""",
    ),
    "comprehension": (
        "64..65536 *4",
        """
@study.contender(claim="n")
def comprehension(levels): return sum([each * 2 for each in levels if each > 0.5])
@study.contender(claim="n")
def generator(levels): return sum(each * 2 for each in levels if each > 0.5)
study.agree(within=1e-6)
""",
    ),
    "nap": (
        "2..32 *2",
        """
@study.contender(claim="n")
def dozes(levels):
    time.sleep(len(levels) * 4e-4)
    return len(levels)
@study.contender(claim="n")
def works(levels):
    for _ in range(len(levels) * 3000): pass
    return len(levels)
""",
    ),
    "pool": (
        "64..4096 *4",
        """
def total(levels):
    sum_of = 0.0
    for each in levels: sum_of += each
    return sum_of
@study.contender(claim="n")
def alone(levels): return total(levels)
@study.contender(claim="n")
def pool_of_one(levels):
    with ThreadPoolExecutor(1) as pool: return pool.submit(total, levels).result()
""",
    ),
    "long": (
        "8..64 *2",
        """
@study.contender(claim="n^2")
def square(levels):
    count = 0
    for _ in levels:
        for _ in range(len(levels) * 400): count += 1
    return count
@study.contender(claim="n^2")
def twice(levels):
    count = 0
    for _ in levels:
        for _ in range(len(levels) * 400):
            count += 1
            count += 0
    return count
""",
    ),
    "builds": (
        "64..16384 *4",
        """
@study.contender(claim={"use": "log n", "build": "n log n"})
class Tide:
    def build(self, levels): self.row = sorted(levels)
    def use(self, levels):
        from bisect import bisect_left
        return bisect_left(self.row, 0.5)
@study.contender(claim={"use": "n"})
class Scan:
    def build(self, levels): self.row = list(levels)
    def use(self, levels):
        count = 0
        for each in self.row:
            if each < 0.5: count += 1
        return count
""",
    ),
}
SHORT = ("pier", "gap", "nap", "long")
BURN = "import os\n{pin}\nwhile True: pass"


@contextlib.contextmanager
def others(many: int, pinned: bool) -> Iterator[None]:
    """So many programs that burn processors; pinned, each stays on one."""
    allowed = itertools.cycle(sorted(os.sched_getaffinity(0)))
    burning = [
        subprocess.Popen(
            [sys.executable, "-c", BURN.format(pin=f"os.sched_setaffinity(0, {{{next(allowed)}}})" if pinned else "")]
        )
        for _ in range(many)
    ]
    time.sleep(0.5 if many else 0.0)
    try:
        yield
    finally:
        for each in burning:
            each.kill()
            each.wait()


def studies(folder: Path, names: list[str]) -> dict[str, Path]:
    """The files of the studies that are asked for."""
    made = {}
    for name, (sizes, text) in FUNCTIONS.items():
        made[name] = folder / f"{name}.py"
        made[name].write_text(HEAD.format(name=name, sizes=sizes) + text)
    for demo in ("tides", "foghorns", "closest_buoys"):
        made[demo] = folder / f"{demo}.py"
        shutil.copy(DEMOS / f"{demo}.py", made[demo])
    if shutil.which("cc"):
        subprocess.run([COMMAND, "draft", "worker.c"], cwd=folder, check=True, capture_output=True)
        made["worker"] = folder / "worker_study.py"
        made["worker"].write_text(
            HEAD.format(name="worker", sizes="256..65536 *4").replace("@study.family", "@study.family(format='lines')")
            + "study.program('c', worker=['{build}/c'], build=['cc', '-O2', '-o', '{build}/c', 'worker.c'])\n"
            + "@study.contender\ndef python(levels): return max(levels)\nstudy.agree(within=1e-9)\n"
        )
    return {name: file for name, file in made.items() if not names or name in names}


def measured(file: Path, out: str, budget: str) -> dict:
    """The findings of a run."""
    path = file.parent / out
    path.unlink(missing_ok=True)
    command = [COMMAND, "measure", file.name, "--budget", budget, "--out", out, "-q", "--whole-budget"]
    done = subprocess.run(command, cwd=file.parent, capture_output=True, text=True)
    if done.returncode:
        raise SystemExit(f"{file.name}: {done.stderr.strip()}")
    shown = subprocess.run(
        [COMMAND, "report", str(path), "--format", "json"], capture_output=True, text=True, check=True
    )
    return json.loads(shown.stdout)


def contrast(folder: Path, before: str, after: str) -> tuple[list[float], bool]:
    """How many times as long calls took at each design point, at one pace of the machine; and whether it exits 1."""
    command = [COMMAND, "contrast", before, after, "--anyway", "--format", "json"]
    done = subprocess.run([*command, "--fail-on-slower", "10%"], cwd=folder, capture_output=True, text=True)
    found = json.loads(done.stdout)["changes"]
    ratios = [size["ratio"]["value"] for each in found if each["metric"] == "time" for size in each["sizes"]]
    return ratios, done.returncode == 1


def keyed(rows: list[dict]) -> dict[tuple, dict]:
    return {(each["contender"], each["family"], each["stage"]): each for each in rows if each["metric"] == "time"}


def compared(quiet: dict, other: dict) -> dict:
    """What differs between a quiet run and another one of the same study."""
    orders = [keyed(each["growth"]) for each in (quiet, other)]
    both = [key for key in orders[0] if key in orders[1]]
    # Those of times that have an interval: of others it is only said between which sizes they lie.
    crossings = [
        {
            (each["before"], each["after"], each["family"], each["stage"]): each["size"]
            for each in found["crossovers"]
            if each["metric"] == "time" and each["basis"] == "measured" and not each["bracket"]
        }
        for found in (quiet, other)
    ]
    return {
        "orders": len(both),
        "changed": [key for key in both if orders[0][key]["order"] != orders[1][key]["order"]],
        "contradicted": [
            (each["contender"], each["claim"]) for each in other["claims"] if each["verdict"] == "contradicted"
        ],
        "crossings": [
            abs(math.log(crossings[1][key] / size)) for key, size in crossings[0].items() if key in crossings[1]
        ],
        "waits": [note["contender"] for note in other["notes"] if "waiting" in note["text"]],
        "word": other["run"]["noise"],
        "others": other["run"].get("others"),
    }


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--short", action="store_true")
    parser.add_argument("--studies", default="")
    parser.add_argument("--budget", default="12s")
    asked = parser.parse_args()
    names = [each for each in asked.studies.split(",") if each] or (list(SHORT) if asked.short else [])
    conditions = [(0, False), (2, False), (2, True)] if asked.short else [(0, False)]
    if not asked.short:
        conditions += [(many, pinned) for many in (1, 2, 4) for pinned in (False, True)]
    print(
        "| study | others | machine | taken off | cost, median | nine of ten within | orders changed "
        "| contradicted | contrast |"
    )
    print("|---|---|---|---|---|---|---|---|---|")
    every: dict[tuple[int, bool], list[dict]] = {each: [] for each in conditions}
    failing = pairs = 0
    with tempfile.TemporaryDirectory() as place:
        for name, file in studies(Path(place), names).items():
            quiet = measured(file, "quiet.jsonl", asked.budget)
            for many, pinned in conditions:
                out = f"{many}{'-pinned' if pinned else ''}.jsonl"
                with others(many, pinned):
                    row = compared(quiet, measured(file, out, asked.budget))
                every[many, pinned].append(row)
                row["ratios"], is_failing = contrast(file.parent, "quiet.jsonl", out)
                pairs, failing = pairs + 1, failing + is_failing
                beside = f"{many}{' pinned' if pinned else ''}" if many else "none, again"
                off = [abs(math.log(each)) for each in row["ratios"]]
                print(
                    f"| {name} | {beside} | {row['word']} | {100 * (row['others'] or 0):.0f} % "
                    f"| {100 * (statistics.median(row['ratios']) - 1):+.1f} % "
                    f"| {100 * (math.exp(statistics.quantiles(off, n=10)[-1]) - 1):.0f} % "
                    f"| {', '.join(key[0] for key in row['changed']) or '–'} of {row['orders']} "
                    f"| {', '.join(' '.join(each) for each in row['contradicted']) or '–'} "
                    f"| {'fails' if is_failing else '–'} |",
                    flush=True,
                )
    print(
        "\n| others | cost off, median | nine of ten within | orders changed | contradicted | waits | crossovers off |"
    )
    print("|---|---|---|---|---|---|---|")
    for (many, pinned), rows in every.items():
        off = [abs(math.log(each)) for row in rows for each in row["ratios"]]
        crossings = [each for row in rows for each in row["crossings"]]
        waits = [each for row in rows for each in row["waits"] if each != "dozes"]
        print(
            f"| {many}{' pinned' if pinned else ''} "
            f"| {100 * (math.exp(statistics.median(off)) - 1):.1f} % (promised 5 %) "
            f"| {100 * (math.exp(statistics.quantiles(off, n=10)[-1]) - 1):.0f} % (promised 15 %) "
            f"| {sum(len(row['changed']) for row in rows)} of {sum(row['orders'] for row in rows)} (promised 0) "
            f"| {sum(len(row['contradicted']) for row in rows)} (promised 0) | {len(waits)} (promised 0) "
            f"| {100 * (math.exp(max(crossings, default=0.0)) - 1):.0f} % at most of {len(crossings)} (promised 25 %) |"
        )
    print(f"\ncontrasts of the same code that exit with 1: {failing} of {pairs} (promised at most 1 of 60)")


if __name__ == "__main__":
    main()
