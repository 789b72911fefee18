"""The plan: how many heats and lives fit, how long a trial lasts, where more trials decide something.

Pure calculation: nothing here starts a process or reads a clock.
"""

from __future__ import annotations

import math
from itertools import combinations

from ...notation.sizes import Number
from .settings import Settings
from .track import AROUND, Track, heat_cost

HEATS_LEAST = 5
HEATS_MOST = 100
LIVES_WANTED, LIVES_MOST = 4, 10
STARTING_SHARE, STARTING_MOST = 0.15, 0.35  # of the time that is left, for starting workers
CLOSE = 0.2  # of the logarithm of a ratio
HEATS_WANTED = 10
SHORTEST, LONGEST = 0.0015, 0.03  # seconds that a trial of short calls may last
PAUSING = 4.0  # a trial that takes this many times a plain one pauses every other heat


def trial_length(tracks: list[Track], settings: Settings, left: float) -> float:
    """How long a trial of short calls should last, in seconds.

    Longer than usual where the budget allows for more heats than anyone needs; shorter where there are so many design
    points that fewer than ten heats would fit: ten short trials say more than five long ones.
    """
    heats = left / max(heat_cost(tracks), 1e-6)
    if heats > HEATS_MOST:
        return min(LONGEST, settings.trial * heats / HEATS_MOST)
    return settings.trial if heats >= HEATS_WANTED else max(SHORTEST, settings.trial * heats / HEATS_WANTED)


def rhythm(tracks: list[Track], target: float, left: float) -> tuple[int, dict[tuple[str, str, Number], int]]:
    """How many heats to plan for the seconds `left`, and which sizes take part only in every k-th of them.

    Were every design point in every heat, a few dear ones would use up the budget and leave all others with
    hardly a trial. So those that take many times a plain trial pause in between, but none is left with fewer
    than a few trials. Contenders that cost alike pause alike, and so can still be compared within a heat.

    Returns:
        the number of heats, and k for each (contender, family, size).

    """
    trials = {
        (track.contender.name, track.family.name, size): sum(step.trial for step in steps.values())
        for track in tracks
        for size, steps in track.steps.items()
    }
    plain = PAUSING * (target + AROUND)
    for heats in range(HEATS_MOST, 1, -1):
        most = max(1, heats // HEATS_LEAST)
        pauses = {key: min(most, 2 ** max(0, int(math.log2(max(trial / plain, 1.0))))) for key, trial in trials.items()}
        if sum(trial * math.ceil(heats / pauses[key]) for key, trial in trials.items()) <= left:
            return heats, pauses
    return 1, dict.fromkeys(trials, 1)


def deciding(tracks: list[Track]) -> set[tuple[str, str, Number]]:
    """The (contender, family, size) at which more trials may decide something.

    These are the sizes at which two contenders cost about the same, and those between which one overtakes the
    other; and the largest sizes of each contender, which say most about its growth.
    """
    wanted = {(track.contender.name, track.family.name, size) for track in tracks for size in [*track.steps][-2:]}
    for one, other in combinations(tracks, 2):
        if one.family.name != other.family.name or one.contender.stages != other.contender.stages:
            continue
        common = [size for size in one.steps if size in other.steps]
        ratios = [math.log(max(one.call(size), 1e-9) / max(other.call(size), 1e-9)) for size in common]
        for index, ratio in enumerate(ratios):
            flips = any(ratio * ratios[at] < 0 for at in (index - 1, index + 1) if 0 <= at < len(ratios))
            if flips or abs(ratio) < CLOSE:
                wanted |= {(track.contender.name, track.family.name, common[index]) for track in (one, other)}
    return wanted


def reserve(tracks: list[Track], settings: Settings) -> float:
    """Seconds to keep for points of fixed ladders that are still to come: one short trial in each heat."""
    still = sum(track.left for track in tracks)
    return min(still * (settings.trial + AROUND) * (HEATS_LEAST + 1), settings.budget / 2)


def lives(heats: float, left: float, start: float) -> int:
    """How many lives to give each contender, of two heats at least where there are enough for four.

    Lives are worth more than heats: heats of one life share its luck. So there are as many as a seventh of the time can
    start, at most ten; and four, without which nobody can tell what that luck is, even if it takes a third of the time.

    Args:
        heats: how many heats fit.
        left: seconds left.
        start: seconds that starting the workers takes, and making their inputs.
    """
    start = max(start, 1e-3)
    affordable = max(int(STARTING_SHARE * left / start), min(LIVES_WANTED, int(STARTING_MOST * left / start)))
    return max(1, min(LIVES_MOST, max(int(heats // 2), min(LIVES_WANTED, int(heats))), affordable))
