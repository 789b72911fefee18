"""What is done to processes of others: ending them with all they started, bounding them, looking at their memory."""

from __future__ import annotations

import contextlib
import os
import signal
import subprocess
import sys
from collections.abc import Iterator
from functools import cache
from pathlib import Path

import psutil

from ..protocol.requests import Limits
from .templates import ForkedProcess

PAGE = os.sysconf("SC_PAGE_SIZE") if hasattr(os, "sysconf") else 4096


def end_with_children(process: subprocess.Popen[bytes] | ForkedProcess) -> None:
    """End a process, its group, and every process that it or they started, and wait for it."""
    left = family_of(process.pid)
    end_group(process.pid)
    for each in left:
        with contextlib.suppress(psutil.Error):
            each.kill()
    with contextlib.suppress(OSError):
        process.kill()
    with contextlib.suppress(subprocess.TimeoutExpired):
        process.wait(timeout=5)


def end_group(group: int) -> None:
    """End all processes of a group; where the system has no groups, the first one and what it started."""
    if hasattr(os, "killpg"):
        with contextlib.suppress(OSError):
            os.killpg(group, signal.SIGKILL)
        return
    for each in family_of(group):
        with contextlib.suppress(psutil.Error):
            each.kill()


def halt(group: int, wanted: bool) -> None:
    """Stop all processes of a group until they are let go on; where the system has no groups, those of a family."""
    if hasattr(os, "killpg") and hasattr(signal, "SIGSTOP"):
        with contextlib.suppress(OSError):
            os.killpg(group, signal.SIGSTOP if wanted else signal.SIGCONT)
        return
    for each in family_of(group):
        with contextlib.suppress(psutil.Error, AttributeError):  # a system may have neither groups nor these
            each.suspend() if wanted else each.resume()


def family_of(pid: int) -> list[psutil.Process]:
    """A process and all that it and they started, as far as they still run."""
    found = []
    for each in pids_of(pid):
        with contextlib.suppress(psutil.Error):
            found.append(psutil.Process(each))
    return found


def pids_of(pid: int) -> list[int]:
    """The numbers of a process and of all that it and they started, as far as they still run."""
    if not _tells_children():
        with contextlib.suppress(psutil.Error):
            return [pid, *(each.pid for each in psutil.Process(pid).children(recursive=True))]
        return []
    found, left = [], [pid]
    while left:
        each = left.pop()
        found.append(each)
        with contextlib.suppress(OSError, ValueError):  # it has ended meanwhile
            for task in Path(f"/proc/{each}/task").iterdir():
                left += map(int, (task / "children").read_text(encoding="ascii").split())
    return found


@cache
def _tells_children() -> bool:
    """Whether the system tells the children of a process: to look through all processes takes far longer."""
    try:
        Path("/proc/thread-self/children").read_bytes()
    except OSError:
        return False
    return True


def held_by(pid: int) -> int:
    """Bytes of memory that a process and all that it started hold now; 0 where the system does not tell."""
    held = 0
    for each in pids_of(pid) if _tells_children() else [pid]:
        with contextlib.suppress(OSError, ValueError, IndexError):
            held += int(Path(f"/proc/{each}/statm").read_text(encoding="ascii").split()[1]) * PAGE
    return held


def bound(pid: int, limits: Limits, output_most: int) -> None:
    """Bound what a process may fill with memory and output, where the system lets others be bounded."""
    if sys.platform != "linux":
        return
    with contextlib.suppress(OSError, ValueError, ImportError):
        import resource

        # Twice what is read, so that a flood is told as one and not as a full disk.
        resource.prlimit(pid, resource.RLIMIT_FSIZE, (2 * output_most, 2 * output_most))
        if limits.memory:
            resource.prlimit(pid, resource.RLIMIT_DATA, (int(limits.memory), int(limits.memory)))


def peak_memory(pid: int) -> int:
    """The peak of resident bytes of a process that still runs; 0 where the system does not tell."""
    with contextlib.suppress(OSError, ValueError, IndexError):
        for line in Path(f"/proc/{pid}/status").read_text(encoding="ascii").splitlines():
            if line.startswith("VmHWM"):
                return int(line.split()[1]) * 1024
    with contextlib.suppress(psutil.Error):
        held = psutil.Process(pid).memory_info()
        return int(getattr(held, "peak_wset", held.rss))
    return 0


@contextlib.contextmanager
def on_processor(processor: int | None) -> Iterator[None]:
    """Be on one processor for a while: what is started meanwhile stays there."""
    if processor is None or not hasattr(os, "sched_setaffinity"):
        yield
        return
    before = os.sched_getaffinity(0)
    with contextlib.suppress(OSError):
        os.sched_setaffinity(0, {processor})
    try:
        yield
    finally:
        with contextlib.suppress(OSError):
            os.sched_setaffinity(0, before)
