"""Reading and analysing a logbook of a million trials: seconds, memory, and how both grow. 4 s, 600 MB are promised.

python benchmarks/large.py [--short]
"""

from __future__ import annotations

import resource
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np

from logarithm.logbook.records import Header, Trial
from logarithm.logbook.writing import LogbookWriter


def write(path: Path, trials: int) -> None:
    chance = np.random.default_rng(1)
    sizes = [round(8 * 2 ** (step / 2)) for step in range(16)]
    places = [(f"contender {c}", family, n) for c in range(4) for family in ("ebb", "flood") for n in sizes]
    with LogbookWriter(path) as writer:
        writer.write(Header())
        for heat in range(1, trials // len(places) + 1):
            noise = chance.lognormal(0, 0.05, len(places)).tolist()
            process = 1 + heat // 8
            writer.write(
                *(
                    Trial(
                        contender=who,
                        family=family,
                        size=n,
                        heat=heat,
                        process=process,
                        calls=10,
                        elapsed=round(n * 1000 * (1 + int(who[-1])) * noise[at]),
                        overhead=90.0,
                        cpu=n * 1000,
                        pace=(round(40000 * noise[at] ** 0.5), round(40000 * noise[at] ** 0.5)),
                    )
                    for at, (who, family, n) in enumerate(places)
                )
            )


def main() -> None:
    if len(sys.argv) > 1 and sys.argv[1] == "--one":
        from logarithm.logbook.reading import read_logbook
        from logarithm.statistics.analysis import Analysis

        begun = time.perf_counter()
        Analysis(read_logbook(sys.argv[2])).findings()
        print(time.perf_counter() - begun, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)
        return
    print("| trials | seconds | MB at most |\n|---|---|---|")
    for trials in (50_000, 100_000) if "--short" in sys.argv else (250_000, 500_000, 1_000_000):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "large.jsonl"
            write(path, trials)
            done = subprocess.run(
                [sys.executable, __file__, "--one", str(path)], capture_output=True, text=True, check=True
            )
        seconds, memory = map(float, done.stdout.split())
        print(f"| {trials} | {seconds:.1f} | {memory:.0f} |", flush=True)


if __name__ == "__main__":
    main()
