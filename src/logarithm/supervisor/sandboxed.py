"""A process that runs what was handed in, as the supervisor sees it: nothing that it says or fails to do holds us up.

It gets its own file and instances, and nothing else; see `worker.sandbox`. All that it takes is bounded: the time of
each request and of all, memory, processes, files, and what it may send.
"""

from __future__ import annotations

import base64
import contextlib
import ctypes
import os
import queue
import shutil
import sys
import tempfile
import threading
import time
from collections.abc import Iterable, Sequence
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

import psutil

from ..errors import MeasuringError, SandboxError, harmless, one_line
from ..protocol.clock import NANO
from ..protocol.message import line_of
from ..protocol.replies import CallsMade, Done
from ..protocol.requests import NO_SANDBOX, CallAll, Case, Take
from ..protocol.scheduling import may_have_waited, of_process, waits_of
from ..study.parts import LANGUAGES, Agreement, Contender
from .failed import Failed
from .limits import limits
from .processes import halt, held_by, pids_of
from .validate import Kind
from .worker import Worker

LINE_MOST = 8 * 2**20
START_LIMIT, PREPARE_LIMIT, WHOLE_LIMIT = 10.0, 5.0, 45.0  # seconds
MEMORY_TOGETHER, WATCH_S = 1.25, 0.1  # times the memory of one, for all together; and seconds between two looks
TRIED = "def lighthouse(instance):\n    return instance\n"


class SandboxedWorker(Worker):
    """A process with a submission's code.

    Args:
        contender: whose source it is.
        text: what is in its file.
        families: their names.
        agreement: how its answers must agree with each other.
        hidden: the study's folder.
        memory: bytes that it may fill.
        trusted: whether it need not run in a sandbox.
        processor: the one it is kept to; None where it may use all.
    """

    line_most, start_limit, prepare_limit = LINE_MOST, START_LIMIT, PREPARE_LIMIT

    def __init__(
        self,
        contender: Contender,
        text: bytes,
        families: Sequence[str],
        agreement: Agreement,
        hidden: Path,
        memory: float,
        trusted: bool = False,
        processor: int | None = None,
    ) -> None:
        assert contender.source is not None
        self.contender = contender
        self.limits = limits(2, memory, processor=processor)
        self.room = tempfile.mkdtemp(prefix="logarithm-sandboxed-")
        self.until = time.monotonic() + WHOLE_LIMIT
        self.outbox: queue.Queue[bytes | None] = queue.Queue()
        self.overfull = ""
        places = {name: os.environ[name] for name in ("PATH", "PYTHONPATH", "SYSTEMROOT") if name in os.environ}
        plain = {"PYTHONHASHSEED": "1", "PYTHONDONTWRITEBYTECODE": "1", "PYTHONUTF8": "1"}
        plain |= dict.fromkeys(("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS"), "1")
        folders = dict.fromkeys(("HOME", "TMPDIR", "TEMP"), "/handed-in" if not trusted else self.room)
        self.start([sys.executable, "-P", "-m", "logarithm.worker.sandbox.submission"], {**places, **plain, **folders})
        threading.Thread(target=self._speak, daemon=True).start()
        threading.Thread(target=self._watch, args=(memory,), daemon=True).start()
        case = Case(
            contender.name,
            file_name(contender.source.file),
            base64.b64encode(text).decode("ascii"),
            contender.source.function,
            list(families),
            self.room,
            str(hidden.resolve()),
            not trusted,
            asdict(self.limits),
            list(contender.source.operations),
            agreement.within,
            agreement.unordered,
        )
        self.send(line_of(case))

    def ask(self, request: object, kind: type[Kind], limit: float, calls: int | None = None) -> Kind:
        """Send a request and wait for its reply, within what is left for it of all its time. Raises Failed."""
        left = self.until - time.monotonic()
        if left <= 0:
            self.end()
            raise Failed("timeout", f"in all it took more than {WHOLE_LIMIT:g} s", is_late=True)
        return super().ask(request, kind, min(limit, left), calls)

    def rest(self) -> None:
        """Stop it, so that it does nothing while others are timed; asked again, it goes on."""
        halt(self.process.pid, True)
        self.halted = True

    def send(self, line: bytes) -> None:
        """Have a line written; where the process does not read it, waiting for the reply comes to an end."""
        self.outbox.put(line)

    def end(self) -> None:
        """End the process, whatever it started, and its folder."""
        self.outbox.put(None)
        super().end()
        shutil.rmtree(self.room, ignore_errors=True)

    def _watch(self, memory: float) -> None:
        """End it where it and all that it started fill too much together; each alone has a bound of its own."""
        pid, most = self.process.pid, MEMORY_TOGETHER * memory
        while self.alive:
            if held_by(pid) > most:
                self.overfull = f"with all that it started it filled more than {memory / 2**20:.0f} MiB"
                self.end()
                return
            time.sleep(WATCH_S)

    def _gone(self) -> Failed:
        """Why the process is no longer there."""
        failed = super()._gone()
        return Failed("MemoryError", self.overfull) if self.overfull else failed

    def _speak(self) -> None:
        assert self.process.stdin is not None
        while (line := self.outbox.get()) is not None:
            with contextlib.suppress(OSError, ValueError):
                self.process.stdin.write(line)
                self.process.stdin.flush()


