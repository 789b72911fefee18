"""Known operations on several versions of Python: what they count must be the same on each.

python benchmarks/counting/known.py                          on this one
python benchmarks/counting/known.py PYTHON [PYTHON …]        on these, held against this one

Where a version's sorting asks other comparisons, its amounts are others, too. tests/unit/counting/test_known.py holds
the amounts on this one against plain implementations that count. All of it needs the standard library alone.
"""

from __future__ import annotations

import json
import random
import subprocess
import sys
import tempfile
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

HERE = Path(__file__).resolve().parent
sys.path[:0] = [str(HERE.parent / "orders"), str(HERE.parents[1] / "src")]

from solutions import SOLUTIONS  # noqa: E402

from logarithm.counting.code.known import known_work  # noqa: E402

OPERATIONS = (
    *("sorted(tides)", "min(tides)", "sum(tides)", "any(t < 0 for t in tides)", "list(map(str, tides))", "set(tides)"),
    *("tides + tides", "tides[3:40]", "tides * 3", "tides == list(tides)", "tides < list(tides)", "0 in tides"),
    *(
        "tides.index(tides[-1])",
        "tides.count(7)",
        "tides.copy()",
        "tides[::-1]",
        "tuple(tides)",
        "dict.fromkeys(tides)",
    ),
    *("','.join(map(str, tides))", "text.find('x')", "text.split(',')", "text.replace('1', '2')", "text + text"),
    *("text[5:90]", "text == text[:-1]", "bytes(text, 'ascii')", "f'{text}!'", "frozenset(tides) | set(tides)"),
    *("math.prod(tides)", "tides[0] ** 300", "str(7 ** 900)", "heapq.nlargest(5, tides)", "heapq.heapify(tides[:])"),
    *("bisect.bisect(sorted(tides), 5)", "collections.Counter(tides)", "collections.deque(tides)", "copy.copy(tides)"),
    *("list(itertools.accumulate(tides))", "json.dumps(tides)", "list(zip(tides, tides))", "list(enumerate(tides))"),
    *("max(tides, key=lambda t: -t)", "functools.reduce(max, tides)", "[*tides, *tides]", "range(5) == range(6)"),
)


def amounts() -> dict[str, dict[str, float]]:
    """What is counted of each solution and each operation, at one size."""
    tides = random.Random(1).sample(range(1000, 9999), 64)
    calls: dict[str, Callable[[list[int]], Any]] = {solution.__name__: solution for _, solution in SOLUTIONS}
    names = "bisect, collections, copy, functools, heapq, itertools, json, math"
    lines = [f"def run{at}(tides, text=TEXT):\n    return {text}\n" for at, text in enumerate(OPERATIONS)]
    with tempfile.TemporaryDirectory() as folder:
        # Written into a file, so that their text can be read.
        file = Path(folder) / "operations.py"
        file.write_text(f"import {names}\nTEXT = {','.join(map(str, tides))!r}\n" + "\n".join(lines))
        space: dict[str, Any] = {"__file__": str(file), "__name__": "operations"}
        exec(compile(file.read_text(), str(file), "exec"), space)
        calls |= {text: space[f"run{at}"] for at, text in enumerate(OPERATIONS)}
        return {name: known_work(partial(call, tides[:]), call)[0].amounts for name, call in calls.items()}


def main() -> None:
    mine = amounts()
    if sys.argv[1:] == ["--json"]:
        print(json.dumps(mine))
        return
    print("| Python | operations and solutions | the same amounts |\n|---|---|---|")
    print(f"| {sys.version.split()[0]} | {len(mine)} | this one |")
    for python in sys.argv[1:]:
        done_there = subprocess.run([python, __file__, "--json"], capture_output=True, text=True, check=False)
        if done_there.returncode:
            print(f"| {python} | | failed: {done_there.stderr.strip().splitlines()[-1]} |")
            continue
        theirs = json.loads(done_there.stdout)
        other = [name for name in mine if mine[name] != theirs.get(name)]
        print(f"| {python} | {len(theirs)} | {len(mine) - len(other)} |")
        for name in other:
            print(f"    {name}: {mine[name]} and {theirs.get(name)}")


if __name__ == "__main__":
    main()
