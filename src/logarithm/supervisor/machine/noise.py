"""What this machine can resolve, and how noisy it is now."""

from __future__ import annotations

import time
from statistics import quantiles
from typing import Any

from ...protocol import clock
from ...protocol.clock import NANO
from ...protocol.scheduling import own_timing
from ...results.tasks.machine import Conditions
from ..processes import on_processor
from .facts import this_machine
from .idle import idlest_processor, pressure
from .repeated_inputs import repeated_bias

WATCHED = 2.0
TENS, READINGS = 4000, 24


def _nothing(_: object) -> None:
    pass


def conditions(watch: float = WATCHED) -> Conditions:
    """Watch the machine for some seconds."""
    cost = clock.overheads()
    processor, paces = idlest_processor(), []
    with on_processor(processor):
        ran, begun = time.thread_time(), time.monotonic()
        while (passed := time.monotonic() - begun) < watch:
            paces.append(clock.pace() * NANO)
        others = passed - (time.thread_time() - ran)  # it never waits
    cuts = quantiles(paces, n=100)
    # A call that does nothing, timed as contenders are: what its readings differ by is what cannot be seen.
    tens: list[Any] = [(None,) * clock.UNROLLED] * TENS
    calls = clock.UNROLLED * TENS
    timings = (own_timing(lambda: clock.in_tens(_nothing, tens, list[object]().append)) for _ in range(READINGS))
    nothing = sorted(took / calls - cost.ten for took in timings)
    spread = nothing[3 * READINGS // 4] - nothing[READINGS // 4]
    return Conditions(
        machine=this_machine(),
        turn=cost.ten * NANO,
        smallest=(nothing[READINGS // 2] + 3 * spread) * NANO,
        empty=nothing[READINGS // 2] * NANO,
        quickest=cuts[0],
        typical=cuts[49],
        slowest=cuts[89],
        others=min(max(others / passed, 0.0), 1.0),
        pressure=pressure(),
        processor=processor,
        bias=repeated_bias(),
    )
