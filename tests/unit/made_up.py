"""Logbooks of made-up trials."""

from __future__ import annotations

import math
from collections.abc import Callable
from pathlib import Path

import numpy as np

from logarithm.logbook.memory import Logbook
from logarithm.logbook.reading import read_logbook
from logarithm.logbook.records import Header, Trial
from logarithm.logbook.writing import write_logbook

SIZES = [8, 16, 32, 64, 128, 256, 512]
Laws = dict[tuple[str, str, str | None], Callable[[float], float]]


def written(
    path: Path, laws: Laws, noise: float = 0.02, seed: int = 1, sizes: list[int] = SIZES, more: tuple = ()
) -> Logbook:
    """A logbook of made-up trials: laws in nanoseconds by (contender, family, stage), five processes of two heats."""
    random = np.random.default_rng(seed)
    trials = [
        Trial(contender=who, family=family, stage=stage, size=n, heat=heat, process=(heat + 1) // 2, elapsed=cost)
        for heat in range(1, 11)
        for (who, family, stage), law in laws.items()
        for n in sizes
        for cost in [law(float(n)) * math.exp(random.normal(0, noise))]
    ]
    write_logbook(path, [Header(), *more, *trials])
    return read_logbook(path)
