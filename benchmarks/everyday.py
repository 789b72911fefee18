"""Run everyday races: two or three functions, a usual budget; print whether sizes are reached and orders right.

python benchmarks/everyday.py [BUDGET]        such as 20s, which is what a race has if nothing else is said

Prints a row for each race: the largest size asked and reached by all, the orders that are wrong, and how far a
curve lies from its points at most.
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np

CODE = """
import bisect

def keep_list(buoys):
    seen = []
    for each in buoys:
        if each not in seen:
            seen.append(each)
    return seen

def keep_set(buoys):
    seen, kept = set(), []
    for each in buoys:
        if each not in seen:
            seen.add(each)
            kept.append(each)
    return kept

def keep_dict(buoys):
    return list(dict.fromkeys(buoys))

def highest_by_sorting(tides):
    return sorted(tides)[-1]

def highest_by_looking(tides):
    return max(tides)

def pairs_apart(tides):
    return max(abs(a - b) for a in tides for b in tides)

def ends_apart(tides):
    return max(tides) - min(tides)

def berth_by_scan(tides):
    wanted = tides[len(tides) // 3]
    return next(at for at, each in enumerate(tides) if each >= wanted)

def berth_by_halving(tides):
    wanted = tides[len(tides) // 3]
    return bisect.bisect_left(tides, wanted)

def add_in_front(tides):
    made = []
    for each in tides:
        made.insert(0, each)
    return made

def add_behind(tides):
    made = []
    for each in tides:
        made.append(each)
    made.reverse()
    return made

def running_by_sums(tides):
    return [sum(tides[: at + 1]) for at in range(len(tides))]

def running_by_adding(tides):
    total, made = 0, []
    for each in tides:
        total += each
        made.append(total)
    return made

def load_again(tides):
    def ways(n):
        return 1 if n < 2 else ways(n - 1) + ways(n - 2)
    return ways(len(tides))

def load_once(tides):
    one, other = 1, 1
    for _ in range(len(tides) - 1):
        one, other = other, one + other
    return other
"""

RACES = (
    ("1..2000", "few_distinct", {"keep_list": "n", "keep_set": "n", "keep_dict": "n"}),
    ("1..2000", "shuffled", {"keep_list": "n^2", "keep_set": "n", "keep_dict": "n"}),
    ("8..100000", "shuffled", {"highest_by_sorting": "n log n", "highest_by_looking": "n"}),
    ("4..1000", "shuffled", {"pairs_apart": "n^2", "ends_apart": "n"}),
    ("10..100000", "ascending", {"berth_by_scan": "n", "berth_by_halving": "log n"}),
    ("8..16384", "shuffled", {"add_in_front": "n^2", "add_behind": "n"}),
    ("8..4096", "shuffled", {"running_by_sums": "n^2", "running_by_adding": "n"}),
    ("2..22 +2", "shuffled", {"load_again": "1.618^n", "load_once": "n"}),
    ("10..1000000 *10", "shuffled", {"highest_by_looking": "n", "ends_apart": "n"}),
    ("1..5000", "shuffled", {"keep_set": "n", "keep_dict": "n"}),
    ("8..65536 *2", "ascending", {"highest_by_sorting": "n", "highest_by_looking": "n"}),
    ("16..2048 *2", "descending", {"keep_list": "n^2", "add_behind": "n"}),
)


def race(folder: Path, budget: str, sizes: str, family: str, names: list[str]) -> dict:
    """Return the findings of a race."""
    command = ["logarithm", "race", "code.py", *names, "--sizes", sizes, "--family", family, "--budget", budget]
    asked = [*command, "--anyway", "-q", "--format", "json", "--out", "run.jsonl", "--overwrite"]
    done = subprocess.run(asked, cwd=folder, capture_output=True, text=True)
    if done.returncode not in (0, 1):
        raise SystemExit(f"{' '.join(asked)}: {done.stderr}")
    return json.loads(done.stdout)


def off(found: dict) -> float:
    """Return how far a curve lies from its points at most, as a factor."""
    worst = 1.0
    for each in found["costs"]:
        if each["metric"] != "time" or len(each["fitted"]) < 2:
            continue
        curve = np.log(np.array(each["fitted"]))
        for point in each["points"]:
            at = np.interp(np.log(point["size"]), curve[:, 0], curve[:, 1])
            if curve[0, 0] <= np.log(point["size"]) + 1e-9:
                worst = max(worst, float(np.exp(abs(at - np.log(point["typical"])))))
    return worst


def main() -> None:
    """Run all races, and print the table."""
    budget = sys.argv[1] if len(sys.argv) > 1 else "20s"
    print("| race | asked | reached | left out | orders that are wrong | curve off by | noise |\n" + "|---" * 7 + "|")
    with tempfile.TemporaryDirectory() as room:
        folder = Path(room)
        (folder / "code.py").write_text(CODE)
        for sizes, family, orders in RACES:
            found = race(folder, budget, sizes, family, [*orders])
            reached = {each["contender"]: each["points"][-1]["size"] for each in found["costs"] if each["points"]}
            wrong = [
                f"{each['contender']}: {' or '.join(row['order'] for row in each['plausible']) or 'none'}"
                for each in found["growth"]
                if each["metric"] == "time"
                and orders[each["contender"]] not in [row["order"] for row in each["plausible"]]
            ]
            cells = (" / ".join(orders), sizes, min(reached.values()), len(found["run"]["left_out"]), "; ".join(wrong))
            print("|", " | ".join(map(str, (*cells, f"{off(found):.2f}", found["run"]["noise"]))), "|", flush=True)


if __name__ == "__main__":
    main()