@dataclass(frozen=True, slots=True)
class Seen:
    """Calls from outside, in seconds: own time, processor time in them, and that while instances were taken."""

    own: float
    busy: float
    taking: float
    answers: list[Any]


def seen_from_outside(worker: Worker, instances: Sequence[Any], limit: float) -> Seen:
    """Let a process answer instances one after another, and look at it from outside.

    Args:
        worker: the process.
        instances: written down; it gets them before the time begins.
        limit: seconds.

    Raises:
        Failed: where it does.
    """
    known = pids_of(worker.process.pid)
    before = _spent(known)
    worker.ask(Take(list(instances)), Done, limit)
    taken = _spent(known)
    queued, waited = _queued([*known, os.getpid()]), _waits(known)
    begun = time.perf_counter()
    reply = worker.ask(CallAll(), CallsMade, limit)
    passed = time.perf_counter() - begun
    queued, waiting = _queued([*known, os.getpid()]) - queued, _waits(known)
    # Looking for what it may have started takes a while, and is done once.
    others = [each for each in pids_of(worker.process.pid) if each not in known]
    after = _spent([*known, *others])
    if reply.too_large or len(reply.answers) != len(instances):
        raise Failed("nonsense", "it did not answer every instance")
    ran = max(after - taken, 0.0)
    if not others and not may_have_waited(waited, waiting, usual=1):
        passed = min(passed, ran)  # its one wait was for the next request, so all else is not its own
    # What it and we stood in the queue is nobody's cost; where several processes worked at once, no less than `ran` is.
    own = min(passed, max(ran, passed - max(queued, 0.0)))
    return Seen(own, ran, max(taken - before, 0.0), reply.answers)


def check_sandbox(trusted: bool) -> None:
    """Find out whether this system can put into a sandbox what was handed in.

    Raises:
        SandboxError: where it cannot, and nobody said that it is trusted.
    """
    from ..study.parts import Source

    if trusted:
        return
    trial = Contender("trial", len, source=Source("lighthouse.py", "lighthouse"))
    sandboxed = SandboxedWorker(trial, TRIED.encode(), [], Agreement(), Path(tempfile.gettempdir()), 2**29)
    try:
        sandboxed.greet()
    except MeasuringError as error:
        raise SandboxError(
            "this system cannot keep what was handed in apart from your files and from other processes "
            f"({one_line(str(error).removeprefix(NO_SANDBOX + ': '), 120)}). Use a Linux that lets users have "
            "namespaces. If you have read it all and trust it, say --trusted"
        ) from None
    finally:
        sandboxed.end()


def file_name(path: str) -> str:
    """A name that any file system takes, as near as can be to that of the file that was handed in."""
    name = harmless(Path(path).name).replace("\ufffd", "_")
    ending = next((each for each in LANGUAGES if Path(path).suffix == each), ".py")
    return name if len(name.encode()) <= 200 and name.endswith(ending) else f"{name[:40]}{ending}"


def _queued(processes: Iterable[int]) -> float:
    """Seconds that processes stood in the queue for a processor so far; 0 where the system does not tell."""
    return sum(found[1] for each in processes if (found := of_process(each)) is not None) * NANO


def _waits(processes: Iterable[int]) -> int | None:
    """How often processes gave the processor up by themselves so far; None where one has threads or is at work."""
    found = [waits_of(each) for each in processes]
    return None if None in found else sum(each for each in found if each is not None)


def _spent(pids: Sequence[int]) -> float:
    """Seconds of processor time that processes have used, and those that they waited for, as the system sees it."""
    spent = 0.0
    for pid in pids:
        with contextlib.suppress(psutil.Error):
            times = psutil.Process(pid).cpu_times()
            ended = getattr(times, "children_user", 0.0) + getattr(times, "children_system", 0.0)
            spent += (_clock(pid) or times.user + times.system) + ended
    return spent


def _clock(pid: int) -> float | None:
    """The processor time of a process, to the nanosecond, where the system has a clock for it."""
    if sys.platform != "linux":
        return None
    # CLOCK_PROCESS_CPUTIME_ID of another process: see clock_getcpuclockid in POSIX.
    number = ctypes.c_int()
    if ctypes.CDLL(None).clock_getcpuclockid(pid, ctypes.byref(number)) != 0:
        return None
    with contextlib.suppress(OSError):
        return time.clock_gettime(number.value)
    return None
