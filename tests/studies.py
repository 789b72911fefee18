"""Studies that several tests share, all set in a harbour."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

HARBOUR = """
from logarithm import Study

study = Study("tide-gauge", question="How high does the water stand?", sizes="8..64 *2")

@study.family
def rising(n, rng):
    return [rng.random() for _ in range(n)]

@study.contender(claim="n", baseline=True)
def add_up(levels):
    total = 0.0
    for level in levels:
        total += level
    return total

@study.contender(claim="n^2")
def again_and_again(levels):
    total = 0.0
    for i in range(len(levels)):
        total = 0.0
        for level in levels:
            total += level
    return total

study.agree(within=1e-9)
"""

FAILING = """
import os, sys
@study.contender
def loud(levels):
    print("fog" * 1000); sys.stderr.write("horn"); return sum(levels)
@study.contender
def raises(levels):
    if len(levels) > 30: raise ValueError("aground\\non a sandbank")
    return sum(levels)
@study.contender
def leaves(levels):
    if len(levels) > 15: os._exit(3)
    return sum(levels)
@study.contender
def quits(levels):
    sys.exit("bye")
@study.contender
def sinks(levels):
    if len(levels) > 15: os.kill(os.getpid(), 11)
    return sum(levels)
@study.contender(ceiling="200ms")
def circles(levels):
    while len(levels) > 30: pass
    return sum(levels)
@study.contender
def lazy(levels):
    return (level for level in levels)
@study.contender
def babbles(levels):
    for descriptor in range(3, 20):
        try: os.write(descriptor, b"fog\\n")
        except OSError: pass
    return sum(levels)
@study.contender
def wrong_clock(levels):
    import gc, time
    time.perf_counter_ns = gc.collect = gc.disable = lambda *_: 0
    return sum(levels)
"""

KINDS = """
import asyncio
from concurrent.futures import ThreadPoolExecutor
pool = []
@study.contender
async def awaited(levels):
    await asyncio.sleep(0); return sum(levels)
@study.contender
def ashore(levels):
    if not pool: pool.append(ThreadPoolExecutor(1))
    return pool[0].submit(sum, levels)
@study.contender(drain=True)
def drained(levels):
    yield from levels
@study.contender
def eats(levels):
    total = 0.0
    while levels: total += levels.pop()
    return total
@study.contender(levels={"step": [1, 2]})
def stepwise(levels, step):
    return sum(sum(levels[i::step]) for i in range(step))
@study.contender
class Table:
    def build(self, levels): self.levels = sorted(levels)
    def use(self): self.levels.append(0.0); return sum(self.levels)
    def restore(self): self.levels.pop()
"""

TIDES = """
from logarithm import Study, tally
study = Study("tides", sizes="4..64")
@study.family
def ebb(n, rng): return [n - day for day in range(n)]
@study.family
def choppy(n, rng): return [rng.random() for _ in range(n)]
@study.contender(claim={"comparisons": "n*(n-1)/2", "pairs": "n^2"})
def by_pairs(levels):
    best = 0
    for i in range(len(levels)):
        for j in range(i):
            tally("pairs")
            if levels[i] > levels[j] and j == i - 1: best += 1
    return best
@study.contender(claim={"comparisons": "<= 2*n", "steps": "n"})
def downhill(levels): return sum(1 for day in range(1, len(levels)) if levels[day] > levels[day - 1])
study.count("comparisons", "pairs", "steps", "memory")
"""

LENGTHS = """
from logarithm import Study
study = Study("berths", sizes="1..64 *2")
@study.family
def lengths(n, rng): return [rng.random() for _ in range(n)]
@study.contender
def once(lengths):
    return max(lengths)
@study.contender
def twice(lengths):
    best = lengths[0]
    for length in lengths:
        best = length if length > best else best
    return best if best >= lengths[0] else lengths[0]
@study.contender
def by_sorting(lengths):
    return sorted(lengths)[-1]
"""

CLAIMS = """
from logarithm import Study
study = Study("claims", sizes="16..512 *2")
@study.family
def levels(n, rng): return [rng.random() for _ in range(n)]
@study.contender(claim={"comparisons": "n - 1", "steps": "CLAIM"})
def deepest(levels):
    best = levels[0]
    for at in range(1, len(levels)):
        if levels[at] > best: best = levels[at]
    return best
study.count("comparisons", "steps")
"""

LEARNS = """
from logarithm import Study
study = Study("moods", sizes="16, 32")
@study.family
def waves(n, rng): return [rng.random() for _ in range(n)]
seen = []
def first_of(levels):
    # As a processor would: what was the last one again is quick.
    again = seen[-1:] == [levels[0]]
    seen[:] = [levels[0]]
    return again
@study.contender
def learns(levels):
    for _ in range(300 if first_of(levels) else 3000): pass
    return len(levels)
@study.contender(baseline=True)
def plain(levels):
    for _ in range(1000): pass
    return len(levels)
"""

PROMISES = """
from concurrent.futures import ThreadPoolExecutor
pool = []
@study.contender
def ashore(levels):
    if not pool: pool.append(ThreadPoolExecutor(1))
    return pool[0].submit(again_and_again, levels)
@study.contender(drain=False)
def promised(levels):
    yield sum(levels)
"""

STAGES = """
from bisect import bisect
from logarithm import Study
study = Study("berths", sizes="512..4096 *2")
@study.family
def bookings(n, rng): return [rng.random() for _ in range(n)], 2.0
@study.contender
class Scan:
    def build(self, asked): self.hours = asked[0]
    def use(self, asked): return sum(hour <= asked[1] for hour in self.hours)
