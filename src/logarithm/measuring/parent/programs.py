"""Contenders that are programs: commands, whose whole process is timed from outside, and workers, kept alive.

No argument ever passes through a shell. Whatever a program starts is in its process group and is ended with it.
"""

from __future__ import annotations

import contextlib
import os
import queue
import signal
import subprocess
import sys
import tempfile
import threading
from collections.abc import Iterator
from pathlib import Path
from typing import IO, Any

from ...errors import MeasuringError, one_line
from ...study.parts import Contender, Program
from ...study.study import Study
from ..shared import clock
from .building import built
from .exchange import OUTPUT_MOST, filled, read_answer, write_instance
from .failed import Failed

PROTOCOL = "logarithm-worker 1"
START_LIMIT, LOAD_LIMIT = 20.0, 60.0
LINE_MOST = OUTPUT_MOST
EMPTY_RUNS = 5


class ProgramLife:
    """One life of a program: makes instances into files, and answers the requests that a Python worker answers."""

    def __init__(self, study: Study, folder: Path, contender: Contender, limits: dict[str, Any]) -> None:
        assert contender.program is not None
        self.study, self.folder, self.contender, self.limits = study, folder, contender, limits
        self.build = built(contender, folder)
        self.program: Program = contender.program
        self.room = tempfile.TemporaryDirectory(prefix="logarithm-")
        self.files: dict[tuple[str, Any, int], Path] = {}
        self.alive = True
        self.kept: _Kept | None = None

    def greet(self) -> dict[str, Any]:
        """Start a worker that is kept alive; commands start anew at each call."""
        if self.program.is_worker and self.kept is None:
            try:
                self.kept = _Kept(filled(self.program.arguments, self.places()), self.folder, self.limits)
            except Failed as failed:
                raise MeasuringError(f"the worker '{self.contender.name}' did not start: {failed.detail}") from None
        return {"ready": True}

    def end(self) -> None:
        """End the program and whatever it started."""
        self.alive = False
        if self.kept is not None:
            self.kept.end()
        self.room.cleanup()

    def ask(self, request: dict[str, Any], limit: float) -> dict[str, Any]:
        """Answer a request, as a Python worker does.

        Raises:
            Failed: the program failed, took too long, left, or talked nonsense.
        """
        self.greet()
        key = request["family"], request["size"], request["seed"]
        path = self.file(*key)
        do = request["do"]
        if do in ("traps", "walk"):
            return {"traps": {}}
        if do == "count":
            if request["kind"] != "memory":
                raise Failed("uncounted", "only memory can be counted of a program in another language")
            if self.kept is not None:
                return {"values": {"memory": self.run(key, path, 1, limit)[2]}}
            places = self.places(size=str(key[1]), seed=str(key[2]), file=str(path))
            command = filled(self.program.arguments, places)
            held = run_once(command, self.folder, self.limits, limit, watched=True)[2]
            # One that ends before anybody can look has no peak that is known.
            return {"values": {"memory": held} if held else {}}
        if do == "startup":
            return {"startup": self.startup(key, limit)}
        if do in ("answer", "try"):
            return {"answer": read_answer(self.run(key, path, 1, limit)[3])}
        if do == "first":
            return {"changes": False, "printed": 0, **self.first(key, path, request["target"], limit)}
        return self.timed(key, path, request["calls"], limit)

    def file(self, family: str, size: Any, seed: int) -> Path:
        """The instance as a file, made at its first use."""
        key = family, size, seed
        if key not in self.files:
            made = self.study.the_family(family)
            path = Path(self.room.name) / f"instance-{len(self.files)}"
            write_instance(made.instance(size, seed), made.form, path)
            self.files[key] = path
        return self.files[key]

    def places(self, **more: str) -> dict[str, str]:
        """What the placeholders in a command stand for."""
        levels = {name: str(value) for name, value in self.contender.values.items()}
        return {**levels, "build": str(self.build), **more}

    def first(self, key: tuple[str, Any, int], path: Path, target: int, limit: float) -> dict[str, Any]:
        """Find how many calls last `target` nanoseconds. A command is called once."""
        calls, reply = 1, self.timed(key, path, 1, limit)
        while self.program.is_worker and reply["elapsed"] < target and calls < 10**7:
            calls = int(min(calls * 10, max(calls + 1, 1.1 * calls * target / max(reply["elapsed"], 1))))
            reply = self.timed(key, path, calls, limit)
        return reply

    def timed(self, key: tuple[str, Any, int], path: Path, calls: int, limit: float) -> dict[str, Any]:
        """Time some calls, with the pace of the processor before and after."""
        with _on(self.limits.get("processor")):
            before = clock.pace()
            elapsed, cpu, _, _ = self.run(key, path, calls, limit)
            pace = (before, clock.pace())
        return {"calls": calls, "elapsed": elapsed, "cpu": cpu, "overhead": 0.0, "pace": pace}

    def run(self, key: tuple[str, Any, int], path: Path, calls: int, limit: float) -> tuple[int, int | None, int, str]:
        """Make some calls. Returns nanoseconds, those of the processor, the peak of resident bytes, and the answer."""
        if self.kept is not None:
            try:
                return self.kept.run(path, calls, limit)
            except Failed as failed:
                if failed.reason != "error":
                    self.alive = False
                raise
        places = self.places(size=str(key[1]), seed=str(key[2]), file=str(path))
        elapsed, cpu, memory, answer = 0, 0, 0, ""
        for _ in range(calls):
            took, busy, held, answer = run_once(filled(self.program.arguments, places), self.folder, self.limits, limit)
            elapsed, cpu, memory = elapsed + took, cpu + busy, max(memory, held)
        return elapsed, cpu, memory, answer

    def startup(self, key: tuple[str, Any, int], limit: float) -> float | None:
        """Seconds of a run on an empty file, the least of a few; on the given instance where that fails."""
        if self.program.is_worker:
            return None
        empty = Path(self.room.name) / "empty"
        empty.write_bytes(b"")
        nothing = self.places(size="0", seed=str(key[2]), file=str(empty))
        something = self.places(size=str(key[1]), seed=str(key[2]), file=str(self.file(*key)))
        for places in (nothing, something):
            with contextlib.suppress(Failed), _on(self.limits.get("processor")):
                command = filled(self.program.arguments, places)
                return min(run_once(command, self.folder, self.limits, limit)[0] for _ in range(EMPTY_RUNS)) * 1e-9
        return None


