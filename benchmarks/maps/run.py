"""Maps of two sizes: laws of counted work, boundaries on made maps, and twins that must not be told apart.

    python benchmarks/maps/run.py [--maps 200] [--twins 100] [--short]

Laws: steps of functions whose law is known. Boundaries: costs by known laws with a smooth drift in both logarithms,
noise of trials, and spreads of processes; each boundary is held against that of the true costs. Both are as in a run:
five heats in each of five processes, on a grid of six by six.
"""

from __future__ import annotations

import argparse
import math
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
from functions import CASES

from logarithm.logbook.memory import Logbook, LogbookBuilder
from logarithm.logbook.records import ContenderRecord, FamilyRecord, Header, StudyRecord, Trial
from logarithm.notation.laws import leading, parse
from logarithm.statistics.analysis import Analysis
from logarithm.statistics.maps.laws import law_of

NAMES = ("n", "k")
SIZES = [round(each) for each in np.geomspace(64, 65536, 6)], [round(each) for each in np.geomspace(1, 1024, 6)]
Cost = Callable[[np.ndarray, np.ndarray], np.ndarray]


def steps(function: Callable[..., object], *sizes: int) -> int:
    """The interpreter's steps of one call."""
    count = 0

    def trace(frame: object, event: str, _: object) -> object:
        nonlocal count
        frame.f_trace_opcodes = True  # type: ignore[attr-defined]
        count += event == "opcode"
        return trace

    sys.settrace(trace)  # type: ignore[arg-type]
    try:
        function(*sizes)
    finally:
        sys.settrace(None)
    return count


def laws() -> None:
    """How often the law of a function is named, and how often it is plausible."""
    first = plausible = 0
    took = 0.0
    for name, (law, (a, b), (c, d), function) in CASES.items():
        grid = [(round(n), round(k)) for n in np.geomspace(a, b, 6) for k in np.geomspace(c, d, 6)]
        grid = [(n, k) for n, k in dict.fromkeys(grid) if k <= n or c > a or d > b or "log" in name]
        n, k = (np.array([place[which] for place in grid], dtype=float) for which in (0, 1))
        work = np.array([np.mean([steps(function, *place) for _ in range(2)]) for place in grid])
        begun = time.perf_counter()
        found = law_of(n, k, work)
        took += time.perf_counter() - begun
        truth = leading(parse(law, NAMES).terms, bool((k <= n).all()))
        named = [] if found is None else [each.spelled(NAMES) for each, _ in found.plausible]
        first += bool(named) and named[0] == truth.spelled(NAMES)
        plausible += truth.spelled(NAMES) in named
        if not named or named[0] != truth.spelled(NAMES):
            print(f"  {name}: {truth.spelled(NAMES)}, named {', '.join(named) or 'nothing'}")
    many = len(CASES)
    print(f"laws: {first} of {many} first, {plausible} of {many} plausible; {1000 * took / many:.0f} ms each")


def made(costs: dict[str, Cost], rng: np.random.Generator, heats: int = 5, processes: int = 5) -> Logbook:
    """A logbook of a run in which contenders cost what they are said to."""
    builder = LogbookBuilder(Path("made.jsonl"))
    builder.add(
        [
            Header(),
            StudyRecord(name="made", names=list(NAMES), seconds=SIZES[1], budget=60.0),
            *(ContenderRecord(name=name) for name in costs),
            FamilyRecord(name="gauges"),
        ]
    )
    trials = []
    noise = 0.02 + 0.02 * rng.random()
    for process in range(1, processes + 1):
        own = {name: rng.normal(0, 0.02) for name in costs}
        local = {(name, n, k): rng.normal(0, 0.015) for name in costs for n in SIZES[0] for k in SIZES[1]}
        for heat in range(heats):
            for n in SIZES[0]:
                for k in (each for each in SIZES[1] if each <= n):
                    for name, cost in costs.items():
                        log = math.log(float(cost(np.array([n]), np.array([k]))[0])) + own[name] + local[name, n, k]
                        value = math.exp(log + noise * rng.standard_t(4))
                        number = heats * (process - 1) + heat + 1
                        trials.append(
                            Trial(
                                contender=name,
                                family="gauges",
                                size=n,
                                second=k,
                                heat=number,
                                process=process,
                                elapsed=value * 1e9,
                            )
                        )
    builder.add(trials)
    return builder.logbook()


