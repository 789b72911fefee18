"""Calibration: up the sizes, all contenders together, to find how far each gets and what a trial needs."""

from __future__ import annotations

import math
from contextlib import suppress

from ..notation.sizes import Number
from ..protocol.clock import NANO, round_calls
from ..protocol.replies import Calibrated, Done, Timed
from ..protocol.requests import POOL_MOST, Attempt, Calibrate, TakeTrial
from ..supervisor.failed import Failed
from .plan import schedule
from .plan.track import DesignPoint, Step, Track, expected_of, kept_sizes, making_costs
from .record.budget import CALIBRATING
from .rehearsal.rehearse import compared
from .rehearsal.traps import PRINTS, TEXTS, trap
from .state import Run, refuse

FAIR, ROOM = 0.5, 0.6  # of the budget for the fewest trials of all: of a contender's own part, and of what is left
AGAIN, SURPRISE = 2, 3.0
AGAIN_MOST = 0.02  # of the budget: a call that takes longer is not looked at again
SIZES_SEEN = 6  # sizes of a contender that a first look has at least, if time allows
SIZES_WANTED = 7  # of a contender, where smaller ones may be had
SEEN_OF_SLICE = 2  # the same for a slice of a map
LOOK_SHARE = 0.25  # of the budget, for a first look at all sizes
LOOK_CALLS = 3  # calls that a first look at a size takes
POINT_S, POINTS_TELLING = 0.012, 12  # seconds of a first look beside its calls, until so many looks tell it
FIRST_MAKES = 5  # how often an instance of a size is made, or copied, at the first look at it
SEARCH_SHARE = 0.08
MAKING_SHARE, SIZES_USUAL = 0.06, 16  # of the budget for making inputs once, with so many sizes
MAKING_LEAST, MAKING_MOST = 0.005, 0.05  # seconds


def calibrate_all(run: Run) -> None:
    """Go up the sizes of every track as far as failures, the ceiling and the budget allow."""
    with run.budget.during(CALIBRATING):
        _up(run)
        for track in run.tracks:
            _fill(run, track)


def _up(run: Run) -> None:
    while going_on := [track for track in run.tracks if track.next is not None]:
        leave_out(run)
        size = min(track.next for track in going_on if track.next is not None)
        level = [track for track in going_on if track.next == size]
        run.book.flush()
        run.shuffler.shuffle(level)
        # On a map from small to large, so that a dear place is foreseen from cheaper ones.
        level.sort(key=lambda track: track.family.second or 0)
        for track in level:
            run.tell(f"calibrating: {track.contender.name} on {track.family.name}, n = {size}")
            refusal = refused(run, track)
            if refusal:
                cause = "ceiling" if expected_of(run.tracks, track) > track.ceiling else "budget"
                run.book.end_of_sizes(track, size, f"ends before {run.book.at(size)}: {refusal}", cause)
            elif calibrate(run, track, size) or not track.is_size:
                track.advance()
            else:
                track.end()
        for family in dict.fromkeys(track.family.name for track in level):
            _compare(run, family, size)
    run.book.flush()


def _fill(run: Run, track: Track) -> None:
    """Where cost grows so steeply that few sizes came through, look at smaller ones, until they name its growth."""
    until = run.budget.spent(CALIBRATING) + LOOK_SHARE * run.budget.total / len(run.tracks)
    for size in track.nearby():
        expected = track.between(size)
        if len(track.steps) >= SIZES_WANTED or run.budget.spent(CALIBRATING) + expected > until:
            break
        run.tell(f"calibrating: {track.contender.name} on {track.family.name}, n = {size}")
        if not track.allowed(size) or not calibrate(run, track, size, expected, is_further=True):
            break
    run.book.flush()


