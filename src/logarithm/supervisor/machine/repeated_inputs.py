"""What this processor learns: how much cheaper a short input gets when it is repeated, and up to which length."""

from __future__ import annotations

import random
from statistics import median

from ...protocol import clock
from ...protocol.calibration import PASS
from ...protocol.clock import round_calls
from ...protocol.scheduling import own_timing
from ...results.tasks.machine import LengthBias, RepeatedBias

LENGTHS = (16, 32, 64, 128, 256, 512, 1024, 2048)
READINGS, TRIAL = 7, 1_000_000  # of each length, and nanoseconds of one


def repeated_bias() -> RepeatedBias:
    """Look at what this processor learns, in about a quarter of a second."""
    rng = random.Random(1)
    found = {}
    for length in LENGTHS:
        one = [rng.random() for _ in range(length)]
        call = min(clock.one_call(sorted, one)[0] for _ in range(5))
        pool = [[rng.random() for _ in range(length)] for _ in range(max(10, min(1000, PASS // call)))]
        calls = round_calls(max(TRIAL / call, len(pool), 10))
        ratios = []
        for _ in range(READINGS):
            fresh, same = (_cost(inputs, calls) for inputs in (pool, [one]))
            ratios.append(fresh / same)
        found[length] = median(ratios)
    return RepeatedBias([LengthBias(length, ratio) for length, ratio in found.items()])


def _cost(inputs: list[list[float]], calls: int) -> float:
    row = (inputs * (calls // len(inputs) + 1))[:calls]
    return own_timing(lambda: clock.in_turn(sorted, row, list[object]().append)) / calls
