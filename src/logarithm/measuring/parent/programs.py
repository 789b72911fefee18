"""Contenders that are programs: commands, whose whole process is timed from outside, and workers, kept alive.

No argument ever passes through a shell. Whatever a program starts is ended with it.
"""

from __future__ import annotations

import contextlib
import tempfile
from pathlib import Path
from typing import cast

from ...errors import MeasuringError
from ...study.parts import Contender, Program
from ...study.study import Study
from ..shared import clock
from ..shared.messages import (
    Answer,
    Answered,
    Attempt,
    Calibrate,
    Calibrated,
    Count,
    Counted,
    Done,
    FindTraps,
    Limits,
    Ready,
    Reply,
    Request,
    StartUp,
    TakeTrial,
    Timed,
    TimeStartUp,
    TrapsFound,
)
from .building import built
from .commands import Ran, run_once
from .exchange import filled, read_answer, write_instance
from .failed import Failed
from .kept import Kept
from .processes import on_processor
from .replies import Kind

EMPTY_RUNS = 5
CALLS_MOST = 10**7


class ProgramLife:
    """One life of a program: makes instances into files, and answers the requests that a Python worker answers."""

    def __init__(self, study: Study, folder: Path, contender: Contender, limits: Limits) -> None:
        assert contender.program is not None
        self.study, self.folder, self.contender, self.limits = study, folder, contender, limits
        self.build = built(contender, folder)
        self.program: Program = contender.program
        self.room = tempfile.TemporaryDirectory(prefix="logarithm-")
        self.files: dict[tuple[str, float, int], Path] = {}
        self.alive = True
        self.kept: Kept | None = None

    def greet(self) -> Ready:
        """Start a worker that is kept alive; commands start anew at each call."""
        if self.program.is_worker and self.kept is None:
            try:
                self.kept = Kept(filled(self.program.arguments, self.places()), self.folder, self.limits)
            except Failed as failed:
                raise MeasuringError(f"the worker '{self.contender.name}' did not start: {failed.detail}") from None
        return Ready()

    def end(self) -> None:
        """End the program and whatever it started."""
        self.alive = False
        if self.kept is not None:
            self.kept.end()
        self.room.cleanup()

    def ask(self, request: object, kind: type[Kind], limit: float, calls: int | None = None) -> Kind:  # noqa: ARG002
        """Answer a request, as a Python worker does.

        Raises:
            Failed: the program failed, took too long, left, or sent nonsense.
        """
        self.greet()
        assert isinstance(request, Request)
        return cast(Kind, self._reply(request, limit))

    def _reply(self, request: Request, limit: float) -> Reply:
        match request:
            case FindTraps():
                return TrapsFound()
            case Answer() | Attempt():
                answer = read_answer(self.run(request, 1, limit).answer)
                return Answered(answer=answer) if isinstance(request, Answer) else Done()
            case Calibrate():
                return self.calibrated(request, limit)
            case TakeTrial():
                return self.timed(request, request.calls, limit)
            case TimeStartUp():
                return StartUp(seconds=self.startup(request, limit))
            case Count(way="memory"):
                held = self.run(request, 1, limit, watched=True).peak
                # One that ends before anybody can look has no peak that is known.
                return Counted(values={"memory": held} if held else {})
        raise Failed("uncounted", "only memory can be counted of a program in another language")

    def file(self, request: Request) -> Path:
        """The instance as a file, made at its first use."""
        key = request.family, request.size, request.seed
        if key not in self.files:
            made = self.study.the_family(request.family)
            path = Path(self.room.name) / f"instance-{len(self.files)}"
            write_instance(made.instance(request.size, request.seed), made.form, path)
            self.files[key] = path
        return self.files[key]

    def places(self, **more: str) -> dict[str, str]:
        """What the placeholders in a command stand for."""
        levels = {name: str(value) for name, value in self.contender.values.items()}
        return {**levels, "build": str(self.build), **more}

    def command(self, request: Request, path: Path) -> list[str]:
        """The arguments of the command for an instance in a file."""
        places = self.places(size=str(request.size), seed=str(request.seed), file=str(path))
        return filled(self.program.arguments, places)

    def calibrated(self, request: Calibrate, limit: float) -> Calibrated:
        """Find how many calls last `target` nanoseconds. A command is called once."""
        calls, timed = 1, self.timed(request, 1, limit)
        while self.program.is_worker and timed.elapsed < request.target and calls < CALLS_MOST:
            longer = 1.1 * calls * request.target / max(timed.elapsed, 1)
            calls = int(min(calls * 10, max(calls + 1, longer)))
            timed = self.timed(request, calls, limit)
        return Calibrated(calls=timed.calls, elapsed=timed.elapsed, cpu=timed.cpu, pace=timed.pace)

    def timed(self, request: Request, calls: int, limit: float) -> Timed:
        """Time some calls, with the pace of the processor before and after."""
        with on_processor(self.limits.processor):
            before = clock.pace()
            ran = self.run(request, calls, limit)
            return Timed(calls=calls, elapsed=ran.elapsed, cpu=ran.cpu, pace=(before, clock.pace()), peak=ran.peak)

    def run(self, request: Request, calls: int, limit: float, watched: bool = False) -> Ran:
        """Make some calls; of a command that is `watched` the peak of memory is looked at, which costs time."""
        path = self.file(request)
        if self.kept is not None:
            try:
                return self.kept.run(path, calls, limit)
            except Failed as failed:
                if failed.reason != "error":
                    self.alive = False
                raise
        command = self.command(request, path)
        ran = [run_once(command, self.folder, self.limits, limit, watched) for _ in range(calls)]
        elapsed, cpu = sum(each.elapsed for each in ran), sum(each.cpu or 0 for each in ran)
        return Ran(elapsed, cpu, max(each.peak for each in ran), ran[-1].answer)

    def startup(self, request: Request, limit: float) -> float | None:
        """Seconds of a run on an empty file, the least of a few; on the given instance where that fails."""
        if self.program.is_worker:
            return None
        empty = Path(self.room.name) / "empty"
        empty.write_bytes(b"")
        nothing = TimeStartUp(request.family, 0, request.seed)
        for command in (self.command(nothing, empty), self.command(request, self.file(request))):
            with contextlib.suppress(Failed), on_processor(self.limits.processor):
                return min(run_once(command, self.folder, self.limits, limit).elapsed for _ in range(EMPTY_RUNS)) * 1e-9
        return None
