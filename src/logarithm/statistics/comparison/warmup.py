"""Warming up: what the calls of a new process cost before it is at full speed, and when that is repaid."""

from __future__ import annotations

from collections import defaultdict

import numpy as np

from ...logbook.memory import Logbook
from ...notation.sizes import plain
from ...results.side_findings import WarmUpFinding
from ..readings.arrays import median_of
from ..readings.series import Series

COLD = 1.3  # the first calls cost so many times as much as the last
WORTH = 1e-3  # seconds of extra cost from which on it is told
PROCESSES_LEAST = 3  # must agree that it is cold
SPEED = 1.1  # full speed: within this ratio of the last readings


def warm_ups(logbook: Logbook, series: list[Series]) -> list[WarmUpFinding]:
    """What warming up costs each contender, the median over its processes.

    Args:
        logbook: whose trials of warming up are looked at, in the order in which they were made.
        series: the costs at full speed.
    """
    trials = logbook.trials
    made = []
    for code, (contender, family, stage, metric) in enumerate(trials.keys):
        if metric != "warmup":
            continue
        rows = np.flatnonzero(trials.series == code)
        processes: dict[tuple[int, float], list[tuple[float, float]]] = defaultdict(list)
        for row in rows:
            key = int(trials.process[row]), float(trials.size[row])
            processes[key].append((float(trials.calls[row]), float(trials.cost[row])))
        seen = [(size, *_of_a_process(readings)) for (_, size), readings in processes.items() if len(readings) > 1]
        if (
            len({process for process, _ in processes}) < PROCESSES_LEAST
            or sum(cold > COLD for _, cold, *_ in seen) < PROCESSES_LEAST
        ):
            continue
        cold, seconds, extra, calls = (median_of([each[at] for each in seen]) for at in range(1, 5))
        if cold < COLD or extra < WORTH:
            continue
        over, size, repaid = _repaid(contender, family, stage, extra, series)
        made.append(
            WarmUpFinding(contender, family, plain(seen[0][0]), seconds, extra, cold, round(calls), over, size, repaid)
        )
    best: dict[str, WarmUpFinding] = {}
    for each in made:
        if each.contender not in best or each.extra > best[each.contender].extra:
            best[each.contender] = each
    return list(best.values())


def _of_a_process(readings: list[tuple[float, float]]) -> tuple[float, float, float, float]:
    """First over last cost of a call, seconds until full speed, how much of them is extra, and calls until then."""
    costs = np.array([cost for _, cost in readings])
    calls = np.array([many for many, _ in readings])
    level = float(np.min(costs[-3:]))
    slow = np.flatnonzero(costs > SPEED * level)
    until = int(slow[-1]) + 1 if len(slow) else 0
    spent = calls[:until] * costs[:until]
    return (
        float(costs[0] / level),
        float(spent.sum()),
        float(spent.sum() - level * calls[:until].sum()),
        float(calls[:until].sum()),
    )


def _repaid(
    contender: str, family: str, stage: str | None, extra: float, series: list[Series]
) -> tuple[str | None, float | None, float | None]:
    """Against whom warming up is repaid soonest at the largest size of both, that size, and after how many calls."""
    own = next((s for s in series if s.key == (contender, family, stage, "time")), None)
    best: tuple[str | None, float | None, float | None] = None, None, None
    for other in series:
        if own is None or other.contender == contender or other.place != (family, stage, "time"):
            continue
        common = np.intersect1d(own.sizes, other.sizes)
        if not len(common):
            continue
        saved = float(other.typical[other.sizes == common[-1]][0] - own.typical[own.sizes == common[-1]][0])
        if saved > 0 and (best[2] is None or extra / saved < best[2]):
            best = other.contender, plain(common[-1]), extra / saved
    return best