@study.contender
class Table:
    def build(self, asked): self.hours = sorted(asked[0])
    def use(self, asked): return bisect(self.hours, asked[1])
"""

MAP = """
import heapq
from logarithm import Study

study = Study("lowest-tides", sizes={"n": "16..4096 *4", "k": "1..256 *4"})

@study.where
def possible(n, k):
    return k <= n

@study.family
def gauges(n, k, rng):
    return [rng.random() for _ in range(n)], k

@study.contender(claim="n + k log n")
def heap(asked):
    levels, k = asked
    waiting = levels[:]
    heapq.heapify(waiting)
    return [heapq.heappop(waiting) for _ in range(k)]

@study.contender(claim="n k", baseline=True)
def look_again(asked):
    levels, k = asked
    left, found = levels[:], []
    for _ in range(k):
        lowest = min(left)
        left.remove(lowest)
        found.append(lowest)
    return found
"""

BUSY = """
import time
from logarithm import Study
study = Study("tide", sizes="8..512 *2")
@study.family
def levels(n, rng): return [rng.random() for _ in range(n)]
@study.contender(claim="n^2")
def pairs(levels):
    best = 0.0
    for low in levels:
        for high in levels:
            if high - low > best: best = high - low
    return best
@study.contender(claim="n")
def sweep(levels):
    low = top = levels[0]
    for each in levels:
        low = each if each < low else low
        top = each if each > top else top
    return top - low
@study.contender
def nap(levels):
    time.sleep(0.002)
    return max(levels) - min(levels)
"""

MOORINGS = """
from logarithm import Study

study = Study("moorings", sizes="8..128 *2")

@study.family
def ropes(n, rng):
    return [rng.random() for _ in range(n)]

def stretched(rope):
    return rope * 1.5

@study.contender(baseline=True)
def each_pair(ropes):
    total = 0.0
    for one in ropes:
        for other in ropes:
            total += one * other
    return total

@study.contender
def each_rope(ropes):
    total = 0.0
    for rope in ropes:
        total += stretched(rope)
    return total

study.referee(lambda instance, answer: True)
"""

STEEP = """
from logarithm import Study
study = Study("channels")

@study.family
def buoys(n, rng):
    return n

@study.contender
def each_way(n):
    "Every buoy is passed on the left, on the right, or not at all."
    return 1 if n == 0 else each_way(n - 1) + each_way(n - 1) + each_way(n - 1)
"""

SOUNDINGS = """
from logarithm import Study, families
study = Study("soundings", sizes="8..32 *2")
study.family(families.shuffled)

@study.contender(claim={"worst": "n log n"})
def parted(depths):
    if len(depths) < 2:
        return depths
    first, rest = depths[0], depths[1:]
    return parted([x for x in rest if x < first]) + [first] + parted([x for x in rest if not x < first])

@study.contender(claim={"worst": "n log n"})
def built_in(depths):
    return sorted(depths)
"""

PEAK = """
from logarithm import Study
study = Study("peak", sizes="4..64 *2")
@study.family(format="lines")
def waves(n, rng): return [rng.random() for _ in range(n)]
@study.contender(baseline=True)
def python(levels): return max(levels)
study.agree(within=1e-12)
"""


def a_command(line: str) -> str:
    """A command that is a line of Python, to be added to `PEAK`."""
    return f"study.program('other', command=[{sys.executable!r}, '-c', {line!r}, '{{file}}'])\n"


LEVELS = """
import sys
from pathlib import Path
sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "src"))
from logarithm import Study
from tides.levels import spread
study = Study("levels", sizes="16..128 *2")
@study.family
def gauge(n, rng):
    return [rng.random() for _ in range(n)]
study.contender(spread)
@study.referee
def is_right(levels, answer):
    return answer > 0
"""
SLOW_SPREAD = """
from .sums import added
def spread(levels):
    return added([abs(one - other) for at, one in enumerate(levels) for other in levels[:at]])
"""
QUICK_SPREAD = """
from .sums import added
def spread(levels):
    ordered = sorted(levels)
    return added([(2 * at - len(ordered) + 1) * level for at, level in enumerate(ordered)])
"""
SUMS = "def added(values):\n    return sum(values)\n"
COMMITS = (
    ("Levels", {"levels.py": SLOW_SPREAD, "sums.py": SUMS, "__init__.py": ""}),
    ("A remark", {"sums.py": f"# Sums.\n{SUMS}"}),
    ("Another name", {"sums.py": SUMS.replace("added", "summed")}),
    ("Order first", {"levels.py": QUICK_SPREAD, "sums.py": SUMS}),
    ("A word", {"__init__.py": '"""Tides."""\n'}),
)


def make_project(folder: Path) -> None:
    """Make a git repository with a study in `bench`, and five commits; the first has the tag v1."""
    who = {f"GIT_{role}_{what}": "harbour" for role in ("AUTHOR", "COMMITTER") for what in ("NAME", "EMAIL")}

    def git(*words: str) -> None:
        subprocess.run(["git", "-C", folder, *words], check=True, capture_output=True, env={**os.environ, **who})

    git("init", "-q", "-b", "main")
    (folder / "src" / "tides").mkdir(parents=True)
    (folder / "bench").mkdir()
    (folder / "bench" / "study.py").write_text(LEVELS)
    (folder / ".gitignore").write_text("logbooks/\n*.jsonl\n*.png\n")
    for number, (subject, files) in enumerate(COMMITS):
        for name, text in files.items():
            (folder / "src" / "tides" / name).write_text(text)
        git("add", "-A")
        git("commit", "-q", "-m", subject)
        if not number:
            git("tag", "v1")
