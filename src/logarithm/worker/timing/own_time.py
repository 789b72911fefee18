"""Readings around the timings of a trial: processor time, and the queue for a processor; see `protocol.scheduling`.

Where a thread never gave the processor up by itself, all the time in which it did not run was the queue.
"""

from __future__ import annotations

import os
import threading

from ...protocol import clock
from ...protocol.scheduling import ThreadQueue, may_have_waited, of_process, queue_of, waits

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
        self.ended: list[int] = []
        self.queue = ThreadQueue()
        self._begun = self._ran = 0
        self._queued: int | None = None
        self._waits: int | None = None
        self.begin()

    def watch_threads(self) -> None:
        """Read the time of all threads from now on. One that ends leaves its queue behind, as the system forgets it."""
        if self.has_threads:
            return
        self.has_threads = True
        if self.queue.file is None:
            return
        bootstrap = threading.Thread._bootstrap_inner  # type: ignore[attr-defined]

        def watched(thread: threading.Thread) -> None:
            try:
                bootstrap(thread)
            finally:
                queue = ThreadQueue()
                self.ended.append(queue.read() or 0)
                queue.close()

        threading.Thread._bootstrap_inner = watched  # type: ignore[attr-defined]

    def begin(self) -> None:
        """Begin a trial."""
        self.ran = 0
        self.queued: int | None = 0
        self.ended.clear()
        self._others = self._queue_of_others() if self.has_threads else None

    def before(self) -> None:
        """Read right before a timing."""
        self._waits = waits()
        self._begun, self._queued, self._ran = clock.now(), self.queue.read(), self._processor()

    def after(self, took: int, aside: int = 0) -> None:
        """Read right after a timing of so many nanoseconds, those included that were spent on something else.

        The queue is read before the clock and, where the thread may have waited, after it. Reading takes some
        microseconds; what is more of the time around a timing was spent in the queue, and is no part of it.
        """
        ran = max(self._processor() - self._ran - aside, 0)
        waited = self.has_threads or may_have_waited(self._waits, waits())
        queued = self.queue.read() if waited else None
        around = clock.now() - self._begun - took
        self.ran += ran
        told = None
        if queued is not None and self._queued is not None:
            told = queued - self._queued - max(around - READING_MOST, 0)
        more = queue_of(took - aside - ran, told, waited)
        self.queued = None if more is None or self.queued is None else self.queued + more

    def end(self) -> None:
        """End a trial. What other threads stood in the queue is added."""
        after = self._queue_of_others() if self._others is not None else None
        if after is not None and self._others is not None and self.queued is not None:
            self.queued += max(after - self._others, 0)

    def _queue_of_others(self) -> int | None:
        """What all threads but this one stood in the queue so far, those included that ended in this trial."""
        every, own = of_process(os.getpid()), self.queue.read()
        return None if every is None or own is None else every[1] + sum(self.ended) - own

    def _processor(self) -> int:
        """Processor time so far."""
        # While a timer of processor time is set, as in a long trial, the system tells that of a process in coarse
        # steps.
        return clock.busy() if self.has_threads else clock.busy_here()
