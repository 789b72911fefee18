"""Are times those of fresh inputs? Each figure beside a reference taken in the same run, by loops of our own.

python benchmarks/fresh.py            all of it: minutes; needs cc, and javac for the worker in Java
python benchmarks/fresh.py --short    the crossover of two compiled sorts alone
python benchmarks/fresh.py --workers  the workers alone
"""

from __future__ import annotations

import argparse
import ctypes
import json
import math
import random
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

COMMAND = Path(sys.executable).with_name("logarithm")
PIECE = 50

SORTS = """
#include <string.h>
static int own[1 << 16];
static void by_shifting(int *a, int n) {
    for (int i = 1; i < n; i++) {
        int x = a[i], j = i - 1;
        while (j >= 0 && a[j] > x) { a[j + 1] = a[j]; j--; }
        a[j + 1] = x;
    }
}
static void by_parts(int *a, int n) {
    if (n < 2) return;
    int p = a[n / 2], i = 0, j = n - 1;
    while (i <= j) {
        while (a[i] < p) i++;
        while (a[j] > p) j--;
        if (i <= j) { int t = a[i]; a[i++] = a[j]; a[j--] = t; }
    }
    by_parts(a, j + 1); by_parts(a + i, n - i);
}
int shifting(const int *a, int n) { memcpy(own, a, n * sizeof *a); by_shifting(own, n); return own[n / 2]; }
int parting(const int *a, int n) { memcpy(own, a, n * sizeof *a); by_parts(own, n); return own[n / 2]; }
"""
# Jobs that are not among those the search for pools was tuned on.
OTHERS = """
int drifting(const int *a, int n) {  /* how often the tide turns, by a branch at each reading */
    int turns = 0, up = 1;
    for (int i = 1; i < n; i++) { if (up ? a[i] < a[i - 1] : a[i] > a[i - 1]) { turns++; up = !up; } }
    return turns;
}
int ranking(const int *a, int n) {  /* the rank of the middle one, without a branch */
    int rank = 0;
    for (int i = 0; i < n; i++) rank += a[i] < a[n / 2];
    return rank;
}
"""
STUDY = """
import array, ctypes
from logarithm import Study
library = ctypes.CDLL({library!r})
study = Study("compiled", sizes="{sizes}")
@study.family
def heights(n, rng): return array.array("i", [rng.randrange(10**6) for _ in range(n)])
def called(name):
    code = getattr(library, name)
    def contender(heights):
        return code(ctypes.c_void_p(heights.buffer_info()[0]), len(heights))
    contender.__name__ = name
    return contender
for name in {names!r}: study.contender(called(name))
"""
PYTHON = """
from logarithm import Study
study = Study("interpreted", sizes="32, 45, 64, 91, 128")
@study.family
def heights(n, rng): return [rng.randrange(10**6) for _ in range(n)]
@study.contender(baseline=True)
def highest(heights):
    best = heights[0]
    for height in heights:
        if height > best: best = height
    return best
@study.contender
def in_order(heights): return sorted(heights)
"""


def built(source: str, room: Path, name: str) -> Path:
    """A shared library from C source."""
    (room / f"{name}.c").write_text(source)
    library = room / f"{name}.so"
    subprocess.run(["cc", "-O2", "-shared", "-fPIC", "-o", library, room / f"{name}.c"], check=True)
    return library


def measured(study: str, room: Path, budget: float, *more: str) -> dict:
    """The findings of one run."""
    (room / "study.py").write_text(study)
    run = room / f"run-{time.monotonic_ns()}.jsonl"
    command = [COMMAND, "measure", "study.py", "--budget", f"{budget}s", "--out", run, "--anyway", *more]
    subprocess.run(command, cwd=room, check=True, capture_output=True)
    told = subprocess.run([COMMAND, "report", run, "--format", "json"], cwd=room, check=True, capture_output=True)
    return json.loads(told.stdout)


def ratio_of(one: Callable, other: Callable, inputs: list, rounds: int = 15) -> float:
    """The cost of one over that of the other on inputs that each come once in a long while, taken in turn."""
    ratios = []
    for _ in range(rounds):
        spent = [0, 0]
        # In pieces, so that a slow moment of the machine falls on both.
        for begin in range(0, len(inputs), PIECE):
            for at, code in enumerate((one, other)):
                start = time.perf_counter_ns()
                for each in inputs[begin : begin + PIECE]:
                    code(each)
                spent[at] += time.perf_counter_ns() - start
        ratios.append(spent[0] / spent[1])
    return statistics.median(ratios)


