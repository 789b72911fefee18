"""Searching for the worst cases of a contender, size after size.

Each size begins with the pattern that was found at the size before, stretched to it. Small sizes are climbed with many
tries, which are cheap there; larger ones show how the pattern grows.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from itertools import pairwise
from pathlib import Path
from typing import Any

import msgspec

from ...notation.metrics import metric_of
from ...protocol import clock
from ...protocol.replies import Searched
from ...protocol.requests import Search
from ...study.parts import Contender, Family
from ...study.study import Study
from ...supervisor.failed import Failed
from ...supervisor.pool import WorkerPool
from .parallel import counting_pool

SIZES = (8, 12, 16, 24, 32, 48, 64)  # that are climbed
FURTHER = (96, 128, 192, 256, 384, 512, 768, 1024)  # to which the pattern is stretched
TRIES, TRIES_MOST = 6400, 600  # changes at a size n: so many over n
TRY_S_MOST = 2.0  # seconds of a count at most
SLACK = 30.0  # seconds beyond what a search may be expected to take


@dataclass(slots=True)
class Worst:
    """What was found of one contender on one family, stage by stage.

    Attributes:
        contender, family, stage: who, on what.
        found: by size.
        why: why it ended where it did; empty where it came to the last size.
    """

    contender: str
    family: str
    stage: str | None
    found: dict[int, Searched] = field(default_factory=dict)
    why: str = ""

    @property
    def tries(self) -> int:
        """How many instances were tried, at all sizes together."""
        return sum(each.tries for each in self.found.values())


def tries_at(size: int) -> int:
    """How many changes are tried at a size.

    >>> tries_at(8), tries_at(64), tries_at(100)
    (600, 100, 64)
    """
    return min(TRIES_MOST, TRIES // size)


def is_large(found: Searched, metric: str) -> bool:
    """Whether it is so much that a further size would take long: a matter of counts, so that it is steady."""
    return (found.most or 0.0) > metric_of(metric).large


class SearchJob(msgspec.Struct, frozen=True):
    """Search for the worst case of one contender.

    Attributes:
        contender, families: who, on what.
        metric: what is counted.
        seconds: that this may take in all.
        seed: the same one gives the same result, as long as the time is enough.
        sizes: those to climb, in place of the usual ones; then the pattern is stretched no further.
    """

    contender: str
    families: tuple[str, ...]
    metric: str
    seconds: float
    seed: int
    sizes: tuple[int, ...] | None = None


def search(study: Study, study_file: Path, job: SearchJob) -> list[Worst]:
    """Search for the worst case of a contender on each of its families and stages.

    Raises:
        MeasuringError: where its worker does not start.
    """
    begun = clock.seconds()
    contender = study.the_contender(job.contender)
    climbed, further = (job.sizes, ()) if job.sizes is not None else (SIZES, FURTHER)
    plan = [(size, tries_at(size)) for size in climbed] + [(size, 0) for size in further]
    places = [(study.the_family(name), stage) for name in job.families for stage in contender.counted_stages]
    found = []
    with counting_pool(study, study_file, [contender], job.seed, None) as pool:
        for number, (family, stage) in enumerate(places, start=1):
            until = begun + job.seconds * number / len(places)
            found.append(_climbed(contender, family, stage, job.metric, plan, pool, job.seed, until))
    return found


def _climbed(
    contender: Contender,
    family: Family,
    stage: str | None,
    metric: str,
    plan: list[tuple[int, int]],
    pool: WorkerPool,
    seed: int,
    until: float,
) -> Worst:
    worst = Worst(contender.name, family.name, stage)
    starts: list[Any] = []
    for size, tries in plan:
        last = next(reversed(worst.found.values()), None)
        if last is not None and (clock.seconds() > until or (not tries and is_large(last, metric))):
            worst.why = f"the budget ended the search at n = {max(worst.found)}" if tries else ""
            break
        limit = max(until - clock.seconds(), 1.0) + SLACK
        request = Search(family.name, size, seed, stage, metric, tries, TRY_S_MOST, starts)
        try:
            found = pool.ask(contender.name, request, Searched, limit)
        except Failed as failed:
            worst.why = f"the search ended at n = {size}: {failed.reason} ({failed.detail})"
            break
        if found.reason:
            worst.why = f"nothing can be counted at n = {size}: {found.reason} ({found.detail})"
            break
        worst.found[size] = found
        starts = [found.worst] if found.worst is not None else []
    _back(worst, family, stage, metric, pool, seed)
    return worst


def _back(worst: Worst, family: Family, stage: str | None, metric: str, pool: WorkerPool, seed: int) -> None:
    """Take each pattern back to the smaller sizes: what was found late would else look like steeper growth."""
    sizes = sorted(worst.found, reverse=True)
    for larger, size in pairwise(sizes):
        pattern = worst.found[larger].worst
        if pattern is None:
            continue
        request = Search(family.name, size, seed, stage, metric, 0, TRY_S_MOST, [pattern])
        try:
            found = pool.ask(worst.contender, request, Searched, TRY_S_MOST * len(sizes) + SLACK)
        except Failed:
            return
        before = worst.found[size]
        if found.most is not None and found.most > (before.most or 0.0):
            found.tries, found.refused = found.tries + before.tries, found.refused + before.refused
            found.least = min(each for each in (found.least, before.least) if each is not None)
            worst.found[size] = found
