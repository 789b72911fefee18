"""How well history names the commits that changed a cost, and whether the same code is told to be the same.

    python benchmarks/revisions/run.py [--runs 20] [--twins 60] [--budget 60s]

The made project has twelve commits: two that slow, one that mends an order, one that breaks, the rest without effect.
Twins are revisions whose code differs in words only, so that it is measured twice, and does the same.
"""

from __future__ import annotations

import argparse
import os
import subprocess
import sys
import tempfile
from pathlib import Path

from made import BREAKS, LEVELS, MENDS, PREPARE, SLOWS, made_in

import logarithm
from logarithm.api import tasks

COMMAND = [Path(sys.executable).with_name("logarithm")]
EXPECTED = {(SLOWS[0], "highest", "slower"), (MENDS, "spread", "faster"), (SLOWS[1], "rise", "slower")}


def histories(runs: int, budget: str) -> None:
    """How often exactly the right commits are named."""
    right = 0
    for run in range(runs):
        with tempfile.TemporaryDirectory() as folder:
            project = Path(folder) / "project"
            made_in(project)
            history = tasks.history(
                project / "bench" / "study.py", "v1..HEAD", budget, prepare=[PREPARE], quiet=True, seed=run + 1
            )
        named = {(step.subject, step.contender, step.verdict) for step in history.steps}
        skipped = [each.subject for each in history.skipped]
        is_right = named == EXPECTED and skipped == [BREAKS]
        right += is_right
        if not is_right:
            print(f"  run {run + 1}: named {sorted(named)}, skipped {skipped}")
    print(f"history: exactly the right commits in {right} of {runs} runs of {budget}")


def twins(runs: int, budget: str) -> None:
    """How often a change is claimed where there is none, and how often that ends with exit code 1."""
    claimed = failed = 0
    for run in range(runs):
        with tempfile.TemporaryDirectory() as folder:
            project = Path(folder) / "project"
            made_in(project)
            levels = project / "src" / "tides" / "levels.py"
            # Other words for the same: the fingerprint differs, the steps do not.
            levels.write_text(LEVELS.replace("best", "top"))
            subprocess.run(["git", "-C", project, "commit", "-qam", "Other words"], check=True, env=_who())
            levels.write_text(LEVELS.replace("best", "crest"))
            words = ["measure", "bench/study.py", "--against", "HEAD", "--only", "highest", "--budget", budget, "-q"]
            more = ["--out", "a.jsonl", "--seed", str(run + 1), "--fail-on-slower", "10%", "--prepare", PREPARE]
            done = subprocess.run([*COMMAND, *words, *more], cwd=project, capture_output=True)
            found = logarithm.read_logbook(project / "a.jsonl").findings()
        failed += done.returncode == 1
        claimed += any(change.verdict in ("slower", "faster") for change in found.changes)
    print(f"same code in other words: a change claimed in {claimed} of {runs}, exit code 1 in {failed}")


def _who() -> dict[str, str]:
    names = {f"GIT_{role}_{what}": "harbour" for role in ("AUTHOR", "COMMITTER") for what in ("NAME", "EMAIL")}
    return {**os.environ, **names}


def main() -> None:
    """Run what was asked for."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--runs", type=int, default=20)
    parser.add_argument("--twins", type=int, default=60)
    parser.add_argument("--budget", default="60s")
    asked = parser.parse_args()
    if asked.runs:
        histories(asked.runs, asked.budget)
    if asked.twins:
        twins(asked.twins, "8s")


if __name__ == "__main__":
    main()
