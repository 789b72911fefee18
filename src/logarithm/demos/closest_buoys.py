"""Which two buoys have drifted closest? Three ways to find out, on three kinds of bay."""

import math

from logarithm import Study

study = Study("closest-buoys", question="Which two buoys have drifted closest?", sizes="8..1024 *2")


@study.family
def scattered(n, rng):
    """Spread evenly over the bay."""
    return [(rng.random(), rng.random()) for _ in range(n)]


@study.family
def clumped(n, rng):
    """Half of them caught in one small eddy, the rest far out."""
    eddy = [(0.5 + rng.gauss(0, 1e-4), 0.5 + rng.gauss(0, 1e-4)) for _ in range(n // 2)]
    return eddy + [(rng.random(), rng.random()) for _ in range(n - n // 2)]


@study.family
def in_line(n, rng):
    """Moored along a north-south channel, so that all lie about as far east."""
    return [(0.5 + rng.gauss(0, 1e-6), rng.random()) for _ in range(n)]


@study.contender(claim="n^2", baseline=True)
def every_pair(buoys):
    """Measure every pair."""
    best = math.inf
    for i, (x, y) in enumerate(buoys):
        for j in range(i):
            u, v = buoys[j]
            apart = (x - u) * (x - u) + (y - v) * (y - v)
            if apart < best:
                best = apart
    return math.sqrt(best)


@study.contender(claim={"scattered": "n log n", "clumped": "n log n", "in_line": "n^2"})
def sweep(buoys):
    """Go from west to east and look back only as far as the best distance so far."""
    eastward = sorted(buoys)
    best = math.inf
    reach = math.inf
    for i, (x, y) in enumerate(eastward):
        for j in range(i - 1, -1, -1):
            u, v = eastward[j]
            if x - u >= reach:
                break
            apart = (x - u) * (x - u) + (y - v) * (y - v)
            if apart < best:
                best = apart
                reach = math.sqrt(best)
    return reach


@study.contender(claim={"scattered": "n", "clumped": "n^2", "in_line": "n^1.5"})
def grid(buoys):
    """Lay a grid of about one cell a buoy over the bay and look only into the cells around."""
    west, east = min(x for x, _ in buoys), max(x for x, _ in buoys)
    south, north = min(y for _, y in buoys), max(y for _, y in buoys)
    across = max(1, math.isqrt(len(buoys)))
    side = max(east - west, north - south) / across or 1.0
    cells = {}
    for x, y in buoys:
        cells.setdefault((int((x - west) / side), int((y - south) / side)), []).append((x, y))
    best = math.inf
    for (column, row), here in cells.items():
        near = [here]
        for step in ((1, -1), (1, 0), (1, 1), (0, 1)):
            near.append(cells.get((column + step[0], row + step[1]), ()))
        for i, (x, y) in enumerate(here):
            for u, v in here[:i]:
                best = min(best, (x - u) * (x - u) + (y - v) * (y - v))
            for there in near[1:]:
                for u, v in there:
                    best = min(best, (x - u) * (x - u) + (y - v) * (y - v))
    # Neighbouring cells hold every pair closer than a cell's side. Were there no such pair, a wider one is looked for.
    return math.sqrt(best) if best <= side * side else every_pair(buoys)


study.agree(within=1e-9)
