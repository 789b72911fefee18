"""A program that is kept running and speaks the worker protocol: see docs/formats.md."""

from __future__ import annotations

import contextlib
import queue
import subprocess
import tempfile
from pathlib import Path
from typing import IO

from ...errors import one_line
from ...protocol.requests import Limits, PoolKey
from ...protocol.scheduling import may_have_waited, of_process, queue_of, waits_of
from ..failed import Failed
from ..listening import listen, next_line
from ..processes import bound, end_with_children, on_processor, peak_memory
from .command import Ran, left, started
from .exchange import OUTPUT_MOST
from .instances import InstanceFiles

GREETING = "logarithm-worker 3"  # and its name
LOAD_LIMIT = 60.0
LINE_MOST = OUTPUT_MOST
LINES_WAITING = 4


class Kept:
    """A worker kept alive: it loads instances, runs calls, and reports nanoseconds and an answer, line by line."""

    def __init__(self, command: list[str], folder: Path, limits: Limits, instances: InstanceFiles) -> None:
        self.instances = instances
        self.errors: IO[bytes] = tempfile.TemporaryFile()  # noqa: SIM115 - as long as the worker lives
        with on_processor(limits.processor):
            self.process = started(command, folder, subprocess.PIPE, self.errors, subprocess.PIPE)
        bound(self.process.pid, limits, OUTPUT_MOST)
        self.lines: queue.Queue[bytes] = queue.Queue(LINES_WAITING)
        self.count = 0
        self.loaded: tuple[PoolKey | None, int] = (None, 0)
        assert self.process.stdout is not None
        listen(self.process.stdout, self.lines, LINE_MOST)
        greeting = self.read(limits.start, "that it is ready")
        if not f"{greeting} ".startswith(f"{GREETING} "):
            self.end()
            said = one_line(repr(greeting), 60)
            raise Failed("nonsense", f'line 1 of it should begin with "{GREETING}", not {said}')

    def load(self, pool: PoolKey, among: int) -> None:
        """Have so many instances loaded, if they are not."""
        loaded, many = self.loaded
        if loaded == pool and many >= among:
            return
        if loaded is not None and loaded != pool:
            self.order("clear")
            many = 0
        self.order(f"load {self.instances.many(pool, many, among)}")
        self.loaded = pool, among

    def script(self, pool: PoolKey, calls: int) -> str:
        """What is said to it for some calls on one instance, at the beginning."""
        return f"load {self.instances.many(pool, 0, 1)}\nrun {calls} 1\n"

    def run(self, calls: int, among: int, limit: float) -> Ran:
        """Make some calls on so many of the instances that are loaded, in turn."""
        before, waited = of_process(self.process.pid), waits_of(self.process.pid)
        self.say(f"run {calls} {among}")
        said = self.read(limit, "done")
        after, waiting = of_process(self.process.pid), waits_of(self.process.pid)
        words = said.split(" ", 2)
        if words[0] != "done" or len(words) < 2 or not words[1].isdigit():
            raise self.wrong('"done NANOSECONDS ANSWER" after run', said)
        elapsed, ran, queued = int(words[1]), None, None
        if before is not None and after is not None:
            ran, queued = after[0] - before[0], after[1] - before[1]
            if ran <= elapsed:
                # It stands in the queue also before it reads the line, which its own clock does not see. The one wait
                # that it should have is that for the next line.
                queued = queue_of(elapsed - ran, queued, may_have_waited(waited, waiting, usual=1))
        return Ran(elapsed, ran, queued, peak_memory(self.process.pid), words[2] if len(words) > 2 else "")

    def order(self, line: str) -> None:
        """Send a line that is to be answered with ok."""
        self.say(line)
        said = self.read(LOAD_LIMIT, "ok")
        if said != "ok":
            raise self.wrong(f'"ok" after {line.split()[0]}', said)

    def say(self, line: str) -> None:
        """Send a line."""
        assert self.process.stdin is not None
        try:
            self.process.stdin.write(line.encode() + b"\n")
            self.process.stdin.flush()
        except OSError:
            raise self.gone() from None

    def read(self, limit: float, what: str) -> str:
        """Read a line within `limit` seconds."""
        line = next_line(self.lines, self.process.pid, limit)
        if line is None:
            self.end()
            raise Failed("timeout", f"it did not say {what} within {limit:.3g} s")
        if not line.endswith(b"\n"):
            raise self.gone() if len(line) < LINE_MOST else Failed("floods", "it says a line of more than 16 MiB")
        self.count += 1
        said = line.decode("utf-8", "replace").rstrip("\r\n")
        if said.startswith("error"):
            raise Failed("error", one_line(said[5:].lstrip(": ") or "it says error, without a reason"))
        return said

    def wrong(self, expected: str, said: str) -> Failed:
        """What to say of a line that is not what it should be; the worker is ended."""
        self.end()
        return Failed("nonsense", f"line {self.count} of it should be {expected}, not {one_line(repr(said), 60)}")

    def gone(self) -> Failed:
        """Why the process is no longer there."""
        try:
            code = self.process.wait(timeout=2)
        except subprocess.TimeoutExpired:
            self.end()
            return Failed("closed", "it closed its standard output")
        self.end()
        return left(code, self.errors)

    def end(self) -> None:
        """End the process and whatever it started."""
        end_with_children(self.process)
        for pipe in (self.process.stdin, self.process.stdout):
            with contextlib.suppress(OSError):
                if pipe is not None:
                    pipe.close()