def run_once(
    command: list[str], folder: Path, limits: dict[str, Any], limit: float, watched: bool = False
) -> tuple[int, int, int, str]:
    """Run a command to its end: nanoseconds, those of the processor, peak resident bytes, standard output.

    The peak is looked at while it runs where it is `watched`, which costs time; else it is nought. What the system
    tells at the end will not do: it counts what this process held when it started the other.

    Raises:
        Failed: it cannot be started, exits with another code than 0, is ended by a signal, takes longer than `limit`
            seconds, or prints more than 16 MiB.
    """
    with tempfile.TemporaryFile() as out, tempfile.TemporaryFile() as errors:
        start = clock.now()
        process = _started(command, folder, out, errors, subprocess.DEVNULL)
        held = _peak(process.pid) if watched else 0
        late = threading.Event()

        def stop() -> None:
            late.set()
            _end_group(process.pid)

        _bound(process.pid, limits)
        watch = threading.Timer(limit, stop)
        watch.start()
        try:
            if watched:
                held = max(held, _watched(process.pid))
            _, status, used = os.wait4(process.pid, 0)
            elapsed = clock.now() - start
        finally:
            watch.cancel()
            _end_group(process.pid)
        process.returncode = os.waitstatus_to_exitcode(status)
        if late.is_set():
            raise Failed("timeout", f"a call took more than {limit:.3g} s")
        if process.returncode:
            raise _exit(process.returncode, errors)
        out.seek(0)
        text = out.read(OUTPUT_MOST + 1)
        if len(text) > OUTPUT_MOST:
            raise Failed("floods", f"it prints more than {OUTPUT_MOST // 2**20} MiB")
        cpu = round((used.ru_utime + used.ru_stime) * 1e9)
        return elapsed, cpu, held, text.decode("utf-8", "replace")


