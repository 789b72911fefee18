"""Whether measuring until it is settled spoils what is found, and how much time it saves.

python benchmarks/settling.py                  both parts below
python benchmarks/settling.py --simulated 800  made-up runs that are looked at after each process: so many a cell
python benchmarks/settling.py --studies        the demos and a dozen studies, measured until settled and for longer

A made-up run has the noise of coverage.py and processes of one heat. After each process from the third on it is looked
at; what is settled pauses, and it ends where no question is open, or after the processes that a budget has room for.
Beside it stands the same run without looks.
"""

from __future__ import annotations

import argparse
import math
import statistics
import subprocess
import sys
import tempfile
from dataclasses import replace
from multiprocessing import Pool
from pathlib import Path

import msgspec
import numpy as np

from coverage import LAWS, SIZES, Design, Noise, crossed, drifted, series_of, tell, trials_of
from logarithm.logbook.memory import Trials
from logarithm.results.questions import Remaining
from logarithm.statistics.comparison.pair import PairComparison, compare_pair
from logarithm.statistics.comparison.pairs import compare_pairs
from logarithm.statistics.growth.fit import fit_growth, ratio_of
from logarithm.statistics.stopping.questions import OPEN, SETTLED, points_of, questions
from logarithm.statistics.stopping.rule import PROCESSES_LEAST

PROCESSES = 24  # that a whole budget has room for, if everything takes part
START, POINT = 0.3, 0.01  # seconds


def until_settled(trials: Trials) -> tuple[list, float]:
    """The series of a run that ends when it is settled, and the share of the budget that it took."""
    budget = PROCESSES * (START + POINT * 2 * len(SIZES))
    spent, active = 0.0, None
    kept = np.zeros(len(trials.process), dtype=bool)
    names = [key[0] for key in trials.keys]
    for process in range(1, int(trials.process.max()) + 1):
        now = trials.process == process
        if active is not None:
            where = zip(trials.series, trials.size, strict=True)
            now &= np.array([(names[code], "f", float(size)) in active for code, size in where])
        kept |= now
        spent += START + POINT * int(now.sum())
        if spent >= budget:
            break
        if process < PROCESSES_LEAST:
            continue
        series = series_of(part(trials, kept))
        rest = Remaining(budget - spent, START, {(name, "f", float(n)): POINT for name in names for n in SIZES}, {})
        asked = questions({}, compare_pairs(series, {}), rest)
        if not any(each.state == OPEN for each in asked):
            break
        active = points_of([each for each in asked if each.state != SETTLED])
    return series_of(part(trials, kept)), min(spent / budget, 1.0)


def part(trials: Trials, kept: np.ndarray) -> Trials:
    """Some of the trials."""
    return Trials(
        trials.keys,
        *(
            getattr(trials, name)[kept]
            for name in ("series", "size", "heat", "process", "cost", "cpu", "pace", "calls")
        ),
    )


def pair_of(series: list) -> PairComparison:
    law = None
    if all(len(each.sizes) >= 4 for each in series):
        law = ratio_of(*(fit_growth(each.sizes, each.costs) for each in series))
    return compare_pair(*series, law)


def run_of(chance: np.random.Generator, costs: np.ndarray) -> Trials:
    design = Design(3 * PROCESSES, 1)
    design = replace(design, effects=tuple(each for each in design.effects if each != "unequal"))
    return trials_of(chance, design, costs, Noise.of(chance), chance.uniform(0.01, 0.04))


def twins(chance: np.random.Generator, apart: float) -> dict:
    """Two contenders that differ by a share: none, or little."""
    law = LAWS["n log n"](SIZES) * np.exp(drifted(chance, math.exp(chance.uniform(0, math.log(3))))(SIZES))
    costs = law / law[-1] * 0.004
    trials = run_of(chance, np.stack([costs, costs * (1 + apart)]))
    series, share = until_settled(trials)
    stopped, whole = pair_of(series), pair_of(series_of(part(trials, trials.process <= PROCESSES)))
    truth = 1 / (1 + apart)
    return {
        "a leader, until settled": any(zone.sign for zone in stopped.zones),
        "a leader, whole budget": any(zone.sign for zone in whole.zones),
        "interval of a ratio": [bool(a <= truth <= b) for a, b in zip(stopped.low, stopped.high, strict=True)],
        "share of the budget": share,
    }


def crossing(chance: np.random.Generator, laws: tuple[str, str]) -> dict:
    """Two contenders that cross once."""
    costs, truth = crossed(chance, Design(effects=("drift",)), laws)
    trials = run_of(chance, costs)
    series, share = until_settled(trials)
    found = {"share of the budget": share}
    for name, run in (
        ("until settled", series),
        ("whole budget", series_of(part(trials, trials.process <= PROCESSES))),
    ):
        near = [each for each in pair_of(run).crossings if abs(math.log(each.size / truth)) < 0.7]
        found[f"missed, {name}"] = not near
        if near:
            best = min(near, key=lambda each: abs(math.log(each.size / truth)))
            found[f"interval holds it, {name}"] = best.low <= truth <= best.high
            found[f"width, {name}"] = math.log(best.high / best.low)
    return found


