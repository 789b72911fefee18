"""What does jobs somewhere: whoever has work to be done asks one, and does not know where it is done."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Protocol

from ..study.study import Study

Function = Callable[[Study, Path, Any], Any]
"""Does one job of a study: given the study, its file and the job; at the top of a module, so that it can be named."""


@dataclass(frozen=True, slots=True)
class Lost:
    """What came of a job that could not be done: why not, in a line."""

    reason: str


class Executor(Protocol):
    """Does jobs somewhere."""

    @property
    def places(self) -> int:
        """How many jobs are done at once."""

    def each(
        self, function: Function, jobs: Sequence[Any], kind: Any, alone: bool = False
    ) -> Iterator[tuple[Any, Any]]:
        """Each job with what came of it, in the order in which they end.

        Args:
            function: does one.
            jobs: plain values that `msgspec` can write down.
            kind: the type of what comes of one, by which it is read back.
            alone: whether nothing else may be done on the same machine meanwhile.
        """
