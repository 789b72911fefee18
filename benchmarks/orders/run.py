"""How well growth is named: on real functions of known order, and on synthetic data.

python benchmarks/orders/run.py             times the real functions (a minute), fits them and synthetic series
python benchmarks/orders/run.py --save F    keeps the times, and --load F fits them again
python benchmarks/orders/run.py --short     a small part, for continuous integration
python benchmarks/orders/run.py --tell      each function with the exponents beside its orders
"""

from __future__ import annotations

import argparse
import gc
import json
import math
import random
import sys
import time
from dataclasses import replace
from functools import partial
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parent))
from compiled import COMPILED
from functions import HELD_BACK, TUNING, Case
from solutions import SOLUTIONS

from logarithm import fit_growth
from logarithm.counting.code.known import known_work
from logarithm.counting.steps import counted_steps
from logarithm.logbook.records import ClaimRecord, ContenderRecord
from logarithm.notation.kinds import PRICES, STEPS
from logarithm.notation.orders import Order, parse
from logarithm.statistics.claims import judge_claims
from logarithm.statistics.growth.exponent import slope_of
from logarithm.statistics.naming import name_growth
from logarithm.statistics.readings.series import Series
from logarithm.statistics.work.order import Work, work_of
from logarithm.statistics.work.prices import work_by_kinds
from logarithm.statistics.work.witnesses import by_both

HEATS, SIZES = 5, 13
Tables = dict[str, tuple[list[int], list[list[float]]]]
"""Sizes and times at them, heat after heat, by the name of a case."""
TRIAL = 1_500_000


def sizes_of(case: Case) -> list[int]:
    steps = np.geomspace(case.low, case.high, SIZES)
    return sorted({round(float(each)) for each in steps})


