"""The study as Python users have it: it measures itself. Everything heavy loads when it is asked to."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from .study.study import Study as Plan

if TYPE_CHECKING:
    from .notebook import ShownFindings


class Study(Plan):
    """A question about several implementations of one job; see `logarithm.study.study.Study`.

    >>> study = Study("tide-gauge", sizes="8..64 *2")
    >>> study.name
    'tide-gauge'
    """

    def measure(self, budget: str = "60s", *, out: str | Path | None = None, **settings: Any) -> ShownFindings:
        """Measure into a logbook until everything is settled, and return what was found.

        Works in a script, under `if __name__ == "__main__":`, and in a notebook, with functions defined in its cells.

        Args:
            budget: the most that it may take.
            out: the logbook to write; `logbooks/NAME-….jsonl` if none is named.
            settings: as the command line has them: `ceiling`, `sizes`, `family`, `only`, `metric`, `seed`, `anyway`,
                `memory`, `same`, `whole`, and `quiet`.

        Raises:
            StudyError: where the study cannot be used, or its functions cannot go along to other processes.
            DisagreementError: where contenders disagree.
            MeasuringError: where nothing can be measured.
        """
        from .notebook import measured

        return measured(self, budget, out, **settings)

    def rehearse(self, sizes: str | None = None) -> str:
        """Do the contenders agree, and which traps are there? Returns it as text; nothing is measured.

        Raises:
            StudyError: where the study cannot be used.
        """
        from .notebook import rehearsed

        return rehearsed(self, sizes)
