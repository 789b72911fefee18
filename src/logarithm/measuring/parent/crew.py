"""The parent side: starts a worker for each contender, asks it, and ends it when it takes too long.

Replies are read by a thread for each worker, so that waiting with a limit works alike on every system. Nothing
that a worker sends is ever unpickled or run.
"""

from __future__ import annotations

import contextlib
import json
import os
import queue
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path
from typing import Any

from ...errors import MeasuringError, one_line
from ...study.parts import Contender
from ...study.study import Study
from .failed import Failed
from .programs import ProgramLife

REPLY_MOST = 64 * 2**20
START_LIMIT = 30.0
PREPARE_LIMIT = 60.0


def alone() -> Path:
    """A folder that holds this package and nothing else, for interpreters with libraries of their own."""
    if not _ALONE:
        room = tempfile.TemporaryDirectory(prefix="logarithm-")
        package = Path(room.name) / "logarithm"
        home = Path(__file__).resolve().parents[2]
        try:
            package.symlink_to(home, target_is_directory=True)
        except OSError:
            shutil.copytree(home, package)
        _ALONE.append(room)
    return Path(_ALONE[0].name)


_ALONE: list[tempfile.TemporaryDirectory[str]] = []


class Worker:
    """One life of a contender: a process that holds its code and answers requests one by one."""

    def __init__(self, study_file: Path, contender: Contender, hash_seed: int, limits: dict[str, Any]) -> None:
        self.contender = contender
        self.halted = False
        environment = {**os.environ, "PYTHONHASHSEED": str(hash_seed), "PYTHONDONTWRITEBYTECODE": "1"}
        interpreter = contender.interpreter or sys.executable
        if contender.interpreter:
            environment["PYTHONPATH"] = str(alone())
        command = [interpreter, "-P", "-m", "logarithm.measuring.child.worker"]
        self.process = subprocess.Popen(
            [*command, str(study_file), contender.name, json.dumps(limits)],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            env=environment,
            start_new_session=True,
        )
        self.replies: queue.SimpleQueue[bytes] = queue.SimpleQueue()
        threading.Thread(target=self._listen, daemon=True).start()
        self.greeting: dict[str, Any] | None = None

    def greet(self) -> dict[str, Any]:
        """Wait until the worker has loaded the study. Raises MeasuringError where it cannot."""
        if self.greeting is None:
            try:
                self.greeting = self._reply(START_LIMIT)
            except Failed as failed:
                told = self._last_words()
                raise MeasuringError(
                    f"the worker of '{self.contender.name}' did not start: {told or failed.detail}"
                ) from failed
            if "failed" in self.greeting:
                raise MeasuringError(str(self.greeting["detail"]))
        return self.greeting

    def ask(self, request: dict[str, Any], limit: float) -> dict[str, Any]:
        """Send a request and wait for its reply: up to `limit` seconds once the instance is made.

        Raises:
            Failed: the contender raised, took too long, left, or talked nonsense. After the last three the
                worker is gone.

        """
        self.greet()
        self._halt(False)
        try:
            assert self.process.stdin is not None
            self.process.stdin.write(json.dumps(request).encode() + b"\n")
            self.process.stdin.flush()
        except OSError:
            raise self._gone() from None
        reply = self._reply(PREPARE_LIMIT, "making the instance took more than {limit}")
        if "began" in reply:
            reply = self._reply(limit, "a call took more than {limit}")
        # Threads left running would take the processor from whoever is timed next.
        self._halt(reply.get("threads", 1) > 1)
        if "failed" in reply:
            raise Failed(str(reply["failed"]), str(reply.get("detail", "")))
        return reply

    def _halt(self, wanted: bool) -> None:
        """Stop the process and its children until it is asked again, where the system can."""
        if wanted is not self.halted and hasattr(signal, "SIGSTOP"):
            with contextlib.suppress(OSError):
                os.killpg(self.process.pid, signal.SIGSTOP if wanted else signal.SIGCONT)
            self.halted = wanted

    @property
    def alive(self) -> bool:
        """Whether the process still runs."""
        return self.process.poll() is None

    def end(self) -> None:
        """End the process and whatever it started."""
        if hasattr(os, "killpg"):
            with contextlib.suppress(OSError):
                os.killpg(self.process.pid, signal.SIGKILL)
        with contextlib.suppress(OSError):
            self.process.kill()
        self.process.wait()
        for pipe in (self.process.stdin, self.process.stderr):
            with contextlib.suppress(OSError):
                if pipe is not None:
                    pipe.close()

    def _reply(self, limit: float, late: str = "no reply within {limit}") -> dict[str, Any]:
        try:
            line = self.replies.get(timeout=limit)
        except queue.Empty:
            self.end()
            raise Failed("timeout", late.format(limit=f"{limit:.3g} s")) from None
        if not line.endswith(b"\n"):
            raise self._gone()
        try:
            reply = json.loads(line)
        except ValueError:
            reply = None
        if not isinstance(reply, dict):
            self.end()
            raise Failed("nonsense", f"its process wrote into the pipe: {one_line(line.decode(errors='replace'), 60)}")
        return reply

    def _gone(self) -> Failed:
        """Why the process is no longer there."""
        deadline = time.monotonic() + 5
        while self.process.poll() is None and time.monotonic() < deadline:
            time.sleep(0.005)
        code = self.process.poll()
        self.end()
        if code is None:
            return Failed("closed", "it closed the pipe to Logarithm")
        if code < 0:
            with contextlib.suppress(ValueError):
                return Failed("crash", f"its process was ended by {signal.Signals(-code).name}")
            return Failed("crash", f"its process was ended by signal {-code}")
        return Failed("exit", f"its process left with exit code {code}")

    def _last_words(self) -> str:
        assert self.process.stderr is not None
        with contextlib.suppress(OSError, ValueError):
            return one_line(self.process.stderr.read(2000).decode(errors="replace"))
        return ""

    def _listen(self) -> None:
        """Pass replies on, line by line; an empty line of bytes says that there will be no more."""
        assert self.process.stdout is not None
        with contextlib.suppress(OSError, ValueError):
            while line := self.process.stdout.readline(REPLY_MOST):
                self.replies.put(line)
        self.replies.put(b"")


