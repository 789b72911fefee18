"""How long reports take beyond the analysis, for 12 contenders by 6 families by 16 sizes. 1.5 s and 3 MB are promised.

python benchmarks/rendering.py [FOLDER]   with a folder, what was rendered is kept there
"""

from __future__ import annotations

import math
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

from logarithm.logbook.reading import read_logbook
from logarithm.logbook.records import ContenderRecord, Header, StudyRecord, Trial
from logarithm.logbook.writing import write_logbook
from logarithm.report.figure.views import draw
from logarithm.report.page.page import page
from logarithm.report.present import rendered
from logarithm.results.findings import Findings
from logarithm.statistics.analysis import Analysis

POWERS = (1.0, 1.0, 1.5, 2.0, 1.0, 1.2, 2.0, 1.5, 0.0, 0.5, 1.0, 2.0)


def crowd(folder: Path) -> Findings:
    """Twelve contenders with long names on six families."""
    chance = np.random.default_rng(3)
    sizes = [round(8 * 2 ** (step / 2)) for step in range(16)]
    names = [
        f"{word} with a name of forty characters {at:02}"[:40] for at, word in enumerate(["tug", "sail", "barge"] * 4)
    ]
    trials = [
        Trial(contender=name, family=f"family_{number}", size=n, heat=heat, process=(heat + 1) // 2, elapsed=cost)
        for heat in range(1, 10)
        for number in range(6)
        for at, name in enumerate(names)
        for n in sizes
        for cost in [(2000 + 300 * at) * (n / 40) ** POWERS[at] * math.exp(chance.normal(0, 0.05))]
    ]
    contenders = [ContenderRecord(name=name, baseline=at == 0) for at, name in enumerate(names)]
    path = folder / "crowd.jsonl"
    path.unlink(missing_ok=True)
    write_logbook(path, [Header(), StudyRecord(name="crowd", question="Who is fastest?"), *contenders, *trials])
    return Analysis(read_logbook(path)).findings()


def main() -> None:
    with tempfile.TemporaryDirectory() as temporary:
        folder = Path(sys.argv[1] if len(sys.argv) > 1 else temporary)
        folder.mkdir(exist_ok=True)
        found = crowd(folder)
        ways: dict[str, Callable[[], str]] = {
            "text": lambda: rendered(found, "text"),
            "text, all": lambda: rendered(found, "text", everything=True),
            "markdown": lambda: rendered(found, "markdown"),
            "json": found.json,
            "html": lambda: page(found),
        }
        print("| what | seconds | kB | promised |\n|---|---|---|---|")
        rendered(found, "text")
        for what, render in ways.items():
            begun = time.perf_counter()
            written = render()
            took = time.perf_counter() - begun
            (folder / f"crowd-{what.replace(', ', '-')}.txt").write_text(written)
            promised = "under 3 MB" if what == "html" else "1.5 s"
            print(f"| {what} | {took:.2f} | {len(written.encode()) / 1000:.0f} | {promised} |")
        for view in ("growth", "ratio", "spread", "standings"):
            begun = time.perf_counter()
            draw(found, view).savefig(folder / f"crowd-{view}.png", dpi=100)
            print(f"| {view}, PNG | {time.perf_counter() - begun:.2f} | | |")


if __name__ == "__main__":
    main()