def simulated(many: int) -> None:
    print("| made-up runs | what | promised | seen | runs |\n|---|---|---|---|---|")
    with Pool(2) as pool:
        keys = {
            "a leader, until settled": "at most as often as with the whole budget, or 2 %",
            "a leader, whole budget": "",
            "interval of a ratio": "92 to 98 %",
            "share of the budget": "",
        }
        tell(pool, twins, "twins", (0.0,), keys, many)
        for apart in (0.05, 0.1, 0.3):
            tell(pool, twins, f"{100 * apart:.0f} % apart", (apart,), keys, many)
        for kind, laws in (("steep", ("n^2", "n log n")), ("shallow", ("n log n", "n"))):
            ways = ("until settled", "whole budget")
            keys = {f"{what}, {way}": "" for what in ("missed", "interval holds it", "width") for way in ways}
            keys["interval holds it, until settled"] = "92 to 98 %"
            tell(pool, crossing, f"crossing, {kind}", (laws,), {**keys, "share of the budget": ""}, many)


HEAD = """
from logarithm import Study
study = Study("{name}", sizes="{sizes}")
@study.family
def readings(n, rng):
    return [rng.randrange(10 * n) for _ in range(n)]
"""
STUDIES = {
    "twins": """
@study.contender
def one(tides): return sum(tides)
@study.contender
def other(tides): return sum(tides)
""",
    "far apart": """
@study.contender
def slow(tides):
    high = 0
    for each in tides:
        if each > high: high = each
    return high
@study.contender
def quick(tides): return max(tides)
""",
    "crossing": """
@study.contender
def pairs(tides): return min((abs(a - b) for i, a in enumerate(tides) for b in tides[:i]), default=0)
@study.contender
def ordered(tides):
    tides = sorted(tides)
    for _ in range(40): hash(tuple(tides[:8]))
    return min((b - a for a, b in zip(tides, tides[1:])), default=0)
""",
    "three": """
@study.contender
def by_count(tides): return sum(tides.count(each) > 1 for each in tides)
@study.contender
def by_table(tides):
    seen = {}
    for each in tides: seen[each] = seen.get(each, 0) + 1
    return sum(many for many in seen.values() if many > 1)
@study.contender
def by_order(tides):
    tides, many = sorted(tides), 0
    for i, each in enumerate(tides):
        many += each in (tides[i - 1] if i else None, tides[i + 1] if i + 1 < len(tides) else None)
    return many
""",
    "a tenth": """
@study.contender
def plain(tides):
    high = 0
    for each in tides: high += each
    return high
@study.contender
def more(tides):
    high = 0
    for each in tides: high += each
    for each in tides[: len(tides) // 8]: high += 0
    return high
""",
    "one alone": """
@study.contender
def spread(tides): return sum((a - b) ** 2 for a in tides for b in tides)
""",
}


def written(folder: Path) -> dict[str, Path]:
    """The studies as files, each over short and over long inputs."""
    made = {}
    for name, code in STUDIES.items():
        for kind, sizes in (("short", "4..128"), ("long", "16..4096 *2")):
            path = folder / f"{name.replace(' ', '_')}_{kind}.py"
            path.write_text(HEAD.format(name=path.stem, sizes=sizes) + code)
            made[path.stem] = path
    return made


def findings_of(folder: Path, study: Path, *options: str) -> tuple[dict, dict]:
    """A run's findings, and how it ended."""
    out = folder / "run.jsonl"
    out.unlink(missing_ok=True)
    command = [str(Path(sys.executable).with_name("logarithm"))]
    subprocess.run([*command, "measure", str(study), "--out", str(out), *options], capture_output=True, check=False)
    told = subprocess.run([*command, "report", str(out), "--format", "json"], capture_output=True, check=True)
    return msgspec.json.decode(told.stdout), msgspec.json.decode(out.read_bytes().splitlines()[-1])


def verdicts(found: dict) -> set[tuple]:
    """What a run says of leads: contenders that surely lead another, and which overtakes which."""
    return {
        (each["family"], each["stage"], zone["leader"], {each["one"], each["other"]} - {zone["leader"]} and None)
        for each in found["pairs"]
        for zone in each["zones"]
        if zone["leader"] is not None and each["metric"] == "time"
    }


def studies(budget: float) -> None:
    from logarithm.demos import DEMOS

    print("| study | settled after | of | same leaders as with the budget | with four times |\n|---|---|---|---|---|")
    shares = []
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        every = {**{demo.name: demo.file for demo in DEMOS}, **written(folder)}
        for title, path in every.items():
            runs = [
                findings_of(folder, path, "--budget", f"{seconds}s", *more)
                for seconds, more in ((budget, ()), (budget, ("--whole-budget",)), (4 * budget, ("--whole-budget",)))
            ]
            first, *others = (verdicts(found) for found, _ in runs)
            took = runs[0][1]["elapsed"]
            shares.append(took / budget)
            same = [f"{len(first & other)} of {len(first | other)}" for other in others]
            print(f"| {title} | {took:.1f} s | {budget:g} s | {same[0]} | {same[1]} |", flush=True)
    print(f"\nmedian share of the budget: {statistics.median(shares):.2f} (promised 0.5)")


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--simulated", type=int, nargs="?", const=400)
    parser.add_argument("--studies", action="store_true")
    parser.add_argument("--budget", type=float, default=20.0)
    asked = parser.parse_args()
    if asked.simulated or not asked.studies:
        simulated(asked.simulated or 400)
    if asked.studies or not asked.simulated:
        studies(asked.budget)


if __name__ == "__main__":
    main()
