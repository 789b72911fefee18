"""Which k of n tides are the lowest? Three ways, and a map of who leads: it depends on both sizes.

Run it with:  logarithm demo lowest-tides
"""

import heapq

from logarithm import Study

study = Study(
    "lowest-tides",
    question="Which k of n tides are the lowest?",
    sizes={"n": "64..65536 *2", "k": "1..4096 *2"},
)


@study.where
def possible(n, k):
    """No more tides can be wanted than there are."""
    return k <= n


@study.family
def gauges(n, k, rng):
    """Levels at random, in metres, and how many of them are wanted."""
    return [rng.random() for _ in range(n)], k


@study.contender(claim="n + k log n")
def heap(asked):
    """Make a heap of all levels, and take the lowest k times."""
    levels, k = asked
    waiting = levels[:]
    heapq.heapify(waiting)
    return [heapq.heappop(waiting) for _ in range(k)]


@study.contender(claim="n log n", baseline=True)
def sort(asked):
    """Put all levels in order, and take the first k."""
    levels, k = asked
    return sorted(levels)[:k]


@study.contender(claim="n k", ceiling="50ms")
def look_again(asked):
    """Look through all levels for the lowest, k times."""
    levels, k = asked
    left, found = levels[:], []
    for _ in range(k):
        lowest = min(left)
        left.remove(lowest)
        found.append(lowest)
    return found