def by_pointer(library: Path, name: str) -> Callable:
    """A compiled function of an array, called exactly as the contender calls it."""
    code = getattr(ctypes.CDLL(str(library)), name)
    return lambda heights: code(ctypes.c_void_p(heights.buffer_info()[0]), len(heights))


def arrays(n: int, many: int, rng: random.Random) -> list:
    import array

    return [array.array("i", [rng.randrange(10**6) for _ in range(n)]) for _ in range(many)]


def crossing_by_hand(library: Path, names: tuple[str, str]) -> float:
    """Where one overtakes the other on fresh inputs, by ratios at sizes in between and a line through their logs."""
    rng = random.Random(2)
    one, other = (by_pointer(library, name) for name in names)
    sizes = [64, 91, 128, 181, 256, 362]
    logs = [math.log(ratio_of(one, other, arrays(n, max(200, 200_000 // n), rng))) for n in sizes]
    for (low, a), (high, b) in zip(zip(sizes, logs, strict=True), zip(sizes[1:], logs[1:], strict=True), strict=False):
        if a < 0 <= b:
            return math.exp(math.log(low) - a * (math.log(high) - math.log(low)) / (b - a))
    return math.nan


def compiled(room: Path, budget: float) -> None:
    library = built(SORTS + OTHERS, room, "sorts")
    study = STUDY.format(library=str(library), sizes="8..724", names=("shifting", "parting"))
    before = crossing_by_hand(library, ("shifting", "parting"))
    found = measured(study, room, budget)
    after = crossing_by_hand(library, ("shifting", "parting"))
    reference = statistics.fmean([before, after])
    crossings = [each for each in found["crossovers"] if each["after"] == "parting"]
    told = crossings[-1] if crossings else {"size": math.nan, "low": math.nan, "high": math.nan}
    shown = f"{told['size']:.0f} ({told['low']:.0f} to {told['high']:.0f})"
    off = 100 * (told["size"] / reference - 1)
    print(
        f"| two compiled sorts cross at, by hand {before:.0f} and {after:.0f} | {shown}, {off:+.0f} % | within 15 % |"
    )
    same = measured(study, room, budget / 2, "--inputs", "same")
    crossings = [each["size"] for each in same["crossovers"] if each["after"] == "parting"]
    print(f"| the same with --inputs same | {crossings[-1] if crossings else math.nan:.0f} | (misled) |")
    print(f"| foretold by the run on fresh inputs | {told.get('repeated') or math.nan:.0f} | |")
    pair = ("drifting", "ranking")
    rng = random.Random(4)
    study = STUDY.format(library=str(library), sizes="64, 91, 128, 181, 256", names=pair)
    by_hand = ratio_of(*(by_pointer(library, name) for name in pair), arrays(128, 1500, rng))
    found = measured(study, room, budget / 2)
    print(_ratio_row("turns counted with branches over ranks without, n = 128", found, pair, 128, by_hand))


def _ratio_row(what: str, found: dict, pair: tuple[str, str], n: int, by_hand: float) -> str:
    costs = {
        each["contender"]: next(point["typical"] for point in each["points"] if point["size"] == n)
        for each in found["costs"]
        if each["contender"] in pair and each["metric"] == "time"
    }
    ratio = costs[pair[0]] / costs[pair[1]]
    return f"| {what}, by hand {by_hand:.2f} | {ratio:.2f}, {100 * (ratio / by_hand - 1):+.0f} % | within 10 % |"


def interpreted(room: Path, budget: float) -> None:
    def highest(heights: list) -> int:
        best = heights[0]
        for height in heights:
            if height > best:
                best = height
        return best

    rng = random.Random(3)
    inputs = [[rng.randrange(10**6) for _ in range(64)] for _ in range(400)]
    by_hand = ratio_of(sorted, highest, inputs)
    found = measured(PYTHON, room, budget)
    print(_ratio_row("sorted over a loop, n = 64", found, ("in_order", "highest"), 64, by_hand))


def workers(room: Path, budget: float) -> None:
    """The same two jobs by drafted workers: sorting over finding the highest."""
    jobs = {
        "c": (
            "double best = count ? values[0] : 0;\n    for (size_t i = 1; i < count; i++)\n"
            "        if (values[i] > best) best = values[i];\n    return best;",
            "static double own[4096]; memcpy(own, values, count * sizeof *own);\n"
            "    for (size_t i = 1; i < count; i++) { double x = own[i]; size_t j = i;\n"
            "        while (j && own[j - 1] > x) { own[j] = own[j - 1]; j--; } own[j] = x; }\n"
            "    return own[count / 2];",
        ),
        "java": (
            "double best = values.length > 0 ? values[0] : 0;\n"
            "        for (double value : values) if (value > best) best = value;\n        return best;",
            "double[] own = values.clone();\n"
            "        for (int i = 1; i < own.length; i++) { double x = own[i]; int j = i;\n"
            "            while (j > 0 && own[j - 1] > x) { own[j] = own[j - 1]; j--; } own[j] = x; }\n"
            "        return own[own.length / 2];",
        ),
    }
    for kind, (plain, sorting) in jobs.items():
        if shutil.which("cc" if kind == "c" else "javac") is None:
            print(f"| worker in {kind} | not installed: left out | |")
            continue
        lines = [
            "from logarithm import Study",
            'study = Study("w", sizes="32, 64, 128")',
            "@study.family(format='lines')",
        ]
        lines.append("def heights(n, rng): return [rng.random() for _ in range(n)]")
        for name, job in (("Highest", plain), ("Sorting", sorting)):
            file = room / f"{name}.{kind}"
            subprocess.run([COMMAND, "draft", file], check=True, capture_output=True)
            text = file.read_text()
            file.write_text(text.replace(plain, job))
            assert job in file.read_text()
            build = (
                ["cc", "-O2", "-o", "{build}/worker", file.name, "-lm"]
                if kind == "c"
                else ["javac", "-d", "{build}", file.name]
            )
            start = ["{build}/worker"] if kind == "c" else ["java", "-cp", "{build}", name]
            lines.append(
                f"study.program({name.lower()!r}, worker={start!r}, build={build!r}, baseline={name == 'Highest'})"
            )
        found = measured("\n".join(lines) + "\n", room, budget)
        # The reference: the same worker asked by hand, with many more instances than any pool has.
        by_hand = _asked(room, kind, ("Sorting", "Highest"))
        print(
            _ratio_row(f"sorting over highest by workers in {kind}, n = 64", found, ("sorting", "highest"), 64, by_hand)
        )
        for each in found["warmups"]:
            print(f"| {each['contender']} in {kind}: at full speed after | {1e3 * each['seconds']:.0f} ms of calls | |")


def _asked(room: Path, kind: str, names: tuple[str, str]) -> float:
    """The ratio of two workers that have warmed up, on 400 instances in turn; the median of 3 processes."""
    rng = random.Random(5)
    files = [room / f"hand-{number}" for number in range(400)]
    for file in files:
        file.write_text("".join(f"{rng.random()!r}\n" for _ in range(64)))
    commands = []
    for name in names:
        build = room / f"hand-{name}"
        build.mkdir(exist_ok=True)
        if kind == "c":
            subprocess.run(["cc", "-O2", "-o", build / "worker", room / f"{name}.c", "-lm"], check=True)
            commands.append([build / "worker"])
        else:
            subprocess.run(["javac", "-d", build, room / f"{name}.java"], check=True)
            commands.append(["java", "-cp", build, name])
    # One process has much of its own, with what is compiled and where it lies, so there are three of each.
    return statistics.median(_one_process(commands, files) for _ in range(3))


def _one_process(commands: list, files: list[Path]) -> float:
    started = [subprocess.Popen(each, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True) for each in commands]

    def ask(process: subprocess.Popen, line: str) -> str:
        process.stdin.write(line + "\n")
        process.stdin.flush()
        return process.stdout.readline()

    for process in started:
        process.stdout.readline()
        for file in files:
            ask(process, f"load {file}")
        ask(process, "run 300000")
    costs = [[int(ask(process, f"run {50 * len(files)}").split()[1]) for process in started] for _ in range(15)]
    for process in started:
        process.kill()
    return statistics.median(one / other for one, other in costs)


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--short", action="store_true")
    parser.add_argument("--workers", action="store_true")
    parser.add_argument("--budget", type=float, default=20)
    asked = parser.parse_args()
    print("| what | measured | promised |\n|---|---|---|")
    with tempfile.TemporaryDirectory() as folder:
        if asked.workers:
            workers(Path(folder), asked.budget / 2)
        elif shutil.which("cc") is None:
            print("| compiled sorts | cc is not installed: left out | |")
        else:
            compiled(Path(folder), asked.budget)
        if not asked.short and not asked.workers:
            interpreted(Path(folder), asked.budget / 2)
            workers(Path(folder), asked.budget)


if __name__ == "__main__":
    main()
