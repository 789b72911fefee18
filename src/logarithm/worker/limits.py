"""What a worker process does to itself before any code under study runs: its streams, its limits, its threads seen."""

from __future__ import annotations

import contextlib
import faulthandler
import os
import sys
import threading
from collections.abc import Callable
from typing import Any, BinaryIO

from ..protocol import clock
from ..protocol.requests import Limits

PROCESSES_MOST, OPEN_MOST, FILE_MOST = 64, 256, 16 * 2**20  # what handed-in code may start, open and write
HELPED_LEAST, HELPED_SHARE = 5_000_000, 0.02  # ns of processor time in other threads, and beside that of this thread
ADDRESSES = 4 * 2**30  # bytes of addresses that libraries may set aside beyond the memory


def private_streams() -> tuple[BinaryIO, BinaryIO]:
    """Keep the pipes to the supervisor for ourselves, and let descriptors 0, 1 and 2 lead nowhere."""
    requests, replies = os.dup(0), os.dup(1)
    # Where the interpreter itself breaks down, it says on which line.
    with contextlib.suppress(OSError, ValueError):
        faulthandler.enable(os.fdopen(os.dup(2), "wb", 0), all_threads=False)
    nowhere = os.open(os.devnull, os.O_RDWR)
    for descriptor in (0, 1, 2):
        os.dup2(nowhere, descriptor)
    os.close(nowhere)
    return os.fdopen(requests, "rb"), os.fdopen(replies, "wb")


def pin(limits: Limits) -> bool:
    """Stay on one processor, where the supervisor says so and the system can."""
    if limits.processor is not None and hasattr(os, "sched_setaffinity"):
        with contextlib.suppress(OSError):
            os.sched_setaffinity(0, {limits.processor})
    return True


def limiting() -> Any:
    """The module by which a process limits itself; None on systems that have none, as Windows."""
    try:
        import resource
    except ImportError:
        return None
    return resource


def bound_memory(limits: Limits) -> None:
    """Stay within the memory that the supervisor allows, where the system has such limits."""
    resource = limiting()
    if limits.memory and resource is not None:
        # Linux counts what a process really fills its own pages with; elsewhere the address space must do.
        kind = resource.RLIMIT_DATA if sys.platform == "linux" else resource.RLIMIT_AS
        with contextlib.suppress(OSError, ValueError):
            resource.setrlimit(kind, (int(limits.memory), resource.getrlimit(kind)[1]))


def fence(limits: Limits, sandboxed: bool) -> None:
    """Keep code that was handed in from filling the disk and from starting processes without end.

    In a sandbox the user is one that nobody else is; elsewhere a bound on processes would count those of everyone.
    """
    resource = limiting()
    if resource is None:
        return
    bounds = [(resource.RLIMIT_MSGQUEUE, 0)] if hasattr(resource, "RLIMIT_MSGQUEUE") else []
    bounds += [(resource.RLIMIT_FSIZE, FILE_MOST), (resource.RLIMIT_CORE, 0), (resource.RLIMIT_NOFILE, OPEN_MOST)]
    if sandboxed:
        bounds.append((resource.RLIMIT_NPROC, PROCESSES_MOST))
    if limits.memory:  # shared memory is no data of a process, but it needs addresses
        bounds.append((resource.RLIMIT_AS, int(limits.memory) + ADDRESSES))
        if sys.platform == "linux":  # for good: what may be raised again is no bound
            bounds.append((resource.RLIMIT_DATA, int(limits.memory)))
    for kind, most in bounds:
        with contextlib.suppress(OSError, ValueError):
            resource.setrlimit(kind, (most, most))


def threads_now() -> int:
    """How many threads this process has at the moment, those of libraries included."""
    try:
        return sum(1 for _ in os.scandir("/proc/self/task"))
    except OSError:
        return threading.active_count()


def watch_helpers() -> Callable[[], bool]:
    """Watch from now on for threads and child processes that work beside this thread. Returns a function that tells.

    They are Python's, or those of a library, which may have started them while it was loaded: linear algebra does.
    Work counts, so that what a study's module started while it was imported, such as a compiler, is no part of a call.
    """
    count, before, idle, begun = [0], of_children(), clock.busy_elsewhere(), clock.busy_here()
    start = threading.Thread.start

    def counted(thread: threading.Thread) -> None:
        count[0] += 1
        start(thread)

    threading.Thread.start = counted  # type: ignore[method-assign,assignment]

    def helped() -> bool:
        bound = max(HELPED_LEAST, HELPED_SHARE * (clock.busy_here() - begun))
        return count[0] > 0 or of_children() != before or clock.busy_elsewhere() - idle > bound

    return helped


def of_children() -> object:
    """What the child processes that were waited for have used; it changes with each that ends."""
    resource = limiting()
    return None if resource is None else resource.getrusage(resource.RUSAGE_CHILDREN)


def die_with_parent() -> None:
    """Ask Linux to end this process with its supervisor, even while it is stuck in a call."""
    if sys.platform == "linux":
        import ctypes
        import signal

        with contextlib.suppress(OSError, AttributeError):
            ctypes.CDLL(None).prctl(1, signal.SIGKILL)  # 1 is PR_SET_PDEATHSIG