def drift(rng: np.random.Generator, height: float) -> Cost:
    """A smooth factor in both logarithms, as caches make one."""
    waves = [(rng.normal(), rng.uniform(0.2, 0.8), rng.uniform(0.2, 0.8), rng.uniform(0, 6)) for _ in range(3)]
    return lambda n, k: np.exp(
        height / 3 * sum(a * np.sin(f * np.log(n) + g * np.log(k) + phase) for a, f, g, phase in waves)
    )


KINDS: tuple[tuple[Cost, Cost], ...] = (
    (lambda n, k: n + k * np.log2(n), lambda n, _: n * np.log2(n)),
    (lambda n, k: n * k, lambda n, k: n + 30 * k),
    (lambda n, k: n * k, lambda n, _: n),
    (lambda n, k: k * np.log2(n), lambda n, k: n + k),
    (lambda n, k: n + k, lambda n, _: 3 * np.sqrt(n)),
)


def maps(many: int) -> None:
    """How far boundaries are off, and how often their bands hold the truth."""
    errors, held, there = [], [], 0
    took = 0.0
    for seed in range(many):
        rng = np.random.default_rng(1000 + seed)
        one, other = KINDS[seed % len(KINDS)]
        place = np.array([4096.0]), np.array([32.0 * math.exp(rng.uniform(-1.2, 1.2))])
        level = float((one(*place) / other(*place))[0])
        factors = drift(rng, 0.15), drift(rng, 0.15)
        costs: dict[str, Cost] = {
            "heap": lambda n, k, one=one, factor=factors[0]: 1e-8 * one(n, k) * factor(n, k),
            "sort": lambda n, k, other=other, factor=factors[1], level=level: 1e-8 * level * other(n, k) * factor(n, k),
        }
        logbook = made(costs, rng)
        begun = time.perf_counter()
        found = Analysis(logbook).findings()
        took += time.perf_counter() - begun
        there += bool(found.boundaries)
        for edge in found.boundaries:
            for row in edge.curve:
                truth = crossing(costs, row, edge.along)
                if truth is not None:
                    errors.append(abs(math.log(row[edge.along] / truth)))
                    held.append(row["low"] <= truth * 1.002 and truth <= row["high"] * 1.002)
    print(
        f"boundaries: found on {there} of {many} maps; median error {100 * float(np.median(errors)):.1f} %, "
        f"nine in ten within {100 * float(np.quantile(errors, 0.9)):.0f} %; bands hold "
        f"{100 * float(np.mean(held)):.1f} % of {len(held)} places; {took / many:.2f} s each"
    )


def crossing(costs: dict[str, Cost], row: dict[str, float], along: str) -> float | None:
    """Where two true costs are equal on the line of a row, nearest to what was found."""
    across = next(name for name in NAMES if name != along)
    near = row[along] * np.geomspace(1 / 3, 3, 2001)
    n, k = (np.full(len(near), row[across]), near) if along == "k" else (near, np.full(len(near), row[across]))
    apart = np.log(costs["heap"](n, k) / costs["sort"](n, k))
    flips = np.flatnonzero(apart[:-1] * apart[1:] <= 0)
    if not len(flips):
        return None
    best = flips[np.abs(np.log(near[flips] / row[along])).argmin()]
    return float(near[best])


def twins(many: int) -> None:
    """How often a boundary or a lead is told between two that are the same."""
    edges = leads = 0
    for seed in range(many):
        rng = np.random.default_rng(5000 + seed)
        factor = drift(rng, 0.15)
        cost: Cost = lambda n, k, factor=factor: 1e-8 * (n + k * np.log2(n)) * factor(n, k)  # noqa: E731
        found = Analysis(made({"heap": cost, "other": cost}, rng)).findings()
        edges += bool(found.boundaries)
        leads += any(each.verdict == "leads" for each in found.leads)
    print(f"twins: a boundary between {edges} of {many}, a lead somewhere in {leads} of {many}")


def main() -> Iterator[None]:
    """Run what was asked for."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--maps", type=int, default=200)
    parser.add_argument("--twins", type=int, default=100)
    parser.add_argument("--short", action="store_true", help="ten maps and twins, no laws")
    asked = parser.parse_args()
    if not asked.short:
        yield laws()
    yield maps(10 if asked.short else asked.maps)
    yield twins(10 if asked.short else asked.twins)


if __name__ == "__main__":
    for _ in main():
        pass
