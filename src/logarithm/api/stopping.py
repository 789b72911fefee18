"""What a run is told between two lives: the analysis looks at its logbook, and its words are found here."""

from __future__ import annotations

import importlib
import threading
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from ..run.plan.advice import Advised, Prospect
    from ..statistics.stopping.rule import Look


@dataclass(slots=True)
class Adviser:
    """Looks at a logbook between two lives. The analysis is loaded when it is first asked.

    Attributes:
        last: what was seen last, for those who watch.
    """

    last: Look | None = None
    _watch: Any = field(default=None)

    def prepare(self) -> None:
        """Load the analysis beside the rehearsal, so that the first look need not wait for it."""
        threading.Thread(
            target=importlib.import_module, args=("logarithm.statistics.stopping.rule",), daemon=True
        ).start()

    def __call__(self, logbook: Path, prospect: Prospect) -> Advised:
        """What the rest of a run is for."""
        from ..logbook.reading import read_logbook
        from ..report.contents.unsettled import asked_in_words, purpose
        from ..run.plan.advice import Advised
        from ..statistics.stopping.rule import LIVES_LEAST, Watch

        self._watch = self._watch or Watch()
        look: Look = self._watch.look(read_logbook(logbook), prospect)
        self.last = look
        early = look.lives < LIVES_LEAST
        return Advised(
            over=look.over,
            unsettled=tuple(asked_in_words(each) for each in look.unsettled),
            points=None if early else frozenset(look.points),
            between=look.between,
            larger=look.larger,
            counts=frozenset(look.counts),
            why="" if early else purpose(look.asked),
        )
