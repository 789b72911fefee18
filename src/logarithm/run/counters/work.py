"""Counting work: what a call does, counted on many small instances, for contenders that are timed in Python.

It is the second witness of growth. Nothing disturbs a count, so contenders are counted side by side, in processes other
than those that are timed, each for a second or two: many instances at the small sizes, which are cheap, few at others.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from functools import partial
from itertools import takewhile
from pathlib import Path

from ...errors import MeasuringError
from ...logbook.records import AnyRecord, Note, Trial
from ...notation.metrics import KINDS, UNCOUNTED, WORK
from ...notation.sizes import Number, endless, fixed
from ...notation.words import listed
from ...protocol import clock
from ...protocol.replies import Counted
from ...protocol.requests import Count
from ...study.parts import Contender
from ...study.study import Study
from ...supervisor.failed import Failed
from ...supervisor.pool import WorkerPool
from ...supervisor.programs.instructions import MISSING
from ...supervisor.templates import Templates
from ..plan.settings import Settings
from ..plan.track import Track, forecast
from .parallel import Job, counting_pool, each_share, side_by_side

EACH, PROGRAM = 2.0, 4.0  # seconds for a contender on all its families; programs take long to start while counted
RUN, RUNS, QUICK = 0.5, 8, 0.01  # seconds of one, how many on a family, and the longest call that is counted so
STARTING, LOADING = 0.15, 1.5  # seconds that a worker takes to start, about, and with its first count at most
INSTANCES, AGAIN = 8, 0.03  # instances at most, as long as a size has not taken so many seconds
INSTANCES_FIRST, SIZE_S_MOST = 2, 0.7  # instances at least, and seconds from which on a size is the last one
COUNTED_SIZE_MOST = 2**20  # where sizes go on without end, no larger size is counted
LATE = 1.0  # seconds that a count may take longer than there is time
SIZES, BETWEEN = 14, 1.4  # where there are fewer sizes than this, others are put between that rise by this factor


def count_work(
    study: Study,
    study_file: Path,
    tracks: list[Track],
    settings: Settings,
    seed: int,
    seconds: float,
    stopped: Callable[[], bool] = lambda: False,
    first: int = 0,
    templates: Templates | None = None,
) -> Iterator[AnyRecord]:
    """Count the work of contenders, and yield the records of it.

    Args:
        study: what is asked.
        study_file: where workers read it.
        tracks: whom to count on what. Programs must be calibrated.
        settings: of the run.
        seed: of the first instance; further ones take the next.
        seconds: that this may take in all.
        stopped: asked before each count whether to end early.
        first: how many instances of each size were counted before, if there was such a round.
        templates: from which those who count are forked.
    """
    contenders = list({track.contender.name: track.contender for track in tracks}.values())
    if not contenders or seconds < STARTING * len(contenders) / (os.cpu_count() or 1):
        return
    try:
        with counting_pool(study, study_file, contenders, seed, settings.memory, templates) as pool:
            each = each_share(seconds, contenders)
            counts = partial(
                _count_work, pool=pool, seed=seed, is_free=fixed(settings.sizes) is None, stopped=stopped, first=first
            )
            jobs: list[Job] = []
            for contender in contenders:
                most = EACH if contender.program is None else PROGRAM
                own = [track for track in tracks if track.contender is contender]
                jobs.append((contender, own, min(each, most), counts))
            yield from side_by_side(jobs)
    except MeasuringError:
        return  # without it, time speaks alone


def is_ours(contender: Contender) -> bool:
    """Whether a contender is code that this interpreter runs, or a program of its own; others are left to time."""
    is_own = contender.program is None or "/" in contender.program.arguments[0]
    return is_own and not contender.options.interpreter


def _count_work(
    track: Track,
    stage: str | None,
    until: float,
    pool: WorkerPool,
    seed: int,
    is_free: bool,
    stopped: Callable[[], bool],
    first: int,
) -> Iterator[AnyRecord]:
    """Work at size after size, until time is up or a size is dear; sizes that were asked for are the only ones.

    Two instances of each size come first, since it is the range of sizes that tells most; then sizes between them, and
    further instances. The first count is on top of the time: it loads what counts.
    """
    name, family = track.contender.name, track.family.name
    taken: list[tuple[Number, int, Counted]] = []
    unseen = ""
    program = track.contender.program is not None
    grows = takewhile(lambda size: size <= COUNTED_SIZE_MOST, endless(track.first))
    planned = [size for size in track.planned or grows if track.allowed(size)]
    sizes = few(track, until - clock.seconds()) if program else planned
    took: dict[Number, float] = {}

    def one(size: Number, number: int) -> bool:
        """Count one more instance, unless time is up. Returns whether to go on."""
        nonlocal unseen, until
        begun = clock.seconds()
        if stopped() or (begun + _expected(took, size) > until and len(took) > INSTANCES_FIRST):
            return False
        try:
            limit = LATE + min(SIZE_S_MOST + 4.0, max(until - begun, 0.0))
            reply = pool.ask(name, Count(family, size, seed + number, stage, "work"), Counted, limit)
        except Failed as failed:
            if failed.reason == "uncounted":
                unseen = failed.detail if failed.detail == MISSING else ""
                taken.clear()
                took.clear()
            return False
        spent = clock.seconds() - begun
        until += 0.0 if took else min(spent, LOADING)
        # One slow moment says nothing of a size.
        took[size] = min(took.get(size, spent), spent)
        unseen = unseen or reply.unseen
        if reply.uncounted and not unseen:
            unseen = f"what happens inside {listed(reply.uncounted)} is not known: there time speaks alone"
        taken.append((size, number + 1, reply))
        return True

    instances = range(first, first + (1 if program else INSTANCES_FIRST))
    for size in sizes:
        if not all(one(size, number) for number in instances) or took[size] >= SIZE_S_MOST:
            break
    between = filled(planned) if is_free and not program else []
    for size in filter(track.allowed, between):
        if size not in took and (size > max(took, default=0) or not all(one(size, number) for number in instances)):
            break
    for size in () if program else tuple(took):
        for number in range(first + INSTANCES_FIRST, first + INSTANCES):
            if (number - first) * took[size] > AGAIN or not one(size, number):
                break
    if unseen:
        yield Note(topic="work", text=unseen, contender=name, family=family)
    is_unknown = any(reply.unknown for _, _, reply in taken)
    for size, heat, reply in taken:
        counts = {WORK: reply.values["steps" if is_unknown else "work"], UNCOUNTED: reply.values.get(UNCOUNTED)}
        counts |= {} if is_unknown else {metric: reply.values.get(kind) for metric, kind in KINDS.items()}
        for metric, value in counts.items():
            if value is not None:
                yield Trial(
                    contender=name,
                    family=family,
                    size=size,
                    stage=stage,
                    metric=metric,
                    heat=heat,
                    seed=seed + heat - 1,
                    value=value,
                )


def _expected(took: dict[Number, float], size: Number) -> float:
    """Seconds that counting at a size may take, by what it took at others: it rises on as it has risen."""
    if size in took or len(took) < 2:
        return took.get(size, max(took.values(), default=0.0))
    below = sorted(each for each in took if each < size)[-2:]
    if len(below) < 2:
        return min(took.values())
    return forecast((below[0], took[below[0]]), (below[1], took[below[1]]), size)


def few(track: Track, seconds: float) -> list[Number]:
    """Some sizes of a program, spread over those whose calls are short: each takes half a second to count."""
    short = [size for size in sorted(track.steps) if track.call(size) < QUICK]
    many = min(RUNS, int(seconds / RUN), len(short))
    return [short[round(at * (len(short) - 1) / (many - 1))] for at in range(many)] if many > INSTANCES_FIRST else []


def filled(sizes: list[Number]) -> list[Number]:
    """The sizes to count at: those planned, and where they are few, whole ones between them."""
    if len(sizes) >= SIZES or len(sizes) < 2:
        return sizes
    made = {*sizes}
    at = float(sizes[0])
    while at < sizes[-1]:
        made.add(round(at))
        at = max(at * BETWEEN, at + 1)
    return sorted(made)
