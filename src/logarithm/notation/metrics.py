"""The metrics that are known: one row each, from which checks, units, counters, help and docs are made.

A metric that is not in this table is a tally: a name under which the code under study counts for itself.
"""

from __future__ import annotations

from dataclasses import dataclass

from .kinds import PRICES

TIME, MEMORY, COUNT = "time", "memory", "count"  # what a metric is measured in: seconds, bytes, nothing
WORK = "counted work"
"""The work of calls that are timed, as trials have it; as a claim and in a search it is called `work`."""
UNCOUNTED = "uncounted"
KINDS = {f"counted {kind}": kind for kind in PRICES}
"""The metrics of each kind of that work, and the kinds."""
DEAREST = "dearest step"
"""The dearest call of growing an object from nothing."""


@dataclass(frozen=True, slots=True)
class Metric:
    """One metric.

    Attributes:
        name: as commands, claims and logbooks have it.
        about: what it is, in a few words.
        unit: time (seconds), memory (bytes) or count.
        way: how one call is observed: clock, steps, memory, tallies or instructions.
        slower: how many times as long a call takes while it is counted, about.
        asked: whether a user may ask for it with `--metric` or claim an order of it.
        ranked: whether contenders are ranked by it; else it only stands beside another.
        searched: whether `logarithm worst` can make it large.
        large: the count from which on a search tries no larger size.
    """

    name: str
    about: str
    unit: str = COUNT
    way: str = "tallies"
    slower: float = 30.0
    asked: bool = True
    ranked: bool = True
    searched: bool = True
    large: float = 100_000


METRICS: dict[str, Metric] = {
    each.name: each
    for each in (
        Metric("time", "seconds of one call", TIME, "clock", 1.0, searched=False),
        Metric("cpu", "seconds of the processor for one call", TIME, "clock", 1.0, asked=False, searched=False),
        Metric("memory", "the peak of bytes that a call allocates", MEMORY, "memory", 8.0, large=10_000_000),
        Metric("allocations", "blocks of memory that a call asks for", way="memory", slower=8.0, searched=False),
        Metric("steps", "instructions of the interpreter", way="steps", slower=45.0, large=300_000),
        Metric("calls", "functions called", way="steps", slower=45.0),
        Metric(
            "instructions", "of the processor, for compiled programs", way="instructions", slower=60.0, searched=False
        ),
        Metric("comparisons", "of two items of the instance"),
        Metric("reads", "of items of the instance"),
        Metric("writes", "of items of the instance"),
        Metric("moves", "of items that an insertion or removal pushes aside"),
        Metric("swaps", "of two items of the instance"),
        Metric("hashes", "of items of the instance"),
        Metric("work", "steps, and what known operations do inside them", asked=False, large=500_000),
        # What stands beside time, and is never ranked.
        Metric("repeated", "a call on one input that is repeated", TIME, "clock", asked=False, ranked=False),
        Metric(DEAREST, "the dearest step of growing from nothing", TIME, "clock", asked=False, ranked=False),
        Metric("warmup", "a call before its process was at full speed", TIME, "clock", asked=False, ranked=False),
        Metric(WORK, "what a timed call does, counted", asked=False, ranked=False),
        Metric(UNCOUNTED, "operations of which it is not known what they do", asked=False, ranked=False),
        *(Metric(name, f"{kind} in a timed call", asked=False, ranked=False) for name, kind in KINDS.items()),
        Metric("reference", "the reference's call beside a submission's", TIME, "clock", asked=False, ranked=False),
        Metric("outside", "a submission's call, seen from outside", TIME, "clock", asked=False, ranked=False),
    )
}
ASKED: tuple[str, ...] = tuple(each.name for each in METRICS.values() if each.asked)
"""What `--metric` and `study.count` know without a tally."""
TIMED = tuple(each.name for each in METRICS.values() if each.unit == TIME)
"""Metrics in seconds: they are noisy, and where a cost is zero something went wrong."""
RANKED_TIMES = tuple(name for name in TIMED if METRICS[name].ranked)
BESIDE = tuple(each.name for each in METRICS.values() if not each.ranked)


def metric_of(name: str) -> Metric:
    """The metric of a name; a tally where it is not in the table.

    >>> metric_of("memory").unit, metric_of("blasts").way
    ('memory', 'tallies')
    """
    return METRICS.get(name) or Metric(name, "a tally of the code under study")
