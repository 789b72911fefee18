"""Is 95 % 95 %? Thousands of made-up logbooks under realistic noise, analysed, and held against what is promised.

python benchmarks/coverage.py            all cells, some thousands of logbooks: about half an hour
python benchmarks/coverage.py --short    the most telling cells with a few hundred logbooks: a minute or two

The noise of a trial: 1 to 5 %, log-uniform; a factor for each process, 1 to 4 %; 1 % for the place of code and data in
a process; waves of the machine, 1.5 to 2 times, which the pace follows; spikes in 5 % of the trials; sizes that pause
in most heats because they are dear; a smooth drift of the true cost over log n, up to three times, as caches make it.
"""

from __future__ import annotations

import argparse
import math
import os
from collections.abc import Callable
from dataclasses import dataclass
from multiprocessing import Pool

os.environ.update(OMP_NUM_THREADS="1", OPENBLAS_NUM_THREADS="1")

import numpy as np

from logarithm.logbook.memory import Trials
from logarithm.notation.orders import parse
from logarithm.statistics.comparison.pair import compare_pair
from logarithm.statistics.growth.catalogue import COMMON_TIMED, log_values
from logarithm.statistics.growth.fit import fit_growth, ratio_of
from logarithm.statistics.growth.forecast import cost_at
from logarithm.statistics.logbooks.contrast import changes_between
from logarithm.statistics.readings.series import arrange
from logarithm.statistics.readings.speed import at_quick_pace

ALL = ("process", "place", "wave", "spike", "unequal", "drift")
LAWS: dict[str, Callable] = {"n": lambda n: n, "n log n": lambda n: n * np.log2(n), "n^2": lambda n: n**2}
TRIAL, AROUND, BASE = 0.008, 0.001, 2e-5
SIZES = np.unique(np.round(np.geomspace(16, 16384, 12)))


@dataclass(frozen=True)
class Design:
    """How a logbook comes about."""

    processes: int = 10
    heats: int = 4
    effects: tuple[str, ...] = ALL

    @property
    def dearest(self) -> float:
        """Seconds of the dearest call: with pauses near the ceiling, else within a plain trial."""
        return 0.7 if "unequal" in self.effects else 0.004


def drifted(chance: np.random.Generator, most: float, ends: tuple[float, float] | None = None) -> Callable:
    """A smooth log factor up to `most`: one or two caches that fill, at places and over widths of their own."""
    parts = int(chance.integers(1, 3))
    heights = chance.dirichlet(np.ones(parts)) * math.log(most)
    places = chance.uniform(*(ends or (math.log(SIZES[0]), math.log(SIZES[-1]))), parts)
    widths = chance.uniform(0.3, 1.0, parts)
    return lambda n: sum(h / (1 + np.exp((p - np.log(n)) / w)) for h, p, w in zip(heights, places, widths, strict=True))


@dataclass(frozen=True)
class Noise:
    """The machine of one day: how slow its slow moments are, how long they last, and how much contenders feel them."""

    factor: float
    dwell: float
    feels: float

    @classmethod
    def of(cls, chance: np.random.Generator) -> Noise:
        """A day left to chance."""
        return cls(chance.uniform(1.5, 2), math.exp(chance.uniform(math.log(0.05), 0)), chance.uniform(0.7, 1))

    def waves(self, chance: np.random.Generator, begin: np.ndarray, span: np.ndarray) -> tuple:
        """Mean slowness of each trial, and that at its beginning and end."""
        total = float(begin[-1] + span[-1]) + 1
        count = int(3 * total / self.dwell) + 60
        ends = np.cumsum(self.dwell * chance.standard_exponential(count))
        level = np.where((np.arange(count + 1) + chance.integers(2)) % 2, self.factor, 1.0)
        edge = np.concatenate([[0.0], ends])
        area = np.concatenate([[0.0], np.cumsum(level[:-1] * np.diff(edge))])
        mean = (np.interp(begin + span, edge, area) - np.interp(begin, edge, area)) / span
        return mean**self.feels, level[np.searchsorted(ends, begin)], level[np.searchsorted(ends, begin + span)]


