"""How long the command takes to answer, as a ratio to importing Typer alone. At most 1.5 is promised."""

from __future__ import annotations

import statistics
import subprocess
import sys
import time
from pathlib import Path

PROMISED = 1.5


def took(command: list[str]) -> float:
    begun = time.perf_counter()
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL)
    return time.perf_counter() - begun


def main() -> None:
    pairs = 7 if "--short" in sys.argv else 41
    version = [str(Path(sys.executable).with_name("logarithm")), "--version"]
    bare = [sys.executable, "-c", "import typer"]
    took(version), took(bare)
    # Taken in turn, so that a slow moment of the machine falls on both.
    ratios = [took(version) / took(bare) for _ in range(pairs)]
    low, middle, high = statistics.quantiles(ratios, n=4)
    print("| what | median of ratios | quartiles | promised |\n|---|---|---|---|")
    print(f"| logarithm --version / import typer | {middle:.2f} | {low:.2f} to {high:.2f} | {PROMISED} |")


if __name__ == "__main__":
    main()
