"""The executor that is this machine, and needs nothing; `cluster` has another."""

from __future__ import annotations

import os
import time
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor, as_completed
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ..run.executor import Executor, Function
from ..study.study import Study
from ..supervisor.worker import end_all

POLL = 0.05  # seconds between two looks at whether the last job has ended


@dataclass(slots=True)
class Here:
    """Does jobs on this machine. Contenders run in processes of their own, so threads are enough to ask them."""

    study: Study
    study_file: Path

    @property
    def places(self) -> int:
        """How many processors there are."""
        return os.cpu_count() or 1

    def each(
        self,
        function: Function,
        jobs: Sequence[Any],
        kind: Any,
        alone: bool = False,
    ) -> Iterator[tuple[Any, Any]]:
        """Each job with what came of it; faults of a job are raised, and end the others."""
        pool = ThreadPoolExecutor(1 if alone else self.places)
        try:
            done = {pool.submit(function, self.study, self.study_file, job): job for job in jobs}
            for future in as_completed(done):
                yield done[future], future.result()
        except BaseException:  # also where we are interrupted, or nobody wants the rest
            pool.shutdown(wait=False, cancel_futures=True)
            while any(future.running() for future in done):
                end_all()
                time.sleep(POLL)
            raise
        pool.shutdown()


@contextmanager
def executor_at(on: str | None, study: Study, file: Path) -> Iterator[Executor]:
    """Where work is done: here, or on a cluster.

    Args:
        on: the address of a cluster's scheduler, or "local" to start one here; None does it here without one.
        study, file: what the work belongs to.
    """
    if on is None:
        yield Here(study, file)
        return
    from .cluster import cluster

    with cluster(on, study, file) as executor:
        yield executor
