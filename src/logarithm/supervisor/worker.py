"""One process of a contender in Python: starts its process, asks it, and ends it when it takes too long.

Replies are read by a thread, so that waiting with a limit works alike on every system.
"""

from __future__ import annotations

import contextlib
import json
import os
import queue
import re
import shutil
import subprocess
import sys
import tempfile
import time
import weakref
from dataclasses import asdict
from pathlib import Path

import msgspec

from ..errors import MeasuringError, one_line
from ..protocol.message import line_of, plain_of
from ..protocol.replies import Began, Failure, Ready, Reply
from ..protocol.requests import Limits
from ..study.parts import Contender
from .failed import Failed, exit_of
from .listening import listen, next_line
from .processes import end_with_children, halt
from .templates import ForkedProcess, Templates, environment_of
from .validate import LINE_MOST, Kind, expected, reply_of

START_LIMIT = 30.0
PREPARE_LIMIT = 60.0
REPLIES_WAITING = 4  # that nobody has asked for; a process that sends more waits until they are read

WORDS_MOST = 100_000
BROKEN_DOWN = re.compile(r"Fatal Python error: (?P<what>[^\n]*)")
FRAME = re.compile(r"File \"(?P<file>[^\"\n]*)\", line (?P<line>\d+) in (?P<function>[^\n]*)")
RUNNING: weakref.WeakSet[Worker] = weakref.WeakSet()

_ALONE: list[tempfile.TemporaryDirectory[str]] = []


def alone() -> Path:
    """A folder that holds this package and nothing else, for interpreters with libraries of their own."""
    if not _ALONE:
        room = tempfile.TemporaryDirectory(prefix="logarithm-")
        package = Path(room.name) / "logarithm"
        home = Path(__file__).resolve().parents[1]
        try:
            package.symlink_to(home, target_is_directory=True)
        except OSError:
            shutil.copytree(home, package)
        _ALONE.append(room)
    return Path(_ALONE[0].name)


def _line_of(request: object) -> bytes:
    """A request as a line, quicker than a worker can write one; instances may be long."""
    try:
        return msgspec.json.encode({"kind": type(request).__name__, **plain_of(request)}) + b"\n"
    except (TypeError, OverflowError, ValueError):  # integers that are long, numbers that are not finite
        return line_of(request)


def end_all() -> None:
    """End every worker of this process: whoever waits for a reply of one gets none."""
    for worker in list(RUNNING):
        worker.end()