def leave_out(run: Run) -> None:
    """Leave out sizes between the next one and the largest, for all contenders alike, if time is too short for all."""
    tracks = [track for track in run.tracks if track.planned and track.family.second is None]
    own = [(track, {*track.coming}) for track in tracks]
    coming = sorted(set[Number]().union(*(sizes for _, sizes in own)))
    if len(coming) < 2:
        return
    budget, points = run.budget, sum(len(steps) for track in tracks for steps in track.steps.values())
    spent = budget.spent(CALIBRATING)
    beside = spent / points if points >= POINTS_TELLING else POINT_S
    look, visits = LOOK_SHARE * budget.total - spent, ROOM * budget.left - schedule.least_cost(run.tracks)
    shares = []  # of each size: the larger one of the time for a first look, and of that for trials
    for size in coming:
        looking = trials = 0.0
        for track, sizes in own:
            call = track.at(size) if track.steps else 0.0
            if size in sizes and call <= track.ceiling:
                looking += beside * len(track.contender.stages) + LOOK_CALLS * call
                trials += schedule.visits(call) * len(track.contender.stages)
        shares.append(max(looking / max(look, 1e-9), trials / max(visits, 1e-9)))
    kept, done = kept_sizes(coming, shares, 1.0), {size for track in tracks for size in track.steps}
    if len(done) + len(kept) < SIZES_SEEN:
        kept = kept_sizes(coming, shares, 2.0)  # too few sizes name no order
    for track, sizes in own:
        if sizes:
            track.take({*kept, track.coming[-1], *(() if points else coming[:1])})


def refused(run: Run, track: Track) -> str:
    """Return why the next size of a track is not to be tried; empty if it is."""
    expected = expected_of(run.tracks, track)
    if expected > track.ceiling:
        return f"a call would take about {expected:.2g} s, over the limit of {track.ceiling:g} s: see --ceiling"
    budget = run.budget
    making = FIRST_MAKES * track.making()
    cost = schedule.least_cost([track]) + schedule.visits(expected) + making
    if track.steps and expected + making > budget.left:
        return f"making its inputs and one call would take about {expected + making:.2g} s, more than is left"
    if track.planned is not None and track.family.second is None:
        return ""  # a size that was asked for is measured
    seen = SIZES_SEEN if track.family.second is None else SEEN_OF_SLICE
    if len(track.steps) >= seen and budget.spent(CALIBRATING) + expected + making > LOOK_SHARE * budget.total:
        return f"the first look at all sizes would take too much of a budget of {budget.total:g} s"
    # Everyone has a fair share of the budget; beyond it a contender goes only while there is enough for all.
    if cost <= FAIR * budget.deadline / len(run.tracks):
        return ""
    others = schedule.least_cost([other for other in run.tracks if other is not track])
    others += schedule.PROCESSES_WANTED * sum(making_costs(run.tracks).values())
    if track.steps and cost + others + schedule.reserve(run.tracks, run.settings) > ROOM * budget.left:
        return f"a call would take about {expected:.2g} s, too much for a budget of {budget.total:g} s"
    return ""


def calibrate(run: Run, track: Track, size: Number, expected: float | None = None, is_further: bool = False) -> bool:
    """Calibrate one contender at one size, `expected` to take so many seconds. Returns whether it came through.

    A failure at a `further` size, which nobody asked for, is a note only.
    """
    found: dict[str | None, Step] = {}
    for stage in track.contender.stages:
        point = DesignPoint(track.contender.name, track.family.name, size, stage)
        step = _calibrated(run, track, point, expected, is_further)
        if step is None:
            return False
        found[stage] = step
    track.steps = dict(sorted({**track.steps, size: found}.items()))  # it may lie among the others
    return True


