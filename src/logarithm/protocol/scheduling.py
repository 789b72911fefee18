"""Whose time it was: how long a thread ran, and how long it stood in the queue for a processor.

Where other programs want the same processor, time passes that is nobody's cost. Linux tells for each thread how long it
ran and how long it could have run but had to wait for a processor (`schedstat`, both in nanoseconds). Own time is what
is left of the clock's without that queue,

    own = max(processor time, wall time − queue)

A thread that never gave the processor up by itself has waited for nothing. Then all time in which it did not run was
taken from it, also by what no queue tells of: the host of a virtual machine, a quota. Linux counts how often a thread
gave the processor up by itself (`voluntary_ctxt_switches`, `ru_nvcsw`), and leaves what the host took out of the time
that a thread ran.

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

try:
    import resource
except ImportError:  # Windows has none
    resource = None  # type: ignore[assignment]

TOGETHER = 1.1  # threads that run on average, from which on several work at once
_USAGE = None if resource is None else resource.getrusage  # taken before any code under study runs
_OURS = getattr(resource, "RUSAGE_THREAD", getattr(resource, "RUSAGE_SELF", 0))


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


def waits() -> int | None:
    """How often this thread gave the processor up by itself so far; None where the system does not tell."""
    return None if _USAGE is None else _USAGE(_OURS).ru_nvcsw


def waits_of(process: int) -> int | None:
    """How often a process gave the processor up by itself so far, the wait that it is in included.

    None where it does not wait now, has several threads, has ended, or the system does not tell.
    """
    told = {}
    with contextlib.suppress(OSError):
        for line in Path(f"/proc/{process}/status").read_bytes().splitlines():
            name, _, value = line.partition(b":")
            told[name] = value.split()
    if told.get(b"Threads") != [b"1"] or told.get(b"State", [b""])[0] != b"S":
        return None
    count = told.get(b"voluntary_ctxt_switches")
    return int(count[0]) if count else None


def may_have_waited(before: int | None, after: int | None, usual: int = 0) -> bool:
    """Whether there were other waits between two counts of them than are `usual`, or that is not told."""
    return before is None or after is None or after - before != usual


def queue_of(idle: int, told: int | None, waited: bool) -> int | None:
    """What of the time in which a thread did not run it could have run; all in nanoseconds.

    Args:
        idle: the time in which it did not run.
        told: what the system tells of the queue; None where it does not.
        waited: whether the thread may have waited by itself.

    >>> queue_of(30, 10, waited=True), queue_of(30, 10, waited=False), queue_of(30, None, waited=True)
    (10, 30, None)
    """
    if not waited:
        return max(idle, 0)
    return None if told is None else max(min(told, idle), 0)


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
    queue, waited = ThreadQueue(), waits()
    before, ran = queue.read(), thread_time_ns()
    passed = timing()
    ran, after = thread_time_ns() - ran, queue.read()
    queue.close()
    told = None if before is None or after is None else after - before
    return own_time(passed, ran, queue_of(passed - ran, told, may_have_waited(waited, waits())))