class Crew:
    """The workers of one life, one for each contender, started together and replaced where one is lost.

    `free` names those that are not kept to one processor; it grows as contenders show that they use several.
    """

    def __init__(
        self,
        study: Study,
        study_file: Path,
        contenders: list[Contender],
        hash_seed: int,
        limits: dict[str, Any],
        free: set[str],
    ) -> None:
        self.study = study
        self.study_file = study_file
        self.hash_seed = hash_seed
        self.limits = limits
        self.free = free
        self.workers = {contender.name: self._start(contender) for contender in contenders}

    def end(self) -> None:
        """End every worker."""
        for worker in self.workers.values():
            worker.end()

    def greet(self) -> None:
        """Wait until every worker is ready; one that is lost on the way is given a second start."""
        for name, worker in list(self.workers.items()):
            try:
                worker.greet()
            except MeasuringError:
                if worker.alive:
                    raise
                worker.end()
                self.workers[name] = self._start(worker.contender)
                self.workers[name].greet()

    def ask(self, contender: str, request: dict[str, Any], limit: float) -> dict[str, Any]:
        """Ask a contender's worker; one that was lost is started anew."""
        worker = self.workers[contender]
        if not worker.alive:
            worker.end()
            worker = self.workers[contender] = self._start(worker.contender)
        reply = worker.ask(request, limit)
        if reply.get("started") and contender not in self.free:
            # Whoever uses several threads or processes may use several processors; begun anew, it is not pinned.
            self.free.add(contender)
            worker.end()
        return reply

    def _start(self, contender: Contender) -> Worker | ProgramLife:
        limits = {**self.limits, "processor": None} if contender.name in self.free else self.limits
        if contender.program is not None:
            folder = self.study_file.resolve().parent
            return ProgramLife(self.study, folder, contender, limits)
        return Worker(self.study_file, contender, self.hash_seed, limits)
