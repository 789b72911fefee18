"""Whose time it was: how long a thread ran, and how long it stood in the queue for a processor.

Where other programs want the same processor, time passes that is nobody's cost. Linux tells for each thread how long it
ran and how long it could have run but had to wait for a processor (`schedstat`, both in nanoseconds). Own time is what
is left of the clock's without that queue,

    own = max(processor time, wall time − queue)

A reading of the queue may fall a little before that of the clock, so wall time less the queue may be too small; and
processor time alone leaves out sleeping, locks and input, which are the contender's own cost. Threads that take turns,
as those of one interpreter do, are alike: each stands in the queue while none of the others runs. Where more than one
runs at a time, wall time stands.
"""

from __future__ import annotations

import contextlib
import os
from collections.abc import Callable
from pathlib import Path
from time import thread_time_ns

TOGETHER = 1.1  # threads that run on average, from which on several work at once


class ThreadQueue:
    """Nanoseconds that the thread which makes this has stood in the queue; None where the system does not tell."""

    def __init__(self) -> None:
        self.file: int | None = None
        with contextlib.suppress(OSError):
            self.file = os.open("/proc/thread-self/schedstat", os.O_RDONLY)

    def read(self) -> int | None:
        """The reading now; about a microsecond."""
        if self.file is None:
            return None
        return int(os.pread(self.file, 100, 0).split()[1])

    def close(self) -> None:
        """Let the file go."""
        if self.file is not None:
            os.close(self.file)
            self.file = None


def of_process(process: int) -> tuple[int, int] | None:
    """Nanoseconds that all threads of a process ran, and that they stood in the queue, those that ended left out.

    None where the system does not tell. A process that has ended and is not waited for yet can be read, too.
    """
    ran = queued = 0
    try:
        for thread in os.listdir(f"/proc/{process}/task"):  # noqa: PTH208 - read before and after every trial
            with contextlib.suppress(FileNotFoundError, ProcessLookupError):
                one, other, _ = Path(f"/proc/{process}/task/{thread}/schedstat").read_bytes().split()
                ran, queued = ran + int(one), queued + int(other)
    except (OSError, ValueError):
        return None
    return ran, queued


def own_time(wall: float, ran: float | None, queued: float | None) -> float:
    """What of a time was the contender's own; all in one unit.

    >>> own_time(60, ran=20, queued=40), own_time(60, ran=20, queued=10), own_time(60, ran=20, queued=None)
    (20, 50, 60)
    >>> own_time(60, ran=100, queued=20)  # several processors at once
    60
    """
    if queued is None or ran is None or ran > TOGETHER * wall:
        return wall
    return min(wall, max(ran, wall - queued))


def own_timing(timing: Callable[[], int]) -> float:
    """Nanoseconds of a timing in this thread that were its own; it tells what passed."""
    queue = ThreadQueue()
    before, ran = queue.read(), thread_time_ns()
    passed = timing()
    ran, after = thread_time_ns() - ran, queue.read()
    queue.close()
    return own_time(passed, ran, None if before is None or after is None else min(after - before, max(passed - ran, 0)))
