"""What this machine can resolve, and how noisy it is now."""

from __future__ import annotations

import time
from dataclasses import dataclass
from statistics import quantiles
from typing import Any

from ...logbook.records import Machine
from ...protocol import clock
from ...protocol.clock import NANO
from .facts import quiet_processor, this_machine

WATCHED = 2.0
TENS, READINGS = 4000, 24


@dataclass(frozen=True, slots=True)
class Conditions:
    """The machine now, in seconds.

    Attributes:
        machine: what it is.
        turn: what a turn of the timing loop costs, for one call.
        empty: what a call of a function that does nothing costs.
        smallest: the smallest cost of a call that can be told from one that does nothing.
        quickest, typical, slowest: the first percentile, median and ninth decile of a fixed piece of work.
        stalls: the share of the time lost to moments at which nothing ran for more than a millisecond.
        processor: the one that contenders are kept to, None where all may be used.
    """

    machine: Machine
    turn: float
    empty: float
    smallest: float
    quickest: float
    typical: float
    slowest: float
    stalls: float
    processor: int | None

    @property
    def spread(self) -> float:
        """How many times as long the same work takes in a slow moment as in a quick one."""
        return self.slowest / self.quickest


def _nothing(_: object) -> None:
    pass


def conditions(watch: float = WATCHED) -> Conditions:
    """Watch the machine for some seconds."""
    cost = clock.overheads()
    paces, stalled = [], 0.0
    begun = before = time.monotonic()
    while before - begun < watch:
        paces.append(clock.pace() * NANO)
        now = time.monotonic()
        # Two rounds of the work were done; what is left of the time was somebody else's.
        idle = now - before - 3 * paces[-1]
        stalled += idle if idle > 1e-3 else 0.0
        before = now
    cuts = quantiles(paces, n=100)
    # A call that does nothing, timed as contenders are: what its readings differ by is what cannot be seen.
    tens: list[Any] = [(None,) * clock.UNROLLED] * TENS
    calls = clock.UNROLLED * TENS
    nothing = sorted(clock.in_tens(_nothing, tens, list[object]().append) / calls - cost.ten for _ in range(READINGS))
    spread = nothing[3 * READINGS // 4] - nothing[READINGS // 4]
    return Conditions(
        machine=this_machine(),
        turn=cost.ten * NANO,
        smallest=(nothing[READINGS // 2] + 3 * spread) * NANO,
        empty=nothing[READINGS // 2] * NANO,
        quickest=cuts[0],
        typical=cuts[49],
        slowest=cuts[89],
        stalls=stalled / (before - begun),
        processor=quiet_processor(),
    )
