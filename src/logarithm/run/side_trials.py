"""Trials that stand beside those of the heats: what a repeated input would cost, and what warming up costs."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field, fields
from typing import Any

from ..notation.metrics import DEAREST
from ..notation.sizes import Number
from ..protocol import clock
from ..protocol.clock import NANO
from ..protocol.replies import Timed, Warmed
from ..protocol.requests import TakeTrial, TimeDearestStep, Timing, WarmUp
from ..study.parts import GROW
from .plan.track import DesignPoint, Step, Track
from .state import Run

REPEATED_SHARE = 0.04  # of the time of the heats may go to repeated inputs
AT_ONCE_SHARE, AT_ONCE = 0.025, 0.2  # of the budget, and seconds at most, beside that: a run may be settled soon
LEARNED = 1.1  # from this ratio of fresh to repeated on, as calibration saw it, more trials are worth it
# trials on a repeated input at a design point, and in one process: several must agree
REPEATED_ENOUGH, REPEATED_EACH = 9, 3
WARM_PROGRAM, WARM_PYTHON = 0.3, 0.02  # seconds for warming up at one design point
WARM_SHARE = 0.1  # of the budget, for all warming up of programs


@dataclass(slots=True)
class Beside:
    """What is measured beside the heats of a run.

    Attributes:
        run: the run.
        repeated: how many trials on a repeated input each design point had; `repeated_here`, in which process.
        spent: seconds that went to them.
        begun: the reading of `clock.seconds` at the first heat.
        warming: seconds that went to warming up.
        told: (contender, process) whose warm-up was written down.
        grown: design points, each with the process in which its dearest step was timed.
    """

    run: Run
    repeated: Counter[DesignPoint] = field(default_factory=Counter)
    repeated_here: Counter[tuple[DesignPoint, int]] = field(default_factory=Counter)
    spent: float = 0.0
    begun: float = 0.0
    warming: float = 0.0
    told: set[tuple[str, int]] = field(default_factory=set)
    grown: set[tuple[DesignPoint, int]] = field(default_factory=set)

    def begin_heat(self) -> None:
        """Take the time of the first heat."""
        self.begun = self.begun or clock.seconds()

    def repeat(self, point: DesignPoint, step: Step, timing: Timing, limit: float) -> None:
        """One trial on a single instance that is repeated, where calibration saw that the processor learns it."""
        at_once = min(AT_ONCE_SHARE * self.run.budget.total, AT_ONCE)
        affordable = at_once + REPEATED_SHARE * (clock.seconds() - self.begun)
        if timing.instances == 1 or step.learned < LEARNED or self.repeated[point] >= REPEATED_ENOUGH:
            return
        here = point, self.run.processes.number
        if self.repeated_here[here] >= REPEATED_EACH:
            return
        if self.spent + step.trial > affordable + step.trial * (not self.repeated[point]) * 0.5:
            return
        self.repeated[point] += 1
        self.repeated_here[here] += 1
        run, processes = self.run, self.run.processes
        request = TakeTrial(**{**fields_of(timing), "instances": 1, "first": 0}, warm=max(1, timing.calls // 4))
        begun = clock.seconds()
        timed = processes.pool.ask(point.contender, request, Timed, limit, timing.calls)
        self.spent += clock.seconds() - begun
        run.book.trial(point, timed, run.heats, processes.number, processes.seed, step.copies, 1, metric="repeated")

    def grow(self, point: DesignPoint, limit: float) -> None:
        """The dearest step of growing from nothing, once in each process."""
        run, processes = self.run, self.run.processes
        here = point, processes.number
        if point.stage != GROW or here in self.grown:
            return
        self.grown.add(here)
        request = TimeDearestStep(point.family, point.size, processes.seed)
        timed = processes.pool.ask(point.contender, request, Timed, limit)
        run.book.trial(point, timed, run.heats, processes.number, processes.seed, False, 1, metric=DEAREST)

    def warm_up(self, track: Track, point: DesignPoint, timing: Timing, limit: float) -> None:
        """Make trials until they are steady, at the first visit of a process: of a program at every design point."""
        run, processes = self.run, self.run.processes
        program = track.contender.program
        first = (point.contender, processes.number) not in self.told
        kept = program is not None and program.is_worker
        if (program is not None and not kept) or not (first or kept):
            return
        left = WARM_SHARE * run.budget.total - self.warming if kept else WARM_PYTHON
        most = min(WARM_PROGRAM, left) if kept else left
        if most <= 0 or most > run.budget.left:
            return
        plan = {**fields_of(timing), "calls": max(1, timing.calls // 4)}
        begun = clock.seconds()
        warmed = processes.pool.ask(
            point.contender, WarmUp(**plan, most=round(most / NANO)), Warmed, limit + most, timing.calls
        )
        self.warming += (clock.seconds() - begun) * kept
        self.told.add((point.contender, processes.number))
        if first:
            for calls, elapsed in warmed.readings:
                timed = Timed(calls=calls, elapsed=elapsed)
                run.book.trial(
                    point, timed, run.heats, processes.number, processes.seed, False, timing.instances, metric="warmup"
                )
        if not warmed.steady and kept and first:
            text = f"is not steady after {most:.2g} s of calls at {run.book.at(point.size)}"
            run.book.note("warmup", text, point.contender, point.family, point.size)


def timing_of(point: DesignPoint, step: Step, seed: int, instances: int, first: int) -> Timing:
    """How calls at a design point are timed."""
    where: tuple[str, Number, int] = point.family, point.size, seed
    return Timing(*where, point.stage, step.calls, instances, first, step.copies, step.promise)


def fields_of(timing: Timing) -> dict[str, Any]:
    """The fields of a timing by name, for a request that has more of them."""
    return {each.name: getattr(timing, each.name) for each in fields(Timing)}
