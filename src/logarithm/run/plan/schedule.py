"""The plan: how many heats fit, how long a trial lasts, how many heats a process has.

Pure calculation: nothing here starts a process or reads a clock.
"""

from __future__ import annotations

import math
from collections.abc import Collection

from ...results.questions import Point
from .settings import Settings
from .track import AROUND_S, Step, Track, steps_at, trial_costs

HEATS_LEAST = 5
HEATS_MOST = 100
HEATS_OF_PROCESS, PROCESSES_WANTED = 6, 3
DEAR, DEAR_LEAST = 0.1, 3  # seconds of a call, and how many trials are enough for one that takes longer
HEATS_WANTED = 24
NOISE = 1.5  # what a trial adds of its own, over the spread between processes, as variances
LARGER_SHARE = 12.0  # a call at a size beyond the last one may take this part of the time that is left
TRIAL_S_LEAST, TRIAL_S_MOST = 0.004, 0.03  # seconds that a trial of short calls may last
PAUSING = 4.0  # a trial that takes this many times a plain one pauses every other heat


def trial_length(tracks: list[Track], settings: Settings, left: float, among: Collection[Point] | None = None) -> float:
    """How long a trial of short calls should last, in seconds.

    Longer than usual where a whole budget allows for more heats than anyone needs; shorter where there are so many
    design points that hardly two dozen heats would fit: many short trials in as many processes say more than few long
    ones.
    """
    plain = settings.trial + AROUND_S
    dear = sum(max(step.call - settings.trial, 0.0) for step in _steps(tracks, among))
    heats = left / max(dear + plain * len(_steps(tracks, among)), 1e-6)
    if heats > HEATS_MOST and settings.whole:
        return min(TRIAL_S_MOST, settings.trial * heats / HEATS_MOST)
    return settings.trial if heats >= HEATS_WANTED else max(TRIAL_S_LEAST, settings.trial * heats / HEATS_WANTED)


def _steps(tracks: list[Track], among: Collection[Point] | None) -> list[Step]:
    """What calibration found at some points, or at all."""
    return [step for _, steps in steps_at(tracks, among) for step in steps.values()]


def pauses_of(
    tracks: list[Track], target: float, left: float, among: Collection[Point] | None = None
) -> tuple[int, dict[Point, int]]:
    """How many heats to plan for the seconds `left`, and which sizes take part only in every k-th of them.

    Were every design point in every heat, a few dear ones would use up the budget and leave all others with
    hardly a trial. So those that take many times a plain trial pause in between, but none is left with fewer
    than a few trials. Contenders that cost alike pause alike, and so can still be compared within a heat.

    Returns:
        the number of heats, and k for each (contender, family, size).

    """
    trials = trial_costs(tracks, among)
    plain = PAUSING * (target + AROUND_S)
    for heats in range(HEATS_MOST, 1, -1):
        most = max(1, heats // HEATS_LEAST)
        pauses = {key: min(most, 2 ** max(0, int(math.log2(max(trial / plain, 1.0))))) for key, trial in trials.items()}
        if sum(trial * math.ceil(heats / pauses[key]) for key, trial in trials.items()) <= left:
            return heats, pauses
    return 1, dict.fromkeys(trials, 1)


def visits(call: float) -> float:
    """Seconds for the fewest trials that a size needs, where a call takes so many seconds: dear ones need fewer."""
    return (HEATS_LEAST if call < DEAR else DEAR_LEAST) * (max(call, TRIAL_S_LEAST) + AROUND_S)


def least_cost(tracks: list[Track]) -> float:
    """Seconds for the fewest trials that everything calibrated so far needs."""
    return sum(visits(step.call) for step in _steps(tracks, None))


def reserve(tracks: list[Track], settings: Settings) -> float:
    """Seconds to keep for points of fixed sizes that are still to come."""
    still = sum(len(track.coming) for track in tracks)
    return min(still * (HEATS_LEAST + 1) * (TRIAL_S_LEAST + AROUND_S), settings.budget / 2)


def heats_of_process(heat: float, start: float, left: float = math.inf, processes: int = PROCESSES_WANTED) -> int:
    """How many heats to give a process: the more, the dearer it is to start another one.

    While there are fewer processes than a verdict asks for, it leaves time for the others.

    The fewest seconds for a given error are spent with the square root of the ratio of both costs, times that of both
    variances (Cochran, Sampling Techniques, 1977, 10.6, for samples in two stages).

    Args:
        heat: seconds of one heat.
        start: seconds that starting the workers takes, and making their inputs.
        left: seconds of the budget.
        processes: how many were begun so far, this one included.

    >>> heats_of_process(2.0, 0.5), heats_of_process(0.1, 0.5), heats_of_process(0.1, 0.5, left=1.4, processes=1)
    (1, 3, 1)
    """
    many = min(HEATS_OF_PROCESS, round(math.sqrt(NOISE * start / max(heat, 1e-6))))
    others = max(PROCESSES_WANTED - processes, 0)
    if others:
        many = min(many, int((left - others * start) / (others + 1) / max(heat, 1e-6)))
    return max(1, many)
