"""Running a command from its start to its end, timed from outside. No shell ever reads its arguments."""

from __future__ import annotations

import os
import subprocess
import tempfile
import threading
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Any

import psutil

from ...errors import one_line
from ...protocol import clock
from ...protocol.requests import Limits
from ...protocol.scheduling import of_process, own_time
from ..failed import Failed, exit_of
from ..processes import bound, end_group, peak_memory
from .exchange import OUTPUT_MOST


@dataclass(frozen=True, slots=True)
class Ran:
    """What was seen of some calls: nanoseconds, those it ran and stood in the queue, the peak of bytes, the answer."""

    elapsed: int
    cpu: int | None
    queued: int | None
    peak: int
    answer: str

    @property
    def own(self) -> float:
        """Nanoseconds that were its own; see `protocol.scheduling`."""
        return own_time(self.elapsed, self.cpu, self.queued)


def run_once(command: list[str], folder: Path, limits: Limits, limit: float, watched: bool = False) -> Ran:
    """Run a command to its end; its standard output is the answer.

    The peak is looked at while it runs where it is `watched`, which costs time; else it is 0. What the system
    tells at the end will not do: it counts what this process held when it started the other.

    Raises:
        Failed: it cannot be started, exits with another code than 0, is ended by a signal, takes longer than `limit`
            seconds, or prints more than 16 MiB.
    """
    with tempfile.TemporaryFile() as out, tempfile.TemporaryFile() as errors:
        start = clock.now()
        process = started(command, folder, out, errors, subprocess.DEVNULL)
        held = peak_memory(process.pid) if watched else 0
        late = threading.Event()

        def stop() -> None:
            late.set()
            end_group(process.pid)

        bound(process.pid, limits, OUTPUT_MOST)
        watch = threading.Timer(limit, stop)
        watch.start()
        try:
            if watched:
                held = max(held, _watched_peak(process.pid))
            cpu, queued, elapsed = _waited(process, start)
        finally:
            watch.cancel()
            end_group(process.pid)
        if late.is_set():
            raise Failed("timeout", f"a call took more than {limit:.3g} s")
        if process.returncode:
            raise left(process.returncode, errors)
        out.seek(0)
        text = out.read(OUTPUT_MOST + 1)
        if len(text) > OUTPUT_MOST:
            raise Failed("floods", f"it prints more than {OUTPUT_MOST // 2**20} MiB")
        return Ran(elapsed, cpu, queued, held, text.decode("utf-8", "replace"))


def _waited(process: subprocess.Popen[bytes], start: int) -> tuple[int | None, int | None, int]:
    """Wait for the end of a process that began at a reading of the clock.

    Returns its nanoseconds of processor time, those in the queue, where the system tells them, and those that passed.
    """
    if not hasattr(os, "wait4"):
        process.wait()
        return None, None, clock.now() - start
    seen = None
    if hasattr(os, "waitid"):
        # Between its exit and its removal a process can still be asked.
        os.waitid(os.P_PID, process.pid, os.WEXITED | os.WNOWAIT)
        elapsed = clock.now() - start
        seen = of_process(process.pid)
    _, status, used = os.wait4(process.pid, 0)
    process.returncode = os.waitstatus_to_exitcode(status)
    if seen is None:
        elapsed = clock.now() - start
    return round((used.ru_utime + used.ru_stime) * 1e9), None if seen is None else seen[1], elapsed


def started(command: list[str], folder: Path, out: Any, errors: Any, given: Any) -> subprocess.Popen[bytes]:
    """Start a program in a group of its own.

    Raises:
        Failed: where it cannot be started.
    """
    try:
        return subprocess.Popen(
            command, cwd=folder, stdin=given, stdout=out, stderr=errors, start_new_session=True, close_fds=True
        )
    except (OSError, ValueError) as error:
        reason = getattr(error, "strerror", None) or str(error)
        raise Failed("missing", f"{command[0]} cannot be started: {reason}") from None


def left(code: int, errors: IO[bytes]) -> Failed:
    """An exit that is no success, with the last line of standard error."""
    errors.seek(max(0, errors.seek(0, os.SEEK_END) - 4000))
    lines = [line for line in errors.read().decode("utf-8", "replace").splitlines() if line.strip()]
    return exit_of(code, one_line(lines[-1]) if lines else "")


def _watched_peak(pid: int) -> int:
    """The peak of resident bytes of a process, looked at again and again until it ends."""
    held = 0
    while not _has_ended(pid):
        held = max(held, peak_memory(pid))
    return held


def _has_ended(pid: int) -> bool:
    """Whether a process of ours has ended; it is still to be waited for."""
    if hasattr(os, "waitid"):
        return os.waitid(os.P_PID, pid, os.WEXITED | os.WNOHANG | os.WNOWAIT) is not None
    return not psutil.pid_exists(pid)