class Worker:
    """A process that holds a contender's code and answers requests one by one.

    Args:
        study_file: read by the worker itself.
        contender: whose code it holds.
        hash_seed: of its dictionaries and sets.
        limits: what it must keep to.
        templates: from which it is forked, where there are any and it can be.
    """

    line_most, start_limit, prepare_limit = LINE_MOST, START_LIMIT, PREPARE_LIMIT

    def __init__(
        self, study_file: Path, contender: Contender, hash_seed: int, limits: Limits, templates: Templates | None = None
    ) -> None:
        self.contender, self.limits = contender, limits
        revision = contender.revision
        name, paths = (contender.name, ()) if revision is None else (revision.of, revision.paths)
        study_file = study_file if revision is None else Path(revision.file)
        own = templates is not None and not contender.options.interpreter
        template = templates.of(hash_seed, revision) if templates is not None and own else None
        forked = template.fork(name, limits) if template is not None and template.is_ready() else None
        if forked is not None:
            self.adopt(forked)
            return
        environment = environment_of(hash_seed, paths)
        interpreter = contender.options.interpreter or sys.executable
        if contender.options.interpreter:
            environment["PYTHONPATH"] = str(alone())
        command = [interpreter, "-P", "-m", "logarithm.worker.serve"]
        self.start([*command, str(study_file), name, json.dumps(asdict(limits))], environment)

    def start(self, command: list[str], environment: dict[str, str]) -> None:
        """Start the process, and listen to it."""
        self.adopt(
            subprocess.Popen(
                command,
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                stderr=subprocess.PIPE,
                env=environment,
                start_new_session=True,
            )
        )

    def adopt(self, process: subprocess.Popen[bytes] | ForkedProcess) -> None:
        """Take a process, and listen to it."""
        self.halted = False
        self.greeting: Ready | None = None
        self.process = process
        RUNNING.add(self)
        self.lines: queue.Queue[bytes] = queue.Queue(REPLIES_WAITING)
        assert self.process.stdout is not None
        listen(self.process.stdout, self.lines, self.line_most)

    @property
    def alive(self) -> bool:
        """Whether the process still runs."""
        return self.process.poll() is None

    def greet(self) -> Ready:
        """Wait until the worker has loaded the study.

        Raises:
            MeasuringError: where it cannot; its process is ended.
        """
        if self.greeting is not None:
            return self.greeting
        try:
            reply = self._reply(self.start_limit, "no reply within {limit}")
            if isinstance(reply, Failure):
                self.end()
                raise MeasuringError(reply.detail)
            self.greeting = expected(reply, Ready)
        except Failed as failed:
            self.end()
            raise MeasuringError(f"the worker of '{self.contender.name}' did not start: {failed.detail}") from failed
        return self.greeting

    def ask(self, request: object, kind: type[Kind], limit: float, calls: int | None = None) -> Kind:
        """Send a request and wait for its reply: up to `limit` seconds once the instance is made.

        Args:
            request: one of `shared.messages`.
            kind: the reply to it.
            limit: seconds.
            calls: the most calls that a trial may say it made.

        Raises:
            Failed: the contender raised, took too long, left, or sent nonsense. After the last three the worker is
                gone; asked again, it fails as one that left.
        """
        self.greet()
        self._halt(False)
        # From before it is sent: where the processor is given to others just after the worker began, its trial began
        # long before this process sees that it did.
        asked = time.monotonic()
        try:
            self.send(_line_of(request))
        except (OSError, ValueError):  # the latter from a pipe that was closed on this side
            raise self._gone() from None
        reply = self._reply(self.prepare_limit, "making the instance took more than {limit}")
        if isinstance(reply, Began):
            reply = self._reply(limit, "a call took more than {limit}")
        waited = time.monotonic() - asked
        # Threads left running would take the processor from whoever is timed next.
        self._halt(reply.threads > 1)
        try:
            return expected(reply, kind, waited, calls)
        except Failed as failed:
            if not isinstance(reply, Failure):
                self.end()
            raise failed

    def send(self, line: bytes) -> None:
        """Write a line to the process. Raises OSError, ValueError."""
        assert self.process.stdin is not None
        self.process.stdin.write(line)
        self.process.stdin.flush()

    def end(self) -> None:
        """End the process and whatever it started."""
        end_with_children(self.process)
        for pipe in (self.process.stdin, self.process.stderr):
            with contextlib.suppress(OSError):
                if pipe is not None:
                    pipe.close()

    def _halt(self, wanted: bool) -> None:
        """Stop the process and its children until it is asked again, where the system can."""
        if wanted is not self.halted:
            halt(self.process.pid, wanted)
            self.halted = wanted

    def _reply(self, limit: float, late: str) -> Reply:
        line = next_line(self.lines, self.process.pid, limit)
        if line is None:
            self.end()
            raise Failed("timeout", late.format(limit=f"{limit:.3g} s"), is_late=True)
        if not line.endswith(b"\n"):
            raise self._gone()
        try:
            return reply_of(line)
        except Failed:
            self.end()
            raise

    def _gone(self) -> Failed:
        """Why the process is no longer there, with its last words where it never got as far as a greeting."""
        with contextlib.suppress(subprocess.TimeoutExpired):
            self.process.wait(timeout=5)
        code = self.process.poll()
        end_with_children(self.process)
        told = "" if code is None else self._last_words()
        self.end()
        if code is None:
            return Failed("closed", "it closed the pipe to Logarithm")
        failed = exit_of(code)
        return Failed(failed.reason, told) if told else failed

    def _last_words(self) -> str:
        """What its process said last: its last line or, where the interpreter broke down, on which line that was."""
        assert self.process.stderr is not None
        raw = b""
        with contextlib.suppress(OSError, ValueError):
            os.set_blocking(self.process.stderr.fileno(), False)
            raw = self.process.stderr.read(WORDS_MOST) or b""
        text = raw.decode(errors="replace")
        broken = BROKEN_DOWN.search(text)
        frames = [each for each in FRAME.finditer(text) if "lib/python" not in each["file"]]
        if broken is not None and frames:
            place = f"{Path(frames[0]['file']).name}:{frames[0]['line']}"
            return one_line(f"{broken['what']} in {frames[0]['function']}, {place}")
        return one_line(next((line for line in reversed(text.splitlines()) if line.strip()), ""))
