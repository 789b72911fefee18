"""Where to run: the idlest processor, kept by one run at a time; and how much of the time others had it."""

from __future__ import annotations

import contextlib
import os
import tempfile
import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from pathlib import Path

import psutil
from filelock import FileLock, Timeout

WATCHED_S, CALM_SHARE = 1.0, 0.1  # seconds for which a moment is looked at, and the share that others may use
SAMPLE_S = 0.06  # seconds for which processors are looked at, at least
CHOICE_S = 1.0  # seconds for which a choice stands
ALIKE_SHARE = 0.25  # of that: processors whose shares differ by less are alike


@dataclass(slots=True)
class Watch:
    """What processors do from now on, for so many seconds at least."""

    seconds: float = SAMPLE_S
    begun: float = field(default_factory=time.monotonic)
    before: dict[int, tuple[float, float]] = field(default_factory=lambda: _times())
    own: float = field(default_factory=time.process_time)

    def busy(self, processors: Iterable[int]) -> dict[int, float]:
        """The share of the time since then for which each of some processors was busy with what is not ours."""
        time.sleep(max(self.begun + self.seconds - time.monotonic(), 0.0))
        after, own = _times(), time.process_time() - self.own
        busy = {each: _share(self.before.get(each), after.get(each)) for each in processors}
        ours = _own_processor()
        if ours in busy:
            busy[ours] = max(busy[ours] - own / (time.monotonic() - self.begun), 0.0)
        return busy


class ProcessorClaim:
    """The processor that a run keeps its contenders to, so that no other run on this machine takes the same."""

    def __init__(self) -> None:
        self.lock: FileLock | None = None
        self.processor: int | None = None
        self.chosen = -CHOICE_S

    def take(self, watch: Watch | None = None) -> int | None:
        """The idlest processor that no other run holds, or the idlest of all; None where there is no choice.

        Args:
            watch: begun before, so that what it takes is time that something else was done in.
        """
        if self.lock is not None and time.monotonic() - self.chosen < CHOICE_S:
            return self.processor
        self.release()
        ranked = by_idleness(watch)
        self.chosen = time.monotonic()
        for processor in ranked:
            try:
                lock = FileLock(_own_folder() / f"{processor}.lock", timeout=0, thread_local=False)
                lock.acquire()
            except Timeout:
                continue
            except OSError:
                break  # where no lock can be written, runs cannot tell of each other
            self.lock, self.processor = lock, processor
            return processor
        return ranked[0] if ranked else None

    def release(self) -> None:
        """Let others have it."""
        if self.lock is not None:
            with contextlib.suppress(OSError):
                self.lock.release()
            self.lock = None


def _own_folder() -> Path:
    """The folder of the locks of this user, which nobody else can write to. Raises OSError where it is not theirs."""
    user = os.getuid() if hasattr(os, "getuid") else 0
    folder = Path(tempfile.gettempdir()) / f"logarithm-processors-{user}"
    folder.mkdir(mode=0o700, exist_ok=True)
    if hasattr(os, "getuid") and folder.lstat().st_uid != user:
        raise PermissionError(f"{folder} belongs to somebody else")
    return folder


def idlest_processor() -> int | None:
    """The processor that is idlest now; None where there is no choice."""
    return next(iter(by_idleness()), None)


def by_idleness(watch: Watch | None = None) -> list[int]:
    """The processors that we may use, the idlest first; none where there is no choice.

    Of those that are about alike, the one that this process runs on comes last, then those whose core is shared with a
    busy one, then the first ones, where systems put their own work.
    """
    allowed = sorted(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else []
    if len(allowed) < 2:
        return []
    busy = (watch or Watch()).busy(allowed)
    ours = _own_processor()

    def rank(processor: int) -> tuple[int, bool, bool, int]:
        beside = max((busy.get(each, 0.0) for each in _siblings(processor) if each != processor), default=0.0)
        return round(busy[processor] / ALIKE_SHARE), processor == ours, beside > ALIKE_SHARE, -processor

    return sorted(allowed, key=rank)


def wait_for_calm(most: float, tell: Callable[[str], None]) -> bool:
    """Wait until a processor is idle, `most` seconds at most. Returns whether one is.

    Args:
        most: seconds.
        tell: told how it goes.
    """
    until = time.monotonic() + most
    while True:
        allowed = os.sched_getaffinity(0) if hasattr(os, "sched_getaffinity") else set(_times())
        busy = min(Watch(WATCHED_S).busy(allowed).values(), default=0.0)
        if busy < CALM_SHARE:
            return True
        if time.monotonic() > until:
            return False
        tell(f"waiting for an idle processor; other programs use each for {100 * busy:.0f} % of the time at least")


def pressure() -> float | None:
    """The share of the last minute in which something waited for a processor; None where the system does not tell."""
    try:
        for line in Path("/proc/pressure/cpu").read_text(encoding="ascii").splitlines():
            if line.startswith("some"):
                return float(line.split("avg60=")[1].split()[0]) / 100
    except (OSError, ValueError, IndexError):
        pass
    return None


def wanted_time() -> tuple[float, float]:
    """Seconds since the start that something wanted a processor, and those of them that another machine had it."""
    busy = sum(each for each, _ in _times().values())
    try:
        stolen = getattr(psutil.cpu_times(), "steal", 0.0)
    except (OSError, RuntimeError):
        stolen = 0.0
    return busy, stolen


def stolen_share(since: tuple[float, float]) -> float | None:
    """The share of the time in which something wanted a processor that another machine had it; None where not told."""
    busy, stolen = (now - then for now, then in zip(wanted_time(), since, strict=True))
    return min(max(stolen / busy, 0.0), 1.0) if busy > 0 else None


def _times() -> dict[int, tuple[float, float]]:
    """Seconds that each processor was busy, and in all."""
    try:
        every = enumerate(psutil.cpu_times(percpu=True))
        return {at: (sum(each) - each.idle - getattr(each, "iowait", 0.0), sum(each)) for at, each in every}
    except (OSError, RuntimeError):
        return {}


def _share(before: tuple[float, float] | None, after: tuple[float, float] | None) -> float:
    if before is None or after is None or after[1] <= before[1]:
        return 0.0
    return (after[0] - before[0]) / (after[1] - before[1])


def _own_processor() -> int | None:
    """The processor that this process runs on now."""
    try:
        return int(Path("/proc/self/stat").read_text().rpartition(")")[2].split()[36])
    except (OSError, ValueError, IndexError):
        return None


def _siblings(processor: int) -> set[int]:
    """The processors that share a core with one, itself included."""
    path = Path(f"/sys/devices/system/cpu/cpu{processor}/topology/thread_siblings_list")
    found: set[int] = set()
    with contextlib.suppress(OSError, ValueError):
        for part in path.read_text().strip().split(","):
            low, _, high = part.partition("-")
            found |= set(range(int(low), int(high or low) + 1))
    return found
