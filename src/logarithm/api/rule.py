"""When a run stops: the analysis looks at what is measured between two processes. It is loaded beside the rehearsal."""

from __future__ import annotations

import importlib
import threading
from typing import TYPE_CHECKING

from ..results.questions import Look, Remaining

if TYPE_CHECKING:
    from ..logbook.memory import Logbook
    from ..statistics.stopping.rule import StoppingRule


class LoadedLater:
    """The stopping rule of a run, loaded in a thread of its own; `last` is what was seen last."""

    def __init__(self) -> None:
        self.last = Look()
        self._rule: StoppingRule | None = None
        module = "logarithm.statistics.stopping.rule"
        threading.Thread(target=importlib.import_module, args=(module,), daemon=True).start()

    def __call__(self, logbook: Logbook, remaining: Remaining) -> Look:
        """What is settled, and what the rest of the run is for."""
        from ..statistics.stopping.rule import StoppingRule

        self._rule = self._rule or StoppingRule()
        self.last = self._rule(logbook, remaining)
        return self.last
