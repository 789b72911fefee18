"""Readings around the timings of a trial: processor time, and the queue for a processor; see `protocol.scheduling`."""

from __future__ import annotations

import os

from ..protocol import clock
from ..protocol.scheduling import ThreadQueue, of_process

READING_MOST = 20_000  # nanoseconds for all readings around a timing


class OwnTime:
    """What the timings of one trial had of the processor, added up, in nanoseconds.

    Attributes:
        ran: processor time.
        queued: time in which the contender could have run, but others had the processor; None where it is not told.
        has_threads: whether the contender has or starts threads or processes, whose time is to be read too.
    """

    def __init__(self) -> None:
        self.has_threads = False
        self.queue = ThreadQueue()
        self._begun = self._ran = 0
        self._queued: int | None = None
        self.begin()

    def begin(self) -> None:
        """Begin a trial."""
        self.ran = 0
        self.queued: int | None = None if self.queue.file is None else 0
        self._all = of_process(os.getpid()) if self.has_threads else None

    def before(self) -> None:
        """Read right before a timing."""
        self._begun, self._queued, self._ran = clock.now(), self.queue.read(), self._processor()

    def after(self, took: int, aside: int = 0) -> None:
        """Read right after a timing of so many nanoseconds, those included that were spent on something else.

        The queue is read before the clock, and after it. Reading takes some microseconds; what is more of the time
        around a timing was spent in the queue, and is no part of it.
        """
        ran = max(self._processor() - self._ran - aside, 0)
        queued = self.queue.read()
        around = clock.now() - self._begun - took
        self.ran += ran
        if queued is not None and self._queued is not None and self.queued is not None:
            outside = max(around - READING_MOST, 0)
            self.queued += max(min(queued - self._queued - outside, took - aside - ran), 0)

    def end(self) -> None:
        """End a trial. Of several threads, all their queues are told."""
        after = of_process(os.getpid()) if self._all is not None else None
        if after is not None and self._all is not None:
            self.queued = max(after[1] - self._all[1], 0)

    def _processor(self) -> int:
        # While a timer of processor time is set, as in a long trial, the system tells that of a process in coarse
        # steps.
        return clock.busy() if self.has_threads else clock.busy_here()
