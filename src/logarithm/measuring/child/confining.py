"""What a worker process does to itself before any code under study runs: its streams, its limits, its threads seen."""

from __future__ import annotations

import contextlib
import os
import sys
import threading
from collections.abc import Callable
from typing import BinaryIO

from ..shared.messages import Limits

PROCESSES_MOST, FILE_MOST = 64, 16 * 2**20  # what code that was handed in may start and write
NEW_NETWORK, NEW_USER = 0x40000000, 0x10000000


def private_streams() -> tuple[BinaryIO, BinaryIO]:
    """Keep the pipes to the parent for ourselves, and let descriptors 0, 1 and 2 lead nowhere."""
    requests, replies = os.dup(0), os.dup(1)
    nowhere = os.open(os.devnull, os.O_RDWR)
    for descriptor in (0, 1, 2):
        os.dup2(nowhere, descriptor)
    os.close(nowhere)
    return os.fdopen(requests, "rb"), os.fdopen(replies, "wb")


def pin(limits: Limits) -> bool:
    """Stay on one processor, where the parent says so and the system can."""
    if limits.processor is not None and hasattr(os, "sched_setaffinity"):
        with contextlib.suppress(OSError):
            os.sched_setaffinity(0, {limits.processor})
    return True


def bound_memory(limits: Limits) -> None:
    """Stay within the memory that the parent allows, where the system has such limits."""
    if limits.memory and sys.platform != "win32":
        import resource

        # Linux counts what a process really fills its own pages with; elsewhere the address space must do.
        kind = resource.RLIMIT_DATA if sys.platform == "linux" else resource.RLIMIT_AS
        with contextlib.suppress(OSError, ValueError):
            resource.setrlimit(kind, (int(limits.memory), resource.getrlimit(kind)[1]))


def fence() -> None:
    """Keep code that was handed in from filling the disk, from starting processes without end, and from the network.

    As far as the system allows; what it does not is left as it is.
    """
    if sys.platform == "win32":
        return
    import resource

    bounds = [(resource.RLIMIT_FSIZE, FILE_MOST), (resource.RLIMIT_CORE, 0)]
    # For the superuser, whom everything on the machine belongs to, a number of processes is no bound.
    if hasattr(os, "geteuid") and os.geteuid() != 0:
        bounds.append((resource.RLIMIT_NPROC, PROCESSES_MOST))
    for kind, most in bounds:
        with contextlib.suppress(OSError, ValueError):
            resource.setrlimit(kind, (most, most))
    if sys.platform == "linux":
        import ctypes

        with contextlib.suppress(OSError, AttributeError):
            library = ctypes.CDLL(None)
            # A network of its own, with nobody else in it.
            if library.unshare(NEW_NETWORK) != 0:
                library.unshare(NEW_USER | NEW_NETWORK)


def threads_now() -> int:
    """How many threads this process has at the moment, those of libraries included."""
    try:
        return sum(1 for _ in os.scandir("/proc/self/task"))
    except OSError:
        return threading.active_count()


def count_thread_starts() -> Callable[[], int]:
    """Count the threads and child processes that the code under study starts. Returns a function that tells."""
    count = [0]
    start = threading.Thread.start

    def counted(thread: threading.Thread) -> None:
        count[0] += 1
        start(thread)

    threading.Thread.start = counted  # type: ignore[method-assign,assignment]
    return lambda: count[0] + children_ended()


def children_ended() -> int:
    """Whether any child process was waited for: 1 or 0."""
    if sys.platform == "win32":
        return 0
    import resource

    return int(resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss > 0)


def die_with_parent() -> None:
    """Ask Linux to end this process with its parent, even while it is stuck in a call."""
    if sys.platform == "linux":
        import ctypes
        import signal

        with contextlib.suppress(OSError, AttributeError):
            ctypes.CDLL(None).prctl(1, signal.SIGKILL)  # 1 is PR_SET_PDEATHSIG
