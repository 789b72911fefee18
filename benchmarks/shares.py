"""Where the seconds of a run go: the share inside timed calls, each phase, and whether the budget is kept.

Beside them stands after how many seconds the run first knew who leads where, as it says at its end: it is looked at
what its logbook says after each process.

python benchmarks/shares.py                  every study, 15 s each
python benchmarks/shares.py --budget 8       another budget
python benchmarks/shares.py --only demo      those whose name has this in it
"""

from __future__ import annotations

import argparse
import json
import shutil
import subprocess
import sys
import tempfile
import time
from itertools import groupby
from pathlib import Path

from logarithm import LogarithmError, read_logbook

COMMAND = Path(sys.executable).with_name("logarithm")
DEMOS = Path(__file__).resolve().parents[1] / "src" / "logarithm" / "demos"

STAGES = """
from logarithm import Study
study = Study("moorings", sizes="8..2048")
@study.family
def ropes(n, rng): return [rng.random() for _ in range(n)]
@study.contender
class Rising:
    def build(self, ropes): self.left = sorted(ropes, reverse=True)
    def use(self): return [self.left.pop() for _ in range(len(self.left) // 2)]
    def restore(self): self.build(self.kept)
    kept = [0.5] * 64
@study.contender
class AsTheyCame:
    def build(self, ropes): self.left = list(ropes)
    def use(self): return [self.left.pop() for _ in range(len(self.left) // 2)]
    def restore(self): self.left = [0.5] * 64
"""

ARRAYS = """
import numpy as np
from logarithm import Study
study = Study("soundings-in-arrays", sizes="16..65536")
study.referee(lambda instance, answer: True)
@study.family
def depths(n, rng): return np.random.default_rng(rng.getrandbits(64)).random(n)
@study.contender
def in_order(a): return np.sort(a)
@study.contender
def ranks(a): return np.argsort(a)
@study.contender
def different(a): return np.unique(a)
@study.contender
def running(a): return np.cumsum(a)
@study.contender
def waves(a): return np.fft.rfft(a)
@study.contender
def placed(a): return np.searchsorted(np.arange(len(a)) / len(a), a)
@study.contender
def by_hand(a): return max(a.tolist())
"""

TABLES = """
import pandas
from logarithm import Study
study = Study("tide-tables", sizes="64..16384")
@study.family
def levels(n, rng): return [rng.random() for _ in range(n)]
@study.contender
def table(levels): return float(pandas.Series(levels).max())
@study.contender
def plain(levels): return max(levels)
"""

STUDIES = {"stages with restore": STAGES, "seven on arrays": ARRAYS, "a study that imports pandas": TABLES}
BOUNDS = {"demo closest-buoys": 65, "demo tides": 65, "demo foghorns": 65, "demo soundings": 65}


def lasting(lines: list[dict[str, object]], folder: Path) -> float | None:
    """Seconds until it was known who leads where, as at the end; None where nobody leads."""
    trials = [line for line in lines if line["kind"] == "trial" and line.get("process") and line.get("at")]
    processes = sorted({int(str(line["process"])) for line in trials})
    seen: list[tuple[float, tuple[object, ...]]] = []
    for last in processes:
        kept = [line for line in lines if line["kind"] != "trial" or int(str(line.get("process") or 0)) <= last]
        part = folder / "part.jsonl"
        part.write_text("".join(json.dumps(line) + "\n" for line in kept))
        until = max(float(str(line["at"])) for line in trials if line["process"] == last)
        try:
            found = read_logbook(part).findings()
            named = [(each.family, each.stage, each.metric, tuple(sorted(each.names))) for each in found.standings]
            leads = tuple(each for each, _ in groupby(named))
        except LogarithmError:
            leads = ()
        seen.append((until, leads))
    if not seen or not seen[-1][1]:
        return None
    changed = [at for at, (_, leads) in enumerate(seen) if leads != seen[-1][1]]
    return seen[changed[-1] + 1 if changed else 0][0]


def run(command: list[str], folder: Path) -> tuple[float, dict[str, object], float | None]:
    """A command's seconds, the end of the logbook that it wrote, and when its answer was there."""
    begun = time.monotonic()
    subprocess.run([str(COMMAND), *command], cwd=folder, capture_output=True, text=True, check=False)
    took = time.monotonic() - begun
    books = sorted(folder.rglob("*.jsonl"), key=lambda file: file.stat().st_mtime)
    lines = [json.loads(line) for line in books[-1].read_text().splitlines()] if books else []
    return took, next((line for line in reversed(lines) if line["kind"] == "close"), {}), lasting(lines, folder)


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--budget", type=float, default=15.0)
    parser.add_argument("--only", default="")
    asked = parser.parse_args()
    print(
        "| study | inside timed calls | at least | heats, processes | settled | answer after "
        "| budget, run, command | phases |\n"
        "|---|---|---|---|---|---|---|---|"
    )
    for name in (*(f"demo {file.stem.replace('_', '-')}" for file in sorted(DEMOS.glob("[a-z]*.py"))), *STUDIES):
        if asked.only not in name:
            continue
        with tempfile.TemporaryDirectory() as room:
            folder = Path(room)
            if name in STUDIES:
                (folder / "study.py").write_text(STUDIES[name])
            else:
                source = DEMOS / f"{name.removeprefix('demo ').replace('-', '_')}.py"
                shutil.copy(source, folder / "study.py")
                for beside in DEMOS.glob(source.stem + "/*"):
                    (folder / source.stem).mkdir(exist_ok=True)
                    shutil.copy(beside, folder / source.stem)
            took, close, answered = run(["measure", "study.py", "--budget", f"{asked.budget:g}s", "--anyway"], folder)
        phases = {phase: float(seconds) for phase, seconds in dict(close.get("phases", {})).items()}  # type: ignore[call-overload]
        whole = sum(phases.values()) or 1.0
        inside, elapsed = float(str(close.get("inside", 0))), float(str(close.get("elapsed", 0)))
        shown = ", ".join(f"{phase} {100 * seconds / whole:.0f} %" for phase, seconds in phases.items())
        kept = f"{asked.budget:g}, {elapsed:.1f}, {took:.1f} s"
        print(
            f"| {name} | {100 * inside / max(elapsed, 0.1):.0f} % | {BOUNDS.get(name, 50)} % "
            f"| {close.get('heats')}, {close.get('processes')} | {close.get('settled')} "
            f"| {'-' if answered is None else f'{answered:.1f} s'} | {kept} | {shown} |",
            flush=True,
        )


if __name__ == "__main__":
    main()
