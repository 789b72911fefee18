"""Logbooks of made-up trials."""

from __future__ import annotations

import math
import random
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from logarithm.logbook.memory import Logbook, LogbookBuilder
from logarithm.logbook.reading import read_logbook
from logarithm.logbook.records import (
    ClaimRecord,
    ContenderRecord,
    Failure,
    FamilyRecord,
    Header,
    LinesRecord,
    Machine,
    StudyRecord,
    Trial,
)
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


RISING: tuple[Callable[[float], float], ...] = (
    lambda n: 1.0,
    lambda n: n,
    lambda n: n * math.log2(n + 2),
    lambda n: n**2,
    lambda n: 30 * n + n**2 / 8,
    lambda n: 1.2 ** min(n, 90.0),
    lambda n: 200 + n,
)
"""Laws that a made-up contender may grow by."""


def any_logbook(path: Path, seed: int) -> Logbook:
    """A logbook of whatever may happen, by chance: holes, spikes, single trials, twins, few sizes, a busy half."""
    chance = np.random.default_rng(seed)

    def maybe(share: float) -> bool:
        return bool(chance.random() < share)

    varies = maybe(0.15)
    many = int(chance.integers(1, 14))
    sizes: list[float] = (
        [float(n) for n in range(-3, many - 2)]
        if varies
        else sorted(
            {round(float(n)) for n in np.geomspace(1 + 4 * chance.random(), 10 ** (1 + 3 * chance.random()), many)}
        )
    )
    processes, heats = int(chance.integers(1, 7)), int(chance.integers(1, 4))
    names = [f"berth{number}" for number in range(int(chance.integers(1, 5)))]
    stages = ["build", "use"] if maybe(0.2) else [None]
    families = ["calm", "storm"][: int(chance.integers(1, 3))]
    records: list = [
        Header(),
        StudyRecord("harbour", axis="position" if varies else "size", budget=9.0 if maybe(0.8) else None),
    ]
    claims = [[ClaimRecord(str(chance.choice(["1", "n", "n log n", "n^2"])))] if maybe(0.5) else [] for _ in names]
    records += [
        ContenderRecord(name, baseline=at == 0 and maybe(0.6), yardstick=at > 1 and maybe(0.2), claims=own)
        for at, (name, own) in enumerate(zip(names, claims, strict=True))
    ]
    noise, between = 10 ** chance.uniform(-3, -0.5), 10 ** chance.uniform(-2.5, -1)
    busy = 3.0 if maybe(0.2) else 1.0
    holes, spikes, scatter = (share if maybe(0.3) else 0.0 for share in (0.5, 0.1, 1.0))
    law = RISING[int(chance.integers(len(RISING)))]
    for family in families:
        for name in names:
            for stage in stages:
                own = law if maybe(0.3) else RISING[int(chance.integers(len(RISING)))]
                scale, reach = 10 ** chance.uniform(1, 5), 1 if maybe(0.8) else chance.random()
                ours = [n for at, n in enumerate(sizes) if at == 0 or (at + 1) / len(sizes) <= reach]
                level = {n: scale * own(abs(n)) * math.exp(scatter * chance.normal()) for n in ours}
                for process in range(1, processes + 1):
                    shift = math.exp(between * chance.normal()) * (busy if process > processes / 2 else 1.0)
                    for number in range(heats):
                        heat = 1 + (process - 1) * heats + number
                        for n in ours:
                            if maybe(holes):
                                continue
                            cost = level[n] * shift * math.exp(noise * chance.normal()) * (8 if maybe(spikes) else 1)
                            records.append(Trial(name, family, n, heat, process, stage=stage, elapsed=cost))
                            if stage is None and maybe(0.05):
                                value = round(own(abs(n)) + 1)
                                records.append(Trial(name, family, n, heat, process, metric="steps", value=value))
    if maybe(0.1):
        records.append(Failure(names[0], families[0], max(sizes) * 2 + 1, "RecursionError"))
    records.append(Trial(names[0], families[0], sizes[0], 1, 1, elapsed=100.0, stage=stages[0]))
    write_logbook(path, records)
    return read_logbook(path)


FIRST, SECOND, RUNGS = (64, 256, 1024, 4096), (1, 4, 16, 64), (64, 128, 256, 512, 1024, 2048)


def two_sizes(costs: Any, **more: Any) -> Logbook:
    """A logbook of two sizes: `costs` gives nanoseconds by (contender, stage), n and k; each trial is off by 1 %."""
    rng, builder = random.Random(5), LogbookBuilder(Path("both.jsonl"))
    opening = StudyRecord(
        name="bells", sizes=[*FIRST], seconds=[*SECOND], names=["n", "k"], budget=9.0, metrics=["time"], **more
    )
    builder.add([Header(), opening, *(ContenderRecord(name=who[0]) for who in costs), FamilyRecord(name="bay")])
    builder.add(
        [
            Trial(name, "bay", n, heat, 1 + heat // 2, calls=10, elapsed=round(took), stage=stage, second=k)
            for heat in range(1, 9)
            for n in FIRST
            for k in SECOND
            for (name, stage), cost in costs.items()
            for took in [10 * cost(n, k) * rng.uniform(0.99, 1.01)]
        ]
    )
    return builder.logbook()


def one_size(
    costs: dict[str, tuple[float, float]],
    sizes: tuple[int, ...] = RUNGS,
    versions: bool = True,
    records: list[ContenderRecord] | None = None,
) -> Logbook:
    """A logbook in which each contender takes so many nanoseconds, and so many for each item, give or take 1 %."""
    rng, builder = random.Random(3), LogbookBuilder(Path("ladder.jsonl"))
    named = [*costs] if versions else []
    opening = StudyRecord(name="bells", sizes=[*sizes], budget=9.0, metrics=["time"], versions=named)
    builder.add([Header(), opening, *(records or [ContenderRecord(name=name) for name in costs])])
    builder.add([FamilyRecord(name="bay")])
    heats = [(heat, 1 + heat // 2, n, name) for heat in range(1, 9) for n in sizes for name in costs]
    builder.add(
        [
            Trial(name, "bay", n, heat, process, calls=10, elapsed=round(10 * cost * rng.uniform(0.99, 1.01)))
            for heat, process, n, name in heats
            for cost in [costs[name][0] + costs[name][1] * n]
        ]
    )
    return builder.logbook()


LAWS_OF_TWO = {
    ("near", "bay", None): lambda n: 200 * n,
    ("far", "bay", None): lambda n: 9 * n * n,
}
STUDY_OF_TWO = (
    StudyRecord(name="tide", question="How high is it?"),
    ContenderRecord(name="near", baseline=True, claims=[ClaimRecord("n")]),
    ContenderRecord(name="far"),
    FamilyRecord(name="bay"),
)


def two_contenders(folder: Path, name: str = "run.jsonl", **how: object) -> Path:
    lines = LinesRecord(
        contender="far", family="bay", size=64, lines=[("tide.py", 4, "for level in levels:", 4096, 9000)]
    )
    written(folder / name, LAWS_OF_TWO, more=(*STUDY_OF_TWO, Machine(processor="made up"), lines), **how)  # type: ignore[arg-type]
    return folder / name
