"""Which two buoys have drifted closest? The same every-pair search in Python, C and JavaScript.

As commands, whose whole process is timed, and as workers, which are kept running. What is not installed is left out.

Run it with:  logarithm demo polyglot
"""

import math
from pathlib import Path

from logarithm import Study

study = Study("polyglot", question="Which two buoys have drifted closest, in three languages?", sizes="4..2048")
HERE = Path(__file__).parent / "polyglot"


@study.family(format="lines")
def scattered(n, rng):
    """Spread evenly over the bay, x and y on a line for each buoy."""
    return [(rng.random(), rng.random()) for _ in range(n)]


@study.contender(claim="n^2", baseline=True)
def python(buoys):
    """Measure every pair."""
    best = math.inf
    for i, (x, y) in enumerate(buoys):
        for j in range(i):
            u, v = buoys[j]
            apart = (x - u) * (x - u) + (y - v) * (y - v)
            if apart < best:
                best = apart
    return math.sqrt(best)


C = ["cc", "-O2", "-o", "{build}/buoys", str(HERE / "buoys.c"), "-lm"]
study.program("C, started each time", command=["{build}/buoys", "{file}"], build=C, claim="n^2")
study.program("C, kept running", worker=["{build}/buoys"], build=C, claim="n^2")
study.program("JavaScript, started each time", command=["node", str(HERE / "buoys.js"), "{file}"], claim="n^2")
study.program("JavaScript, kept running", worker=["node", str(HERE / "buoys.js")], claim="n^2")

study.agree(within=1e-9)
