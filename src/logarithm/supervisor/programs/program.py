"""Contenders that are programs: commands, whose whole process is timed from outside, and workers, kept alive.

No argument ever passes through a shell. Whatever a program starts is ended with it.
"""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Any, cast

from ...errors import MeasuringError, one_line
from ...notation import encoding
from ...protocol import clock
from ...protocol.calibration import INSTANCES_LEAST, freshened, lengthen, warm_up
from ...protocol.replies import Answered, Calibrated, Counted, Done, Ready, Reply, StartUp, Timed, TrapsFound, Warmed
from ...protocol.requests import (
    Answer,
    Attempt,
    Calibrate,
    Count,
    FindTraps,
    Limits,
    Request,
    TakeTrial,
    TimeStartUp,
    Timing,
    WarmUp,
)
from ...study.parts import Contender, Program
from ...study.study import Study
from ..failed import Failed
from ..processes import on_processor
from ..validate import Kind
from . import instructions
from .build import built
from .command import Ran, run_once
from .exchange import filled, read_answer
from .instances import InstanceFiles
from .kept_worker import Kept

EMPTY_RUNS = 5
WARMING = 400_000_000  # nanoseconds of calls, until one that is compiled while it runs is at full speed


class ProgramProcess:
    """One process of a program: has instances as files, and answers the requests that a Python worker answers."""

    def __init__(
        self, study: Study, folder: Path, contender: Contender, limits: Limits, instances: InstanceFiles
    ) -> None:
        assert contender.program is not None
        self.study, self.folder, self.contender, self.limits = study, folder, contender, limits
        self.instances = instances
        self.build = built(contender, folder)
        self.program: Program = contender.program
        self.alive = True
        self.inside = 0
        self.kept: Kept | None = None

    def greet(self) -> Ready:
        """Start a worker that is kept alive; commands start anew at each call."""
        if self.program.is_worker and self.kept is None:
            try:
                command = filled(self.program.arguments, self.places())
                self.kept = Kept(command, self.folder, self.limits, self.instances)
            except Failed as failed:
                raise MeasuringError(f"the worker '{self.contender.name}' did not start: {failed.detail}") from None
        return Ready()

    def end(self) -> None:
        """End the program and whatever it started."""
        self.alive = False
        if self.kept is not None:
            self.kept.end()

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
            case Attempt():
                self.run(request, 1, limit)
                return Done()
            case Answer():
                return self.judged(request, read_answer(self.run(request, 1, limit).answer))
            case Calibrate():
                return self.calibrated(request, limit)
            case WarmUp():
                return self.warmed(request, limit)
            case TakeTrial():
                if request.warm and self.kept is not None:
                    self.run(request, request.warm, limit)
                return self.timed(request, limit)
            case TimeStartUp():
                return StartUp(seconds=self.startup(request, limit))
            case Count(way="memory"):
                held = self.run(request, 1, limit, watched=True).peak
                # One that ends before anybody can look has no peak that is known.
                return Counted(values={"memory": held} if held else {})
            case Count(way="work" | "instructions"):
                return Counted(values={request.way: self.instructions(request, limit)})
        raise Failed("uncounted", "only memory and instructions can be counted of a program in another language")

    def instructions(self, request: Request, limit: float) -> int:
        """The instructions of one call of a worker, or of a whole run of a command.

        Raises:
            Failed: where they cannot be counted; the detail says why.
        """
        command = (
            filled(self.program.arguments, self.places())
            if self.program.is_worker
            else self.command(request, self.instances.single(request.pool))
        )
        reason = instructions.why_not(command, self.folder)
        if reason:
            raise Failed("uncounted", reason)
        if self.kept is not None:
            lines = partial(self.kept.script, request.pool)
            return instructions.of_worker(command, self.folder, limit, lines)
        return instructions.of_command(command, self.folder, limit)

    def judged(self, request: Request, answer: Any) -> Answered:
        """An answer, with what the referee says of it: he is in this process, and so is the answer, as plain data.

        Raises:
            Failed: where the referee raises.
        """
        reply = Answered(answer=answer)
        if self.study.judge is not None:
            instance = self.study.the_family(request.family).instance(request.size, request.seed)
            try:
                reply.right = bool(self.study.judge(instance, encoding.decoded(answer)))
            except Exception as error:  # whatever the study's own code raises
                raise Failed("referee", one_line(f"{type(error).__name__}: {error}")) from None
        return reply

    def places(self, **more: str) -> dict[str, str]:
        """What the placeholders in a command stand for."""
        levels = {name: str(value) for name, value in self.contender.values.items()}
        return {**levels, "build": str(self.build), **more}

    def command(self, request: Request, path: Path) -> list[str]:
        """The arguments of the command for an instance in a file."""
        sizes = {"size": str(request.size)}
        family, second = self.study.the_family(request.family), self.study.second
        if second is not None and family.second is not None:
            sizes |= {second.first: str(request.size), second.name: str(family.second)}
        places = self.places(**sizes, seed=str(request.seed), file=str(path))
        return filled(self.program.arguments, places)

    def calibrated(self, request: Calibrate, limit: float) -> Calibrated:
        """Find how many calls last `target` nanoseconds, on how many instances in turn. A command is called once."""
        plan, before = Timing(*request.pool, request.stage, 1), self.inside

        def time(calls: int, among: int) -> Timed:
            return self.timed(replace(plan, calls=calls, instances=among), limit)

        def hold(count: int) -> int:
            return self.instances.hold(request.pool, count, request.making)

        timed, repeated = time(1, 1), None
        if self.kept is None:
            instances = hold(INSTANCES_LEAST) if request.most > 1 else 1
        else:
            timed = lengthen(time, request.target, timed)
            self.warmed(WarmUp(*request.pool, request.stage, timed.calls, most=WARMING), limit)
            timed = lengthen(time, request.target, time(timed.calls, 1))
            instances, timed, repeated = freshened(time, timed, request.most, hold)
        return Calibrated.of(timed, instances=instances, repeated=repeated, inside=self.inside - before)

    def warmed(self, request: WarmUp, limit: float) -> Warmed:
        """Trial after trial until they are steady."""
        return warm_up(lambda first: self.timed(replace(request, first=first), limit), request.first, request.most)

    def timed(self, request: Timing, limit: float) -> Timed:
        """Time some calls, with the pace of the processor before and after."""
        begun = clock.now()
        self.ready(request)
        made = clock.now() - begun
        with on_processor(self.limits.processor):
            before = clock.pace()
            ran = self.run(request, request.calls, limit)
            paces = (before, clock.pace())
        self.inside += ran.elapsed
        return Timed(
            calls=request.calls,
            elapsed=ran.elapsed,
            cpu=ran.cpu,
            queued=ran.queued,
            pace=paces,
            peak=ran.peak,
            made=made,
        )

    def ready(self, request: Request) -> int:
        """Have the instances of a request made, and loaded by a worker. Returns how many to take in turn."""
        among = self.instances.hold(request.pool, request.instances if isinstance(request, Timing) else 1)
        if self.kept is not None:
            with self.marking_lost():
                self.kept.load(request.pool, among)
        return among

    @contextlib.contextmanager
    def marking_lost(self) -> Iterator[None]:
        """Meanwhile, a worker that fails otherwise than by an error that it tells of is lost."""
        try:
            yield
        except Failed as failed:
            self.alive = self.alive and failed.reason == "error"
            raise

    def run(self, request: Request, calls: int, limit: float, watched: bool = False) -> Ran:
        """Make some calls, on the instances in turn; of a command that is `watched` the peak of memory is looked at."""
        among = self.ready(request)
        if self.kept is not None:
            with self.marking_lost():
                return self.kept.run(calls, among, limit)
        first = request.first if isinstance(request, Timing) else 0
        ran = []
        for each in range(first, first + calls):
            command = self.command(request, self.instances.single(request.pool, each % among))
            ran.append(run_once(command, self.folder, self.limits, limit, watched))
        elapsed, cpu = sum(each.elapsed for each in ran), sum(each.cpu or 0 for each in ran)
        read = [each.queued for each in ran if each.queued is not None]
        queued = sum(read) if len(read) == len(ran) else None
        return Ran(elapsed, cpu, queued, max(each.peak for each in ran), ran[-1].answer)

    def startup(self, request: Request, limit: float) -> float | None:
        """Seconds of a run on an empty file, the least of a few; on the given instance where that fails."""
        if self.program.is_worker:
            return None
        nothing = TimeStartUp(request.family, 0, request.seed)
        for command in (
            self.command(nothing, self.instances.empty()),
            self.command(request, self.instances.single(request.pool)),
        ):
            with contextlib.suppress(Failed), on_processor(self.limits.processor):
                return min(run_once(command, self.folder, self.limits, limit).own for _ in range(EMPTY_RUNS)) * 1e-9
        return None
