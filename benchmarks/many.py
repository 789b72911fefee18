"""Hundreds of contenders: how long reports of a crowd take, and how a class is spread over worker processes.

python benchmarks/many.py             reports of 20, 100, 300 and 1,000 contenders, then a class of 300 (some minutes)
python benchmarks/many.py --reports   the reports alone
python benchmarks/many.py --class 60  a smaller class alone
"""

from __future__ import annotations

import argparse
import json
import math
import random
import resource
import subprocess
import sys
import tempfile
import time
from contextlib import contextmanager
from pathlib import Path

COMMAND = str(Path(sys.executable).with_name("logarithm"))
SIZES = [16 * 2**step for step in range(10)]
CLASS = """
from logarithm import Study, families
study = Study("peaks", sizes="8..256 *2")
study.family(families.decimals)
study.contender(max, name="reference", baseline=True)
study.submissions("handed-in/*.py", function="best", require="n log n")
"""
BODIES = (
    "    return max(rises)\n",
    "    high = rises[0]\n    for each in rises:\n        if each > high:\n            high = each\n    return high\n",
    "    return sorted(rises)[-1]\n",
    "    for each in rises:\n        if all(each >= other for other in rises):\n            return each\n",
    "    return min(rises)\n",
)


def table(path: Path, many: int) -> None:
    """A table of contenders of one family: ten sizes, five heats."""
    chance = random.Random(many)
    rows = ["contender,size,value,heat"]
    for number in range(many):
        scale, power = math.exp(chance.gauss(0, 0.6)), chance.choice([1, 1, 1.1, 2, 2])
        fixed = math.exp(chance.gauss(0, 1)) * 1e-5
        for size in SIZES:
            cost = fixed + scale * 1e-8 * size**power
            rows += [f"c{number:04d},{size},{cost * math.exp(chance.gauss(0, 0.03)):.6g},{heat}" for heat in range(5)]
    path.write_text("\n".join(rows) + "\n")


def seconds(*arguments: str, cwd: Path) -> tuple[float, str]:
    begun = time.monotonic()
    done = subprocess.run([COMMAND, *arguments], cwd=cwd, capture_output=True, text=True, check=True)
    return time.monotonic() - begun, done.stdout


def reports(folder: Path) -> None:
    print(
        "| contenders | import | text | lines of text | JSON | page | figure | promised |\n|---|---|---|---|---|---|---|---|"
    )
    for many in (20, 100, 300, 1000):
        table(folder / "crowd.csv", many)
        (folder / "crowd.jsonl").unlink(missing_ok=True)
        took, _ = seconds("import", "crowd.csv", "--unit", "s", "--out", "crowd.jsonl", cwd=folder)
        text, told = seconds("report", "crowd.jsonl", cwd=folder)
        parts = [
            seconds("report", "crowd.jsonl", "--format", form, "--out", f"{many}.{form}", cwd=folder)[0]
            for form in ("json", "html")
        ]
        figure, _ = seconds("plot", "crowd.jsonl", "--out", f"{many}.png", cwd=folder)
        promised = {300: "15 s each", 1000: "60 s each"}.get(many, "")
        shown = " | ".join(f"{each:.1f} s" for each in (took, text))
        rest = " | ".join(f"{each:.1f} s" for each in (*parts, figure))
        print(f"| {many} | {shown} | {len(told.splitlines())} | {rest} | {promised} |", flush=True)


@contextmanager
def scheduler(folder: Path, workers: int):
    """A scheduler with so many worker processes, the first of which has the clock."""
    file = folder / f"scheduler{workers}.json"
    quiet = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL, "cwd": folder}
    base = [sys.executable, "-m"]
    running = [
        subprocess.Popen(
            [*base, "distributed.cli.dask_scheduler", "--port", "0", "--no-dashboard", "--scheduler-file", str(file)],
            **quiet,
        )
    ]
    while not file.exists():
        time.sleep(0.1)
    for number in range(workers):
        command = [
            *base,
            "distributed.cli.dask_worker",
            "--nthreads",
            "1",
            "--no-dashboard",
            "--scheduler-file",
            str(file),
        ]
        running.append(subprocess.Popen([*command, *(["--resources", "clock=1"] if number == 0 else [])], **quiet))
    time.sleep(3)
    try:
        yield json.loads(file.read_text())["address"]
    finally:
        for each in running[::-1]:
            each.terminate()
            try:
                each.wait(timeout=20)
            except subprocess.TimeoutExpired:
                each.kill()


def assessed(folder: Path, many: int) -> None:
    (folder / "handed-in").mkdir()
    (folder / "class.py").write_text(CLASS)
    for number in range(many):
        (folder / "handed-in" / f"student{number:03d}.py").write_text(
            f"def best(rises):\n{BODIES[number % len(BODIES)]}"
        )
    print(f"\n| class of {many} | seconds | over one worker process | peak memory of the parent |\n|---|---|---|---|")
    first = 0.0
    for workers in (1, 2):
        with scheduler(folder, workers) as address:
            took, _ = seconds("assess", "class.py", "--on", address, "--format", "csv", cwd=folder)
        first = first or took
        peak = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024
        promised = "" if workers == 1 else " (promised 0.6)"
        print(
            f"| {workers} worker process{'es' * (workers > 1)} | {took:.0f} | {took / first:.2f}{promised} | {peak:.0f} MiB |",
            flush=True,
        )
    took, _ = seconds("assess", "class.py", "--format", "csv", cwd=folder)
    print(f"| here, without a cluster | {took:.0f} | {took / first:.2f} | |")
    each = first / many
    print(f"\nwith {each:.2f} s for a submission on one process: 3,000 take", end=" ")
    print(", ".join(f"{3000 * each / n / 60:.0f} min on {n}" for n in (1, 2, 10, 40, 80)), "processes")


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--reports", action="store_true")
    parser.add_argument("--class", dest="many", type=int)
    asked = parser.parse_args()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        if asked.many is None:
            reports(folder)
        if not asked.reports:
            assessed(folder, asked.many or 300)


if __name__ == "__main__":
    main()
