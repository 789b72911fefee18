"""Gathering work: what a call does, counted on many small instances, for contenders that are timed in Python.

It is the second witness of growth. Nothing disturbs a count, so contenders are counted side by side, in processes other
than those that are timed, each for a second or two: many instances at the small sizes, which are cheap, few at others.
"""

from __future__ import annotations

import os
import time
from collections.abc import Iterator
from functools import partial
from pathlib import Path

from ...errors import MeasuringError
from ...logbook.records import WORK, AnyRecord, Note, Trial
from ...notation.sizes import Number
from ...study.parts import Contender
from ...study.study import Study
from ..parent.crew import Crew
from ..parent.failed import Failed
from ..parent.instructions import MISSING
from ..plan.settings import Settings
from ..plan.track import Track
from ..shared.messages import Count, Counted
from .aside import Job, crew_aside, each_share, side_by_side

EACH, PROGRAM = 2.0, 4.0  # seconds for a contender on all its families; programs take long to start while counted
RUN, RUNS, QUICK = 0.5, 8, 0.01  # seconds of one, how many on a family, and the longest call that is counted so
STARTING = 0.15  # seconds that a worker takes to start, about
INSTANCES, AGAIN = 8, 0.03  # instances at most, as long as a size has not taken so many seconds
LEAST, DEAR = 2, 0.7  # instances at least, and seconds from which on a size is the last one
LATE = 1.0  # seconds that a count may take longer than there is time
SIZES, BETWEEN = 14, 1.25  # where a ladder has fewer sizes than this, others are put between that rise by this factor


def gather_work(
    study: Study, study_file: Path, tracks: list[Track], settings: Settings, seed: int, seconds: float
) -> Iterator[AnyRecord]:
    """Count the work of every contender in Python that was climbed, and yield the records of it.

    Args:
        study: what is asked.
        study_file: where workers read it.
        tracks: how far each contender climbed.
        settings: the dials.
        seed: of the first instance; further ones take the next.
        seconds: that this may take in all.
    """
    begun = time.monotonic()
    climbed = [track for track in tracks if track.steps]
    contenders = list(
        {track.contender.name: track.contender for track in climbed if _is_ours(track.contender)}.values()
    )
    if not contenders or seconds < STARTING * len(contenders) / (os.cpu_count() or 1):
        return
    try:
        with crew_aside(study, study_file, contenders, seed, settings.memory) as crew:
            each = each_share(seconds - (time.monotonic() - begun), contenders)
            counts = partial(_counts, crew=crew, seed=seed, is_free=settings.sizes is None)
            jobs: list[Job] = []
            for contender in contenders:
                most = EACH if contender.program is None else PROGRAM
                own = [track for track in climbed if track.contender is contender]
                jobs.append((contender, own, min(each, most), counts))
            yield from side_by_side(jobs)
    except MeasuringError:
        return  # without it, time speaks alone


def _is_ours(contender: Contender) -> bool:
    """Whether a contender is code that this interpreter runs, or a program of its own; others are left to time."""
    is_own = contender.program is None or "/" in contender.program.arguments[0]
    return is_own and not contender.options.interpreter


def _counts(track: Track, stage: str | None, until: float, crew: Crew, seed: int, is_free: bool) -> Iterator[AnyRecord]:
    """Work at size after size, until time is up or a size is dear; sizes that were asked for are the only ones."""
    name, family = track.contender.name, track.family.name
    taken: list[tuple[Number, int, dict[str, int]]] = []
    unseen, is_unknown = "", False
    last = 0.0
    program = track.contender.program is not None
    climbed = sorted(track.steps)
    sizes = few(track, until - time.monotonic()) if program else ladder(climbed) if is_free else climbed
    for size in sizes:
        begun = time.monotonic()
        if begun + 2.0 * last > until and len(taken) > LEAST:
            break
        for number in range(1 if program else INSTANCES):
            spent = time.monotonic() - begun
            if number >= LEAST and (spent > AGAIN or time.monotonic() > until):
                break
            try:
                limit = LATE + min(DEAR + 4.0, max(until - time.monotonic(), 0.0))
                reply = crew.ask(name, Count(family, size, seed + number, stage, "work"), Counted, limit)
            except Failed as failed:
                if failed.reason == "uncounted":
                    unseen = failed.detail if failed.detail == MISSING else ""
                    taken.clear()
                until = 0.0
                break
            taken.append((size, number + 1, reply.values))
            unseen, is_unknown = unseen or reply.unseen, is_unknown or reply.unknown
        last = time.monotonic() - begun
        if (last > DEAR and not program) or not until:
            break
    if unseen:
        yield Note(topic="work", text=unseen, contender=name, family=family)
    for size, heat, values in taken:
        value = values["steps"] if is_unknown else values["work"]
        yield Trial(
            contender=name,
            family=family,
            size=size,
            stage=stage,
            metric=WORK,
            heat=heat,
            seed=seed + heat - 1,
            value=value,
        )


def few(track: Track, seconds: float) -> list[Number]:
    """Some sizes of a program, spread over those whose calls are short: each takes half a second to count."""
    short = [size for size in sorted(track.steps) if track.call(size) < QUICK]
    many = min(RUNS, int(seconds / RUN), len(short))
    return [short[round(at * (len(short) - 1) / (many - 1))] for at in range(many)] if many > LEAST else []


def ladder(sizes: list[Number]) -> list[Number]:
    """The sizes to count at: those that were climbed, and where they are few, whole ones between them."""
    if len(sizes) >= SIZES or len(sizes) < 2:
        return sizes
    made = {*sizes}
    at = float(sizes[0])
    while at < sizes[-1]:
        made.add(round(at))
        at = max(at * BETWEEN, at + 1)
    return sorted(made)
