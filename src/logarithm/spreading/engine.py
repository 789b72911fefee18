"""The engine that is this machine, and needs nothing; `cluster` has another."""

from __future__ import annotations

import os
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor, as_completed
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ..measuring.gathering.engine import Function
from ..study.study import Study


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
        """Each job with what came of it; faults of a job are raised."""
        with ThreadPoolExecutor(1 if alone else self.places) as pool:
            done = {pool.submit(function, self.study, self.study_file, job): job for job in jobs}
            for future in as_completed(done):
                yield done[future], future.result()