def trials_of(chance: np.random.Generator, design: Design, costs: np.ndarray, day: Noise, between: float) -> Trials:
    """Trials of contenders whose true costs are given, shape (contenders, sizes)."""
    has, (many, sizes) = set(design.effects), costs.shape
    heats = design.processes * design.heats
    pause = np.ones(costs.shape, dtype=int)
    if "unequal" in has:
        steps = np.log2(np.maximum(np.maximum(costs, TRIAL) / (4 * (TRIAL + AROUND)), 1)).astype(int)
        pause = np.minimum(max(1, heats // 5), 2**steps)
    grid = np.meshgrid(np.arange(many), np.arange(sizes), np.arange(heats), indexing="ij")
    who, at, heat = (each.ravel() for each in grid)
    kept = heat % pause[who, at] == 0
    who, at, heat = who[kept], at[kept], heat[kept]
    order = np.argsort(heat + chance.random(len(heat)), kind="stable")
    who, at, heat = who[order], at[order], heat[order]
    process = heat // design.heats
    true = costs[who, at]
    calls = np.maximum(1, np.round(TRIAL / true))
    log = np.log(true) + math.exp(chance.uniform(math.log(0.01), math.log(0.05))) * chance.standard_normal(len(true))
    if "process" in has:
        log += (between * chance.standard_normal((many, design.processes)))[who, process]
    if "place" in has:
        log += (0.01 * chance.standard_normal((many, sizes, design.processes)))[who, at, process]
    if "spike" in has:
        hit = chance.random(len(log)) < 0.05
        log[hit] += np.log1p(chance.exponential(0.5, int(hit.sum())))
    pace = np.full((len(log), 2), BASE)
    if "wave" in has:
        span = true * calls * 1.3
        mean, first, last = day.waves(chance, np.cumsum(span + AROUND) - span, span)
        log += np.log(mean)
        pace *= np.stack([first, last], axis=1)
    pace *= np.exp(0.007 * chance.standard_normal(pace.shape))
    keys = [(name, "f", None, "time") for name in "abcdef"[:many]]
    whole = np.int32
    none = np.full(len(log), np.nan)
    places = who.astype(whole), SIZES[at], (heat + 1).astype(whole), (process + 1).astype(whole)
    return Trials(keys, *places, np.exp(log), none, pace, calls.astype(float))


def series_of(trials: Trials) -> list:
    costs, _ = at_quick_pace(trials)
    return sorted(arrange(trials, costs, is_ours=True), key=lambda each: each.contender)


def twins(chance: np.random.Generator, design: Design, apart: float = 0.0) -> dict:
    """Two contenders that differ by a known share, at every size."""
    law = LAWS["n log n"](SIZES)
    if "drift" in design.effects:
        law = law * np.exp(drifted(chance, math.exp(chance.uniform(0, math.log(3))))(SIZES))
    law = law / law[-1] * design.dearest
    costs = np.stack([law, law * (1 + apart)])
    found = compare_pair(*series_of(trials_of(chance, design, costs, Noise.of(chance), chance.uniform(0.01, 0.04))))
    truth = 1 / (1 + apart)
    return {
        "a leader": any(zone.sign for zone in found.zones),
        "found": any(zone.sign < 0 for zone in found.zones),
        "interval of a ratio": [bool(low <= truth <= high) for low, high in zip(found.low, found.high, strict=True)],
        "width": float(np.median(np.log(found.high / found.low))),
    }


def crossed(chance: np.random.Generator, design: Design, laws: tuple[str, str]) -> tuple[np.ndarray, float]:
    """The true costs of two contenders that cross once, shape (2, sizes), and the size at which they do."""
    fine = np.geomspace(SIZES[0], SIZES[-1], 3001)
    while True:
        drifts = [
            drifted(chance, math.exp(chance.uniform(0, math.log(3)))) if "drift" in design.effects else lambda n: 0 * n
            for _ in laws
        ]

        def logs(n: np.ndarray, drifts: list = drifts) -> np.ndarray:
            return np.stack([np.log(LAWS[law](n)) + drift(n) for law, drift in zip(laws, drifts, strict=True)])

        at = np.array([math.exp(chance.uniform(math.log(SIZES[2]), math.log(SIZES[-3])))])
        shift = float(np.subtract(*logs(at))[0])
        gap = np.subtract(*logs(fine)) - shift
        flips = np.flatnonzero(gap[:-1] * gap[1:] < 0)
        if len(flips) == 1 and SIZES[1] < fine[flips[0]] < SIZES[-2]:
            break
    costs = np.exp(logs(SIZES) + np.array([[0.0], [shift]]))
    truth = float(np.sqrt(fine[flips[0]] * fine[flips[0] + 1]))
    return costs / costs.max() * design.dearest, truth


def crossing(chance: np.random.Generator, design: Design, laws: tuple[str, str]) -> dict:
    """Two contenders that cross once, at a known size."""
    costs, truth = crossed(chance, design, laws)
    series = series_of(trials_of(chance, design, costs, Noise.of(chance), chance.uniform(0.01, 0.04)))
    pair = compare_pair(*series, ratio_of(*(fit_growth(each.sizes, each.costs) for each in series)))
    found, is_tie = pair.crossings, all(zone.is_tie for zone in pair.zones)
    near = [each for each in found if abs(math.log(each.size / truth)) < 0.7]
    if not near:
        return {"missed": True, "invented": bool(found), "called a tie": is_tie}
    best = min(near, key=lambda each: abs(math.log(each.size / truth)))
    return {
        "missed": False,
        "called a tie": is_tie,
        "invented": len(found) > 1,
        "interval of a crossover": best.low <= truth <= best.high,
        "width": math.log(best.high / best.low),
        "off": abs(math.log(best.size / truth)),
    }


def twice(chance: np.random.Generator, design: Design, slower: float = 0.0) -> dict:
    """Two logbooks of the same two contenders, on two days, the second one slower by a known share."""
    law = LAWS["n log n"](SIZES)
    if "drift" in design.effects:
        law = law * np.exp(drifted(chance, math.exp(chance.uniform(0, math.log(3))))(SIZES))
    law = law / law[-1] * design.dearest
    costs = np.stack([law, 1.3 * law])
    one, two, between = Noise.of(chance), Noise.of(chance), chance.uniform(0.01, 0.04)
    two = Noise(two.factor, two.dwell, one.feels)  # the code feels the machine alike; the machine is as it is
    runs = [trials_of(chance, design, costs * (1 + more), day, between) for more, day in ((0.0, one), (slower, two))]
    before, noise = at_quick_pace(runs[0])
    after, _ = at_quick_pace(runs[1], noise.pace)
    series = [arrange(trials, costs, is_ours=True) for trials, costs in zip(runs, (before, after), strict=True)]
    changes = changes_between(*series)
    return {
        "change claimed": any(each.verdict != "no difference seen" for each in changes),
        "exit 1": any(each.slower_by(0.10) is not None for each in changes),
        "interval of a change": [each.overall.low <= 1 + slower <= each.overall.high for each in changes],
    }


def named(chance: np.random.Generator, design: Design, most: float) -> dict:
    """A contender of a known order, drawn by how common orders are, whose cost drifts by a known factor."""
    names = list(COMMON_TIMED)
    likely = np.array([COMMON_TIMED[name] for name in names])
    order = parse(names[chance.choice(len(names), p=likely / likely.sum())])
    largest = 11 if order.factorial else 24 if order.base else SIZES[-1]
    sizes = np.unique(np.round(np.geomspace(4, largest, 12))) if order.factorial or order.base else SIZES
    ends = math.log(sizes[0]), math.log(sizes[-1] * 10)
    drift = drifted(chance, most, ends) if "drift" in design.effects else lambda n: 0 * n
    fixed = math.exp(chance.uniform(math.log(0.1), math.log(3))) * (chance.random() < 0.5) * (str(order) != "1")

    def true(n: np.ndarray) -> np.ndarray:
        return (fixed + np.exp(log_values(order, n) - order.log_value(float(sizes[0])))) * np.exp(drift(n))

    scale = design.dearest / true(sizes).max() if order.rank > parse("log n").rank else 1e-6
    table = scale * true(sizes)[:, None]
    repeated = table * np.exp(chance.uniform(0.005, 0.03) * chance.standard_normal((len(sizes), design.processes)))
    growth = fit_growth(sizes, repeated)
    ahead = [cost_at(growth, float(sizes[-1] * far)) for far in (2, 10)] if not (order.base or order.factorial) else []
    truths = scale * true(np.array([2, 10]) * sizes[-1])
    told = [(each, truth) for each, truth in zip(ahead, truths, strict=False) if not isinstance(each, str)]
    weight = growth.plausible[0][1]
    right = growth.order == str(order)
    return {
        "first order right": right,
        "weight told": weight,
        "told 0.9 and more: right": [right] if weight >= 0.9 else [],
        "told 0.5 to 0.9: right": [right] if 0.5 <= weight < 0.9 else [],
        "told 0.5 to 0.9: told": [weight] if 0.5 <= weight < 0.9 else [],
        "true order plausible": str(order) in [str(fit.order) for fit, _ in growth.plausible],
        "orders plausible": len(growth.plausible) / 100,
        "interval of a forecast": [bool(f.low <= t <= f.high) for f, t in told],
        "forecast": [not isinstance(each, str) for each in ahead],
    }


def batch(job: tuple) -> list[dict]:
    what, arguments, seed, count = job
    chance = np.random.default_rng(seed)
    return [what(chance, *arguments) for _ in range(count)]


def seen(rows: list[dict], key: str) -> tuple[float, float]:
    """The mean of something over logbooks, and its standard error; what one logbook says many times is one cluster."""
    values = [np.atleast_1d(np.asarray(row[key], dtype=float)) for row in rows if key in row]
    count, total = np.array([len(each) for each in values]), np.array([each.sum() for each in values])
    rate = total.sum() / count.sum()
    return float(rate), float(np.sqrt(((total - rate * count) ** 2).sum()) / count.sum())


def tell(pool: Pool, what: Callable, label: str, arguments: tuple, keys: dict[str, str], many: int) -> None:
    seeds = np.random.SeedSequence([sum(map(ord, label)), 11]).spawn(8)
    made = pool.map(batch, [(what, arguments, seed, many // 8) for seed in seeds])
    rows = [row for part in made for row in part]
    for key, promised in keys.items():
        rate, error = seen(rows, key)
        shown = f"{100 * rate:.1f} ± {100 * error:.1f} %"
        print(f"| {label} | {key} | {promised} | {shown} | {len(rows)} |", flush=True)


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--short", action="store_true")
    parser.add_argument("--many", type=int, help="logbooks a cell")
    asked = parser.parse_args()
    many = asked.many or (30 if asked.short else 800)
    alone = {"noise alone": (), **{f"{each} alone": (each,) for each in ALL}}
    designs = {
        f"all, {processes} processes of {heats}": Design(processes, heats)
        for processes, heats in ((3, 6), (4, 6), (6, 6), (10, 6))
    }
    if not asked.short:
        designs = {
            **{name: Design(10, 6, effects) for name, effects in alone.items()},
            **designs,
            "all, 3 processes of 12": Design(3, 12),
        }
    print("| noise | what | promised | seen | logbooks |\n|---|---|---|---|---|")
    with Pool(2) as pool:
        for name, design in designs.items():
            keys = {
                "a leader": "twins: at most 2 %",
                "interval of a ratio": "92 to 98 %",
                "width": "(median of high / low)",
            }
            tell(pool, twins, name, (design,), keys, many)
        for name, design in designs.items():
            for kind, laws in (("steep", ("n^2", "n log n")), ("shallow", ("n log n", "n"))):
                keys = {
                    "interval of a crossover": "92 to 98 %",
                    "missed": "",
                    "called a tie": "at most 10 %",
                    "invented": "",
                    "width": "",
                    "off": "",
                }
                tell(pool, crossing, f"{name}, {kind}", (design, laws), keys, many)
        for name, design in designs.items():
            keys = {"change claimed": "at most 1 %", "exit 1": "at most 0.5 %", "interval of a change": "92 to 98 %"}
            tell(pool, twice, name, (design,), keys, many)
        for most in (1.0, 1.5, 2.0, 3.0):
            keys = {
                "first order right": "as often as told",
                "weight told": "",
                "told 0.9 and more: right": "at least 90 %",
                "told 0.5 to 0.9: right": "as told",
                "told 0.5 to 0.9: told": "",
                "true order plausible": "",
                "orders plausible": "(as a percentage)",
                "interval of a forecast": "92 to 98 %",
                "forecast": "",
            }
            tell(pool, named, f"drift up to {most:g} times", (Design(10, 6), most), keys, many)
        for apart in (0.03, 0.05, 0.10):
            for processes, heats in ((4, 6), (10, 6)):
                label = f"all, {processes} processes of {heats}, {100 * apart:.0f} % apart"
                tell(pool, twins, label, (Design(processes, heats), apart), {"found": "told honestly"}, many)


if __name__ == "__main__":
    main()