class _Kept:
    """A worker kept alive: it loads instances, runs calls, and reports nanoseconds and an answer, line by line."""

    def __init__(self, command: list[str], folder: Path, limits: dict[str, Any]) -> None:
        self.errors: IO[bytes] = tempfile.TemporaryFile()  # noqa: SIM115 - as long as the worker lives
        with _on(limits.get("processor")):
            self.process = _started(command, folder, subprocess.PIPE, self.errors, subprocess.PIPE)
        _bound(self.process.pid, limits)
        self.lines: queue.SimpleQueue[bytes] = queue.SimpleQueue()
        self.count = 0
        self.loaded: Path | None = None
        threading.Thread(target=self._listen, daemon=True).start()
        greeting = self.read(START_LIMIT, "its greeting")
        if not greeting.startswith(PROTOCOL):
            self.end()
            raise Failed("nonsense", f'line 1 of it should begin with "{PROTOCOL}", not {one_line(repr(greeting), 60)}')

    def run(self, path: Path, calls: int, limit: float) -> tuple[int, int | None, int, str]:
        """Have an instance loaded, if it is not, and some calls made."""
        if self.loaded != path:
            self.say(f"load {path}")
            said = self.read(LOAD_LIMIT, "ok")
            if said != "ok":
                raise self.wrong('"ok" after load', said)
            self.loaded = path
        self.say(f"run {calls}")
        said = self.read(limit, "done")
        words = said.split(" ", 2)
        if words[0] != "done" or len(words) < 2 or not words[1].isdigit():
            raise self.wrong('"done NANOSECONDS ANSWER" after run', said)
        return int(words[1]), None, _peak(self.process.pid), words[2] if len(words) > 2 else ""

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
        try:
            line = self.lines.get(timeout=limit)
        except queue.Empty:
            self.end()
            raise Failed("timeout", f"it did not say {what} within {limit:.3g} s") from None
        if not line.endswith(b"\n"):
            raise self.gone() if len(line) < LINE_MOST else Failed("floods", "it says a line of more than 16 MiB")
        self.count += 1
        said = line.decode("utf-8", "replace").rstrip("\r\n")
        if said.startswith("error"):
            raise Failed("error", one_line(said[5:].lstrip(": ") or "it says error, and no more"))
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
        return _exit(code, self.errors)

    def end(self) -> None:
        """End the process and whatever it started."""
        _end_group(self.process.pid)
        with contextlib.suppress(OSError, subprocess.TimeoutExpired):
            self.process.wait(timeout=5)
        for pipe in (self.process.stdin, self.process.stdout):
            with contextlib.suppress(OSError):
                if pipe is not None:
                    pipe.close()

    def _listen(self) -> None:
        assert self.process.stdout is not None
        with contextlib.suppress(OSError, ValueError):
            while line := self.process.stdout.readline(LINE_MOST):
                self.lines.put(line)
                if not line.endswith(b"\n"):
                    break
        self.lines.put(b"")


def _started(command: list[str], folder: Path, out: Any, errors: Any, given: Any) -> subprocess.Popen[bytes]:
    try:
        return subprocess.Popen(
            command, cwd=folder, stdin=given, stdout=out, stderr=errors, start_new_session=True, close_fds=True
        )
    except (OSError, ValueError) as error:
        reason = getattr(error, "strerror", None) or str(error)
        raise Failed("missing", f"{command[0]} cannot be started: {reason}") from None


def _exit(code: int, errors: IO[bytes]) -> Failed:
    """An exit that is no success, with the last line of standard error."""
    errors.seek(max(0, errors.seek(0, os.SEEK_END) - 4000))
    lines = [line for line in errors.read().decode("utf-8", "replace").splitlines() if line.strip()]
    said = one_line(lines[-1]) if lines else ""
    if code < 0:
        with contextlib.suppress(ValueError):
            return Failed("crash", f"its process was ended by {signal.Signals(-code).name}")
        return Failed("crash", f"its process was ended by signal {-code}")
    return Failed("exit", f"exit code {code}" + (f": {said}" if said else ""))


def _end_group(group: int) -> None:
    with contextlib.suppress(OSError):
        os.killpg(group, signal.SIGKILL)


def _bound(pid: int, limits: dict[str, Any]) -> None:
    """Bound what a process may fill with memory and output, where the system lets others be bounded."""
    if sys.platform != "linux":
        return
    import resource

    with contextlib.suppress(OSError, ValueError):
        # Twice what is read, so that a flood is told as one and not as a full disk.
        resource.prlimit(pid, resource.RLIMIT_FSIZE, (2 * OUTPUT_MOST, 2 * OUTPUT_MOST))
        if limits.get("memory"):
            resource.prlimit(pid, resource.RLIMIT_DATA, (int(limits["memory"]), int(limits["memory"])))


def _peak(pid: int) -> int:
    """The peak of resident bytes of a process that still runs; 0 where the system does not tell."""
    with contextlib.suppress(OSError, ValueError, IndexError):
        for line in Path(f"/proc/{pid}/status").read_text().splitlines():
            if line.startswith("VmHWM"):
                return int(line.split()[1]) * 1024
    return 0


def _watched(pid: int) -> int:
    """The peak of resident bytes of a process, looked at again and again until it ends."""
    held = 0
    while os.waitid(os.P_PID, pid, os.WEXITED | os.WNOHANG | os.WNOWAIT) is None:
        held = max(held, _peak(pid))
    return held


@contextlib.contextmanager
def _on(processor: int | None) -> Iterator[None]:
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
