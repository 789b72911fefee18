"""Whether the worst case is found: functions of which it is known, searched for twenty seconds each on two processors.

python benchmarks/worst.py            all, twenty seconds each
python benchmarks/worst.py --budget 5 quicker
"""

from __future__ import annotations

import argparse
import json
import subprocess
import sys
import tempfile
import time
from pathlib import Path

HEAD = """
import sys
from logarithm import Study, families, keeps
sys.setrecursionlimit(20_000)
study = Study("{name}", sizes="8..64 *2")
{family}
{code}
"""
SHUFFLED = "study.family(families.shuffled)"
TEXTS = """
@study.family
def letters(n, rng):
    text = "".join(rng.choice("ab") for _ in range(n))
    return text, "".join(rng.choice("ab") for _ in range(max(1, n // 2)))
"""
EDGES = """
@study.family
def joins(n, rng):
    return [(rng.randrange(n), rng.randrange(n)) for _ in range(n)]
"""
PAIRS = """
@study.family
def wishes(n, rng):
    return [(rng.randrange(n), rng.randrange(n)) for _ in range(n)]
"""
CASES: dict[str, tuple[str, str, str]] = {
    "parted at the first": (
        "n^2",
        SHUFFLED,
        """
@study.contender
def f(a):
    if len(a) < 2: return a
    p, r = a[0], a[1:]
    return f([x for x in r if x < p]) + [p] + f([x for x in r if not x < p])
""",
    ),
    "parted at the middle": (
        "n^2",
        SHUFFLED,
        """
@study.contender
def f(a):
    if len(a) < 2: return a
    m = len(a) // 2
    p, r = a[m], a[:m] + a[m + 1:]
    return f([x for x in r if x < p]) + [p] + f([x for x in r if not x < p])
""",
    ),
    "parted at the last": (
        "n^2",
        SHUFFLED,
        """
@study.contender
def f(a):
    if len(a) < 2: return a
    p, r = a[-1], a[:-1]
    return f([x for x in r if x <= p]) + [p] + f([x for x in r if x > p])
""",
    ),
    "parted at the median of three": (
        "n^2",
        SHUFFLED,
        """
@study.contender
def f(a):
    if len(a) < 3: return sorted(a)
    m = len(a) // 2
    k = sorted([0, m, len(a) - 1], key=lambda i: a[i])[1]
    p, r = a[k], a[:k] + a[k + 1:]
    return f([x for x in r if x < p]) + [p] + f([x for x in r if not x < p])
""",
    ),
    "a permutation parted at the middle": (
        "n^2",
        "study.family(families.shuffled, keeps=keeps.permutation)",
        """
@study.contender
def f(a):
    if len(a) < 2: return a
    m = len(a) // 2
    p, r = a[m], a[:m] + a[m + 1:]
    return f([x for x in r if x < p]) + [p] + f([x for x in r if not x < p])
""",
    ),
    "an unbalanced tree": (
        "n^2",
        SHUFFLED,
        """
@study.contender
def f(a):
    root = None
    for x in a:
        if root is None: root = [x, None, None]; continue
        at = root
        while True:
            side = 1 if x < at[0] else 2
            if at[side] is None: at[side] = [x, None, None]; break
            at = at[side]
""",
    ),
    "insertion": (
        "n^2",
        SHUFFLED,
        """
@study.contender
def f(a):
    a = a[:]
    for i in range(1, len(a)):
        j = i
        while j and a[j - 1] > a[j]:
            a[j - 1], a[j] = a[j], a[j - 1]
            j -= 1
    return a
""",
    ),
    "a table with a poor hash": (
        "n^2",
        SHUFFLED,
        """
@study.contender
def f(a):
    size = 1
    while size < 2 * len(a): size *= 2
    table = [None] * size
    for x in a:
        at = x % size
        while table[at] is not None and table[at] != x:
            at = (at + 1) % size
        table[at] = x
    return size
""",
    ),
    "union without rank": (
        "n^2",
        EDGES,
        """
@study.contender
def f(edges):
    up = list(range(len(edges) + 1))
    for one, other in edges:
        one, other = abs(one) % len(up), abs(other) % len(up)
        while up[one] != one: one = up[one]
        while up[other] != other: other = up[other]
        up[one] = other
    return up
""",
    ),
    "matching with backtracking": (
        "n^2",
        TEXTS,
        """
@study.contender
def f(asked):
    text, pattern = asked
    found = 0
    for at in range(len(text) - len(pattern) + 1):
        same = 0
        while same < len(pattern) and text[at + same] == pattern[same]: same += 1
        found += same == len(pattern)
    return found
""",
    ),
    "a stack that is copied": (
        "n^2",
        SHUFFLED,
        """
@study.contender
def f(a):
    stack, top = [], 0
    for x in a:
        while stack and stack[-1] < x:
            stack = [each for each in stack[:-1]]
        stack.append(x)
        top = max(top, len(stack))
    return top
""",
    ),
    "greedy that tries again": (
        "n^2",
        PAIRS,
        """
@study.contender
def f(wishes):
    taken, n = {}, len(wishes)
    for who, (first, _) in enumerate(wishes):
        seat = abs(first) % n
        while seat in taken: seat = (seat + 1) % n
        taken[seat] = who
    return taken
""",
    ),
    "a balanced structure": (
        "n log n",
        SHUFFLED,
        """
@study.contender
def f(a):
    heap = []
    for x in a:
        heap.append(x)
        at = len(heap) - 1
        while at and heap[(at - 1) // 2] > heap[at]:
            up = (at - 1) // 2
            heap[up], heap[at] = heap[at], heap[up]
            at = up
    return heap[0]
""",
    ),
    "merging halves": (
        "n log n",
        SHUFFLED,
        """
@study.contender
def f(a):
    if len(a) < 2: return a
    one, other, made = f(a[:len(a) // 2]), f(a[len(a) // 2:]), []
    i = j = 0
    while i < len(one) and j < len(other):
        if other[j] < one[i]: made.append(other[j]); j += 1
        else: made.append(one[i]); i += 1
    return made + one[i:] + other[j:]
""",
    ),
    "the built-in sort": (
        "n log n",
        SHUFFLED,
        """
@study.contender
def f(a): return sorted(a)
""",
    ),
    "one pass": (
        "n",
        SHUFFLED,
        """
@study.contender
def f(a):
    low = high = a[0]
    for x in a:
        if x < low: low = x
        elif x > high: high = x
    return low, high
""",
    ),
}


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--budget", type=float, default=20.0)
    asked = parser.parse_args()
    print("| function | known | typical | worst found | tries | seconds | found |\n|---|---|---|---|---|---|---|")
    right = invented = bad = 0
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for title, (known, family, code) in CASES.items():
            study, book = folder / "study.py", folder / "worst.jsonl"
            study.write_text(HEAD.format(name=title, family=family, code=code))
            book.unlink(missing_ok=True)
            begun = time.monotonic()
            command = [str(Path(sys.executable).with_name("logarithm"))]
            options = ["--budget", f"{asked.budget}s", "--out", str(book)]
            done = subprocess.run(
                [*command, "worst", str(study), *options], capture_output=True, text=True, check=False
            )
            took = time.monotonic() - begun
            told = subprocess.run([*command, "report", str(book), "--format", "json"], capture_output=True, check=True)
            rows = {row["family"]: row for row in json.loads(told.stdout)["growth"]}
            orders = {family: [each["order"] for each in row["plausible"]] for family, row in rows.items()}
            first = (orders["worst found"] or ["none"])[0]
            tries = next((line.split(" · ")[-1] for line in done.stdout.splitlines() if "tries" in line), "")
            found = known in orders["worst found"]
            bad += known == "n^2"
            right += found and known == "n^2"
            invented += known != "n^2" and first.startswith("n^")
            typical = (orders["typical"] or ["none"])[0]
            print(
                f"| {title} | {known} | {typical} | {' or '.join(orders['worst found'])} | {tries} | {took:.0f} | {found} |",
                flush=True,
            )
    print(f"\nfound {right} of {bad} (promised ten of twelve), invented {invented} (promised 0)")


if __name__ == "__main__":
    main()
