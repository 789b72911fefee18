"""A walk: what a contender does on one small instance, event by event."""

from __future__ import annotations

from pathlib import Path

from ..errors import LogarithmError
from ..protocol import replies, requests
from ..results.tasks.walk import Walk
from ..study.study import Study
from ..supervisor.failed import Failed
from ..supervisor.limits import limits
from ..supervisor.pool import WorkerPool

WALK_S_MOST = 30.0  # seconds that one call may take


def follow(study: Study, file: Path, contender: str, family: str, size: int, seed: int) -> Walk:
    """Follow a contender on one instance.

    Raises:
        LogarithmError: where the contender fails.
    """
    pool = WorkerPool(study, file, [study.the_contender(contender)], seed, limits(1), set())
    try:
        found = pool.ask(contender, requests.Walk(family, size, seed), replies.Walked, WALK_S_MOST)
    except Failed as failed:
        raise LogarithmError(f"{contender} fails: {failed.reason} ({failed.detail})") from None
    finally:
        pool.end()
    told = found.answer, found.failure, found.source, found.first, found.cut
    return Walk(contender, family, size, found.events, *told)