def _calibrated(
    run: Run, track: Track, point: DesignPoint, expected: float | None, is_further: bool, is_again: bool = False
) -> Step | None:
    processes, seed = run.processes, run.processes.seed
    # A fraction of a trial is enough to see how many calls a whole one needs.
    target = int(run.settings.trial / NANO / 6)
    most = 1 if run.settings.same else POOL_MOST
    making = round(making_share(run.budget.total, len(run.tracks) * len(track.contender.stages)) / NANO)
    request = Calibrate(point.family, point.size, seed, point.stage, target, most, making)
    try:
        reply = processes.ask(track, request, Calibrated)
    except Failed as failed:
        if failed.reason == "timeout" and not is_again:
            return _calibrated(run, track, point, expected, is_further, is_again=True)  # once may be a bad moment
        if is_further and point.size < min(track.steps):
            return None  # smaller than anybody asked for
        if is_further and point.size > max(track.steps):
            text = f"goes no further than {run.book.at(max(track.steps))}: {failed.reason} at {run.book.at(point.size)}"
            run.book.note("further", text, point.contender, point.family, point.size)
            return None
        works = largest_that_works(run, track, point.size, failed)
        run.book.failure(track, point.size, point.stage, failed, processes.number, works)
        return None
    call = run.book.trial(point, reply, 0, processes.number, seed, reply.changes, reply.instances, reply.promise)
    run.budget.inside += max(0, reply.inside - reply.elapsed) * NANO
    _hear(run, point, reply)
    if reply.answered is not None:
        run.answers.setdefault((point.family, point.size), {})[point.contender] = reply.answered
    # One bad moment must not end the sizes, nor stand for a size: what is far dearer than was to be expected, or during
    # which others had the processor, is looked at again.
    usual = (expected_of(run.tracks, track) if expected is None else expected) or run.settings.trial
    last: Timed = reply
    for _ in range(AGAIN if call < AGAIN_MOST * run.budget.total else call > track.ceiling):
        if call > min(SURPRISE * usual, track.ceiling) or (last.is_away and not track.waits):
            with suppress(Failed):
                again = TakeTrial(
                    point.family, point.size, seed, point.stage, calls=1, copies=reply.changes, promise=reply.promise
                )
                last = processes.ask(track, again, Timed, calls=1)
                call = min(call, run.book.trial(point, last, 0, processes.number, seed, reply.changes, 1))
    track.waits = track.waits or last.is_away
    if call > track.ceiling:
        why = f"a call took {call:.3g} s, over the limit of {track.ceiling:g} s: see --ceiling"
        if not is_further:
            run.book.end_of_sizes(track, point.size, f"ends at {run.book.at(point.size)}: {why}", "ceiling")
        return None
    return Step(
        calls=round_calls(run.settings.trial / max(call, 1e-9)),
        call=call,
        copies=reply.changes,
        promise=reply.promise,
        instances=reply.instances,
        making=reply.making * NANO,
        repeated=None if reply.repeated is None else reply.repeated * NANO,
    )


def making_share(budget: float, tracks: int) -> float:
    """Seconds that making the inputs of one design point may take, for a budget in seconds and so many tracks."""
    return min(MAKING_MOST, max(MAKING_LEAST, MAKING_SHARE * budget / (tracks * SIZES_USUAL)))


def _hear(run: Run, point: DesignPoint, reply: Calibrated) -> None:
    """Tell once of traps that the rehearsal did not see: some show at large sizes only."""
    name = point.contender
    if reply.printed and (name, PRINTS) not in run.trapped:
        run.trapped.add((name, PRINTS))
        text = f"prints at {run.book.at(point.size)}, and the time includes that"
        run.book.note("trap", text, name, size=point.size)
    for kind, detail in reply.traps.items():
        if kind in TEXTS and (name, kind) not in run.trapped:
            run.trapped.add((name, kind))
            run.book.note("trap", trap(name, kind, detail).text, name, cause=kind)


def _compare(run: Run, family: str, size: Number) -> None:
    """Hold the answers of first calls beside each other: larger sizes are seen here for the first time.

    Raises:
        DisagreementError: where they disagree and that is not wanted anyway.
    """
    found = compared(run.study, run.answers.get((family, size), {}), family, size, run.processes.seed)
    new = [each for each in found if each.contender not in run.disagreeing]
    run.disagreeing |= {each.contender for each in new}
    refuse(run, new)


def largest_that_works(run: Run, track: Track, fails: Number, failed: Failed) -> Number | None:
    """The largest size that works, by halving between the last that did and the one that fails."""
    works = max(track.steps, default=None)
    if works is None or not track.is_size or failed.reason == "timeout":
        return works
    until = run.budget.elapsed + run.settings.budget * SEARCH_SHARE
    low, high = int(works), math.ceil(fails)
    while high - low > 1 and run.budget.elapsed < until:
        middle = (low + high) // 2
        run.tell(f"{track.contender.name} fails at {run.book.at(fails)}: does {middle} work?")
        try:
            run.processes.ask(track, Attempt(track.family.name, middle, run.processes.seed), Done)
            low = middle
        except Failed:
            high = middle
    return low
