"""Counting side by side: each contender in a process other than those that are timed, on all processors at once."""

from __future__ import annotations

import os
import queue
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path

from ...logbook.records import AnyRecord
from ...protocol import clock
from ...study.parts import Contender
from ...study.study import Study
from ...supervisor.limits import limits
from ...supervisor.pool import WorkerPool
from ...supervisor.templates import Templates
from ..plan.track import Track

Counts = Callable[[Track, str | None, float], Iterable[AnyRecord]]
"""The records of a stage of a track, none begun after a reading of `clock.seconds`."""
Job = tuple[Contender, list[Track], float, Counts]
"""A contender, its tracks, the seconds that it has, and what counts one stage of one track."""


@contextmanager
def counting_pool(
    study: Study,
    study_file: Path,
    contenders: list[Contender],
    seed: int,
    memory: float | None,
    templates: Templates | None = None,
) -> Iterator[WorkerPool]:
    """Workers for these contenders that are kept to no processor; they are let go at the end.

    Where there are `templates`, each is forked from these when it is first asked: so what runs beside it is not slowed.

    Raises:
        MeasuringError: where one does not start.
    """
    bounds = limits(len(contenders), memory)
    at_once = contenders if templates is None else []
    free = {contender.name for contender in contenders}
    pool = WorkerPool(study, study_file, at_once, seed, bounds, free, templates)
    try:
        pool.greet()
        yield pool
    finally:
        pool.end()


def each_share(seconds: float, contenders: list[Contender]) -> float:
    """The seconds of one contender, where as many as there are processors are counted at once."""
    return seconds * min(os.cpu_count() or 1, len(contenders)) / len(contenders)


def side_by_side(jobs: list[Job]) -> Iterator[AnyRecord]:
    """The records of all jobs as they come."""
    records: queue.SimpleQueue[AnyRecord | None] = queue.SimpleQueue()
    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        for job in jobs:
            pool.submit(_one, *job, records)
        for _ in jobs:
            while (record := records.get()) is not None:
                yield record


def _one(
    contender: Contender,
    tracks: list[Track],
    seconds: float,
    counts: Counts,
    records: queue.SimpleQueue[AnyRecord | None],
) -> None:
    """Count one contender, for so many seconds at the most; a None says that there is no more."""
    places = [(track, stage) for track in tracks for stage in contender.counted_stages]
    try:
        end = clock.seconds() + seconds
        for number, (track, stage) in enumerate(places):
            # What one place took too much is not all taken from the next.
            now, share = clock.seconds(), seconds / len(places)
            until = now + max((end - now) / (len(places) - number), share / 2)
            for record in counts(track, stage, until):
                records.put(record)
    finally:
        records.put(None)
