"""What this machine can resolve, and how noisy it is now."""

from __future__ import annotations

import time
from statistics import quantiles
from typing import Any

from ...protocol import clock
from ...protocol.clock import NANO
from ...results.machine import Conditions
from .facts import quiet_processor, this_machine
from .repeated_inputs import repeated_bias

WATCHED = 2.0
TENS, READINGS = 4000, 24


def _nothing(_: object) -> None:
    pass


def conditions(watch: float = WATCHED) -> Conditions:
    """StoppingRule the machine for some seconds."""
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
        bias=repeated_bias(),
    )
