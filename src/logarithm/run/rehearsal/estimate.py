"""The estimate: how far each contender will get, and how long measuring will take, before it is begun."""

from __future__ import annotations

from collections.abc import Callable
from itertools import chain

from ...notation.sizes import Number
from ...protocol import clock
from ...protocol.clock import NANO
from ...protocol.replies import Calibrated
from ...protocol.requests import Calibrate
from ...results.tasks.rehearsal import Estimate
from ...supervisor.failed import Failed
from ...supervisor.pool import WorkerPool
from ..plan import schedule
from ..plan.settings import Settings
from ..plan.track import AROUND_S, Step, Track

GLIMPSE = 0.02  # seconds: a call longer than this is forecast, not tried
TARGET = 500_000  # nanoseconds that a trial lasts here
GROWS_MOST = 60
# seconds that finding out how many calls a trial needs takes; processes that most need
CALIBRATING, PROCESSES = 0.018, 5
LOOK = 0.5  # seconds that a call at one of the first sizes may take


def estimate(
    tracks: list[Track], pool: WorkerPool, settings: Settings, seed: int, tell: Callable[[str], None] = lambda _: None
) -> list[Estimate]:
    """Try each contender at its cheap sizes, and forecast the dear ones.

    Args:
        tracks: who runs on what, each at its first size.
        pool: workers of the contenders.
        settings: the ceiling and the length of trials.
        seed: of the instances.
        tell: called with what is being done.
    """
    return [_one(track, pool, settings, seed, tell) for track in tracks]


def settled_after(estimates: list[Estimate], tracks: list[Track], starting: float, settings: Settings) -> float:
    """Seconds after which all but close cases may be expected to be settled, at most the budget.

    Args:
        estimates: how far each contender will get.
        tracks: those that were tried.
        starting: seconds that starting all workers took.
        settings: the budget and the length of trials.
    """
    sizes = sum(len(track.steps) + len(track.coming) for track in tracks)
    calibrating = sizes * CALIBRATING + sum(2 * each.call for each in estimates)
    dear = sum(
        max(each.heat - len(track.steps) * settings.trial, 0.0) for each, track in zip(estimates, tracks, strict=True)
    )
    process = starting + sizes * (schedule.TRIAL_S_LEAST + AROUND_S) + dear
    return min(2 * starting + calibrating + PROCESSES * process, settings.budget)


def heats_within(estimates: list[Estimate], settings: Settings) -> int:
    """How many heats a budget will give, about; the dearest points may take part in fewer."""
    heat = sum(each.heat for each in estimates)
    return min(schedule.HEATS_MOST, int(0.8 * settings.budget / heat)) if heat else 0


def _one(track: Track, pool: WorkerPool, settings: Settings, seed: int, tell: Callable[[str], None]) -> Estimate:
    name, family = track.contender.name, track.family.name
    until = clock.seconds() + 1.0
    while track.next is not None and clock.seconds() < until:
        # From fewer than three sizes nobody can tell how cost grows.
        if track.forecast() > (GLIMPSE if len(track.steps) > 2 else min(track.ceiling, LOOK)):
            break
        tell(f"how far will it get? {name} on {family}, {track.next}")
        steps: dict[str | None, Step] = {}
        for stage in track.contender.stages:
            request = Calibrate(family, track.next, seed, stage, TARGET, 1)
            try:
                reply = pool.ask(name, request, Calibrated, track.limit)
            except Failed as failed:
                return _ended(track, settings, f"{failed.reason} at {track.next}")
            steps[stage] = Step(reply.calls, reply.call * NANO, reply.changes)
        track.steps[track.next] = steps
        track.advance()
    return _forecast(track, settings)


def _forecast(track: Track, settings: Settings) -> Estimate:
    """Go on along the sizes in thought, until a call would take longer than the ceiling."""
    reach, heat, call = _so_far(track, settings)
    for count, size in enumerate(chain([track.next] if track.next is not None else [], track.sizes)):
        track.next = size
        expected = track.forecast()
        if expected > track.ceiling:
            return _outlook(track, reach, call, heat, f"at {size} a call would take about {expected:.2g} s")
        if not track.planned and count > GROWS_MOST:
            break
        reach, call = size, expected
        heat += len(track.contender.stages) * (max(expected, settings.trial) + AROUND_S)
    return _outlook(track, reach, call, heat, "")


def _ended(track: Track, settings: Settings, why: str) -> Estimate:
    reach, heat, call = _so_far(track, settings)
    return _outlook(track, reach, call, heat, why)


def _so_far(track: Track, settings: Settings) -> tuple[Number | None, float, float]:
    done = list(track.steps)
    heat = sum(max(step.call, settings.trial) + AROUND_S for steps in track.steps.values() for step in steps.values())
    return (done[-1], heat, track.call(done[-1])) if done else (None, 0.0, 0.0)


def _outlook(track: Track, reach: Number | None, call: float, heat: float, stops: str) -> Estimate:
    return Estimate(track.contender.name, track.family.name, reach, call, heat, stops)