def timed(cases: tuple[Case, ...]) -> Tables:
    """Times of one call with plain loops, heat after heat; a case ends where a call takes more than 0.1 s."""
    gc.disable()
    tables: dict[str, dict[int, list[float]]] = {case.name: {} for case in cases}
    done: set[tuple[str, int]] = set()
    for _ in range(HEATS):
        for case in cases:
            for size in sizes_of(case):
                if (case.name, size) in done:
                    continue
                given = case.make(size)
                start = time.perf_counter_ns()
                case.call(given)
                calls = max(1, TRIAL // max(time.perf_counter_ns() - start, 1))
                start = time.perf_counter_ns()
                for _ in range(calls):
                    case.call(given)
                took = (time.perf_counter_ns() - start) / calls
                tables[case.name].setdefault(size, []).append(took * 1e-9)
                if took > 1e8:
                    done |= {(case.name, larger) for larger in sizes_of(case) if larger > size}
        gc.collect()
    return {name: (list(table), list(table.values())) for name, table in tables.items()}


def alike(found: str, truth: str) -> bool:
    """Whether an order is the true one; free powers and bases may be a little off."""
    one, other = parse(found), parse(truth)
    if one == other:
        return True
    if one.base and other.base:
        return abs(math.log(one.base) - math.log(other.base)) < 0.05
    free = other.power not in (0.0, 0.5, 1.0, 1.5, 2.0, 3.0)
    return free and not one.logs and not one.base and abs(one.power - other.power) < 0.1


def worked(cases: tuple[Case, ...], tables: Tables) -> dict[str, Work | None]:
    """The work of each case, counted for two seconds at the most, with its prices as the times show them."""
    found = {}
    for case in cases:
        begun, is_whole, sizes, counts = time.perf_counter(), True, [], list[dict[str, float]]()
        low = max(3, min(case.low, 8)) if case.high > 64 else case.low
        also = [size for size in tables[case.name][0] if size >= low]
        for size in sorted({*also, *(round(float(each)) for each in np.geomspace(low, case.high, 22))}):
            at = time.perf_counter()
            steps = counted_steps(partial(case.call, case.make(size)))
            made = case.make(size)
            done, _ = known_work(partial(case.call, made), case.call, made)
            sizes.append(float(size))
            counts.append({STEPS: float(steps)} | done.amounts)
            is_whole = is_whole and not done.unknown
            if time.perf_counter() - at > 0.5 or time.perf_counter() - begun > 2:
                break
        kinds = {kind: series_of(sizes, [[each.get(kind, 0.0)] for each in counts]) for kind in PRICES}
        total = series_of(sizes, [[sum(PRICES[kind] * each.get(kind, 0.0) for kind in PRICES)] for each in counts])
        work = work_by_kinds(total, kinds, series_of(*tables[case.name]))
        found[case.name] = work and replace(work, is_whole=is_whole)
    return found


def a_class() -> None:
    """Twenty solutions judged by counts alone, as `assess` counts them, at few sizes and at many."""
    for low, high in ((8, 128), (16, 4096)):
        right = 0
        for order, solution in SOLUTIONS:
            sizes, rows, begun = [], [], time.perf_counter()
            for size in sorted({round(low * 2 ** (half / 2)) for half in range(2 * round(math.log2(high / low)) + 1)}):
                row = []
                for seed in (1, 2):
                    tides = random.Random(size * 10 + seed).sample(range(100_000, 1_000_000), size)
                    steps = counted_steps(partial(solution, tides[:]))
                    row.append(float(steps + round(known_work(partial(solution, tides[:]), solution)[0].total)))
                sizes.append(size)
                rows.append(row)
                if time.perf_counter() - begun > 2.5:
                    break
            work = work_of(series_of(sizes, rows))
            right += work is not None and work.order == order
        print(f"| a class of {len(SOLUTIONS)} by counts, sizes {low} to {high} | {right} of {len(SOLUTIONS)} | | | | |")


def claims(cases: tuple[Case, ...], tables: Tables, works: dict[str, Work | None]) -> tuple[int, int, int]:
    """How many true claims are contradicted; how many claims a whole power too low are, and of how many."""
    wrong = low = asked = 0
    for case in cases:
        truth = parse(case.order)
        claimed = [(case.order, True)]
        if truth.power >= 1 and truth.base is None:
            claimed.append((str(Order(power=truth.power - 1, logs=truth.logs)), False))
        for claim, is_true in claimed:
            record = ContenderRecord(name="", claims=[ClaimRecord(order=claim)])
            series = series_of(*tables[case.name])
            named = name_growth(series, [claim], 0.0, works.get(case.name))
            contradicted = any(each.verdict == "contradicted" for each in judge_claims(record, series, named))
            wrong += is_true and contradicted
            asked += not is_true
            low += not is_true and contradicted
    return wrong, low, asked


def series_of(sizes: list[int], rows: list[list[float]]) -> Series:
    width = max(map(len, rows))
    costs = np.array([row + [math.nan] * (width - len(row)) for row in rows])
    heats = np.arange(width, dtype=np.int32)
    return Series("", "", None, "time", np.array(sizes, dtype=float), heats, heats, costs)


def judge(
    cases: tuple[Case, ...],
    tables: Tables,
    tell: bool,
    works: dict[str, Work | None],
) -> list[float]:
    """First choices right, truth among the plausible, how many plausible, kinks invented, slopes off; as sums.

    A slope is off where the first choice's does not lie within the exponent's interval.
    """
    sums = [0.0, 0.0, 0.0, 0.0, 0.0]
    for case in cases:
        sizes, rows = tables[case.name]
        width = max(map(len, rows))
        growth = fit_growth(sizes, [row + [math.nan] * (width - len(row)) for row in rows])
        growth, _ = by_both(growth, works.get(case.name))
        orders = [str(fit.order) for fit, _ in growth.plausible]
        right, among = alike(orders[0], case.order), any(alike(order, case.order) for order in orders)
        kinks = any(each.why == "kink" for each in growth.regimes)
        off = growth.is_law and not growth.exponent.allows(growth.best.cost, growth.at)
        for index, value in enumerate((right, among, len(orders), kinks, off)):
            sums[index] += value
        if tell:
            weights = ", ".join(f"{fit.order} {weight:.2f}" for fit, weight in growth.plausible)
            seen, slope = growth.exponent, slope_of(growth.best.cost, growth.at)
            told = f"slope {slope:.2f}, measured {seen.low:.2f} to {seen.high:.2f}, "
            told += f"law {seen.law_low:.2f} to {seen.law_high:.2f}"
            print(f"    {'' if right else 'not '}{case.order} · {case.name}: {weights}; {told}")
    return sums


SYNTHETIC = ("1", "log n", "sqrt n", "n", "n log n", "n^1.5", "n^2", "n^2 log n", "n^3", "2^n", "n!")


def synthetic(count: int, seed: int = 1) -> None:
    """Series of every order, with fixed costs and lower terms of all sizes, noise, spikes and few or many heats."""
    chance = np.random.default_rng(seed)
    sums, covered, within = np.zeros(3), 0, 0
    for number in range(count):
        name = SYNTHETIC[number % len(SYNTHETIC)]
        order = parse(name)
        steps = int(chance.integers(8, 17))
        if name in ("2^n", "n!"):
            sizes = np.arange(4, 4 + min(steps, 12 if name == "n!" else 16), dtype=float)
        else:
            top = {"n^3": 300, "n^2": 3000, "n^2 log n": 3000}.get(name, 30000)
            sizes = np.unique(np.round(np.geomspace(8, top, steps)))
        law = np.exp([order.log_value(float(n)) for n in sizes])
        cost = law / law[0]
        # A fixed cost between nothing and what the law costs in the middle; a linear part likewise.
        cost = cost + chance.choice([0, 1]) * math.exp(chance.uniform(-2, 0)) * cost[len(cost) // 2]
        if order.rank > parse("n log n").rank and chance.random() < 0.5:
            cost = cost + math.exp(chance.uniform(-3, 0)) * cost[len(cost) // 2] * sizes / sizes[len(sizes) // 2]
        noise, heats = chance.uniform(0.01, 0.1), int(chance.integers(3, 10))
        table = cost[:, None] * np.exp(noise * chance.standard_normal((len(sizes), heats)))
        table[chance.random(table.shape) < 0.03] *= chance.uniform(1.5, 4)
        growth = fit_growth(sizes, table)
        orders = [str(fit.order) for fit, _ in growth.plausible]
        sums += [alike(orders[0], name), any(alike(each, name) for each in orders), len(orders)]
        if name not in ("2^n", "n!"):
            within += 1
            top_half = sizes >= math.sqrt(sizes[0] * sizes[-1])
            true = np.polyfit(np.log(sizes[top_half]), np.log(cost[top_half]), 1)[0]
            covered += growth.exponent.low <= true <= growth.exponent.high
    right, among, plausible = sums / count
    print(f"| synthetic, {count} series | {100 * right:.0f} % | {100 * among:.1f} % | {plausible:.2f} | |")
    print(f"| 95 % interval of the exponent covers the truth | {100 * covered / max(within, 1):.0f} % | | | |")


def kinked(count: int, seed: int = 2) -> None:
    """Series with a change of law in the middle, and smooth ones with drift: kinks found and kinks invented."""
    chance = np.random.default_rng(seed)
    sizes = np.unique(np.round(np.geomspace(8, 8192, 16)))
    found = placed = invented = 0
    for _ in range(count):
        at = int(chance.integers(5, 11))
        before, after = chance.choice(["n^2", "n", "n log n", "log n", "n^3"], 2, replace=False)
        law = [np.exp([parse(name).log_value(float(n)) for n in sizes]) for name in (before, after)]
        cost = np.where(sizes < sizes[at], law[0] / law[0][at], law[1] / law[1][at])
        noise = 0.03 * chance.standard_normal((len(sizes), 7))
        growth = fit_growth(sizes, cost[:, None] * np.exp(noise))
        kinks = [each.end for each in growth.regimes if each.why == "kink"]
        found += bool(kinks)
        placed += bool(kinks) and abs(math.log(kinks[0] / sizes[at])) < 1.0
        drift = np.cumsum(0.03 * chance.standard_normal(len(sizes)))
        smooth = fit_growth(sizes, (law[0] * np.exp(drift))[:, None] * np.exp(noise))
        invented += any(each.why == "kink" for each in smooth.regimes)
    print(f"| kinks found, rightly placed, invented on smooth data | {found}, {placed}, {invented} of {count} | | | |")


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--save", type=Path)
    parser.add_argument("--load", type=Path)
    parser.add_argument("--short", action="store_true")
    parser.add_argument("--tell", action="store_true")
    parser.add_argument("--synthetic", type=int, default=660)
    asked = parser.parse_args()
    sets = {"tuning": TUNING, "held back": HELD_BACK, "compiled": COMPILED}
    if asked.short:
        sets, asked.synthetic = {"tuning": TUNING[::4]}, 66
    if asked.load:
        tables = {name: (sizes, rows) for name, (sizes, rows) in json.loads(asked.load.read_text()).items()}
    else:
        tables = timed(tuple(case for cases in sets.values() for case in cases))
    if asked.save:
        asked.save.write_text(json.dumps(tables))
    print(
        "| set | first choice right | truth plausible | plausible on average | kinks invented | slope off |\n"
        "|---|---|---|---|---|---|"
    )
    for witnesses in ("time alone", "work and time"):
        for name, cases in sets.items():
            works = worked(cases, tables) if witnesses == "work and time" else {}
            right, among, plausible, kinks, off = judge(cases, tables, asked.tell, works)
            count = len(cases)
            print(
                f"| real, {name}, {witnesses} | {right:.0f} of {count} | {among:.0f} of {count} "
                f"| {plausible / count:.2f} | {kinks:.0f} | {off:.0f} |"
            )
            wrong, low, asked_low = claims(cases, tables, works)
            told = f"{wrong} | {low} of {asked_low}"
            print(f"| its claims contradicted: true ones; those a power too low | {told} | | | |")
    a_class()
    synthetic(asked.synthetic)
    kinked(max(20, asked.synthetic // 6))
    sizes, chance = np.geomspace(8, 4096, 16), np.random.default_rng(3)
    series = [(sizes, sizes[:, None] ** 1.5 * np.exp(0.05 * chance.standard_normal((16, 9)))) for _ in range(100)]
    start = time.perf_counter()
    for sizes, table in series:
        fit_growth(sizes, table)
    print(f"| 1000 series of 16 sizes by 9 heats | {10 * (time.perf_counter() - start):.1f} s | | | promised: 10 s |")


if __name__ == "__main__":
    main()
