"""Templates as the supervisor sees them: interpreters that have loaded a study, from which processes are forked.

A few of them, each with another hash seed, serve a run in turn: a process that is forked begins at once, whatever the
study imports. Where a system cannot fork so, or something in the study would not survive it, processes start anew.
"""

from __future__ import annotations

import contextlib
import json
import os
import select
import signal
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Sequence
from dataclasses import asdict
from pathlib import Path
from typing import IO

from ..protocol.requests import Limits
from ..study.parts import Revision

TEMPLATES = 3  # interpreters that take turns
LOADING_MOST, FORKING_MOST = 30.0, 5.0  # seconds
READ_MOST = 2**16


def environment_of(hash_seed: int, paths: Sequence[str] = ()) -> dict[str, str]:
    """The environment of a process of a contender: ours, with the seed of its dictionaries and sets.

    Modules are looked for along some `paths` first.
    """
    made = {**os.environ, "PYTHONHASHSEED": str(hash_seed), "PYTHONDONTWRITEBYTECODE": "1"}
    if paths:
        made["PYTHONPATH"] = os.pathsep.join([*paths, *filter(None, [os.environ.get("PYTHONPATH", "")])])
    return made


class ForkedProcess:
    """A process that a template has forked: what `subprocess.Popen` is to one that was started."""

    def __init__(self, template: Template, pid: int, stdin: IO[bytes], stdout: IO[bytes], stderr: IO[bytes]) -> None:
        self.template, self.pid = template, pid
        self.stdin, self.stdout, self.stderr = stdin, stdout, stderr

    def poll(self) -> int | None:
        """The exit code, negative for a signal; None while it runs."""
        return self.template.ended_with(self.pid, 0.0)

    def wait(self, timeout: float) -> int:
        """The same once it has ended.

        Raises:
            subprocess.TimeoutExpired: where it runs for longer than so many seconds.
        """
        code = self.template.ended_with(self.pid, timeout)
        if code is None:
            raise subprocess.TimeoutExpired("a forked process", timeout)
        return code

    def kill(self) -> None:
        """End it."""
        if self.poll() is None:
            os.kill(self.pid, signal.SIGKILL)


class Template:
    """One interpreter that has loaded the study, started at once; `is_ready` waits until it is.

    Args:
        command: by which it is started, its control socket being its standard input.
        environment: of it and of all that it forks.
    """

    def __init__(self, command: Sequence[str], environment: dict[str, str]) -> None:
        self.control, theirs = socket.socketpair()
        with theirs:
            self.process = subprocess.Popen(
                command,
                stdin=theirs.fileno(),
                stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
                env=environment,
                start_new_session=True,
            )
        self.said, self.codes = b"", dict[int, int]()
        self.ready: bool | None = None
        self.loading, self.dearest = 0.0, ""
        self.lock = threading.RLock()

    def is_ready(self, within: float = LOADING_MOST) -> bool:
        """Whether it can be forked; waits so many seconds for the study to be loaded."""
        with self.lock:
            if self.ready is None:
                said = self._word(within)
                if not said and within < LOADING_MOST:
                    return False  # it loads still
                self.ready = said[:1] == [b"ready"]
                if self.ready:
                    self.loading, self.dearest = float(said[1]), b" ".join(said[2:]).decode()
            return self.ready

    def fork(self, contender: str, limits: Limits) -> ForkedProcess | None:
        """A new process of a contender; None where the template is gone."""
        requests, replies, words = os.pipe(), os.pipe(), os.pipe()
        order = json.dumps({"contender": contender, "limits": asdict(limits)}).encode()
        theirs = requests[0], replies[1], words[1]
        ours = requests[1], replies[0], words[0]
        pid = None
        with self.lock, contextlib.suppress(OSError):
            socket.send_fds(self.control, [order], theirs)
            said = self._word(FORKING_MOST)
            pid = int(said[1]) if said[:1] == [b"forked"] else None
        for each in theirs:
            os.close(each)
        if pid is None:
            self.ready = False
            for each in ours:
                os.close(each)
            return None
        stdin, stdout, stderr = os.fdopen(ours[0], "wb"), os.fdopen(ours[1], "rb"), os.fdopen(ours[2], "rb")
        return ForkedProcess(self, pid, stdin, stdout, stderr)

    def ended_with(self, pid: int, timeout: float) -> int | None:
        """The exit code of a process that was forked; None where it still runs after so many seconds."""
        until = time.monotonic() + timeout
        with self.lock:
            while pid not in self.codes:
                left = max(until - time.monotonic(), 0.0)
                if not self._hear(left):
                    if self.process.poll() is not None:  # with it, all that it forked has ended
                        return -signal.SIGKILL
                    if not left:
                        return None
                self._take()
            return self.codes[pid]

    def end(self) -> None:
        """End it; what it forked ends with it."""
        self.control.close()
        self.process.kill()
        self.process.wait()

    def _word(self, timeout: float) -> list[bytes]:
        """The next line that is no exit code, as words; none where it does not come in so many seconds."""
        until = time.monotonic() + timeout
        while True:
            said = self._take()
            if said:
                return said
            if not self._hear(max(until - time.monotonic(), 0.0)):
                return []

    def _hear(self, timeout: float) -> bool:
        """Wait for more to be said, for so many seconds. Returns whether there was more."""
        if self.control.fileno() < 0 or not select.select([self.control], [], [], timeout)[0]:
            return False
        more = self.control.recv(READ_MOST)
        self.said += more
        return bool(more)

    def _take(self) -> list[bytes]:
        """Take what was said line by line, and keep exit codes. Returns the words of the first other line."""
        while b"\n" in self.said:
            line, self.said = self.said.split(b"\n", 1)
            words = line.split()
            if words[:1] != [b"ended"]:
                return words
            self.codes[int(words[1])] = int(words[2])
        return []


class Templates:
    """The templates of a study, each started when it is first needed.

    Args:
        study_file: that they load.
    """

    def __init__(self, study_file: Path) -> None:
        self.study_file = study_file
        self.made: dict[tuple[str, int], Template] = {}

    def of(self, hash_seed: int, revision: Revision | None = None) -> Template | None:
        """The template whose turn it is, of the study or of its copy at a revision; None where processes start anew.

        Linux ends it with the thread that was the first to ask for it.
        """
        if sys.platform != "linux" or any(template.ready is False for template in self.made.values()):
            return None
        file, paths = (str(self.study_file), ()) if revision is None else (revision.file, revision.paths)
        turn = file, hash_seed % TEMPLATES
        if turn not in self.made:
            command = [sys.executable, "-P", "-m", "logarithm.worker.template", file]
            self.made[turn] = Template(command, environment_of(hash_seed, paths))
        return self.made[turn]

    @property
    def loading(self) -> tuple[float | None, str]:
        """The seconds that loading the study took, and what of it most; None where processes are started anew."""
        ready = [template for template in self.made.values() if template.ready]
        return max(((each.loading, each.dearest) for each in ready), default=(None, ""))

    def prepare(self, patience: float) -> None:
        """Start all of them, once the first has loaded the study, so that nobody waits for one.

        What loads beside a trial would slow it, so they are waited for: at most `patience` seconds, and not at all
        where loading takes longer.
        """
        if not self.made or not all(template.is_ready() for template in self.made.values()):
            return
        every, until = [self.of(turn) for turn in range(TEMPLATES)], time.monotonic() + patience
        if (self.loading[0] or 0.0) <= patience:
            for template in filter(None, every):
                template.is_ready(max(until - time.monotonic(), 0.0))

    def end(self) -> None:
        """End all of them."""
        for template in self.made.values():
            template.end()
        self.made.clear()
