"""Heat after heat: one trial at every design point in shuffled order, process after process, until all is settled.

Processes are worth more than heats, since heats of one process share what is its own; so a process has few. Between two
processes the stopping rule is asked what is still open: the next process measures that, and all else pauses.
"""

from __future__ import annotations

import logging
from dataclasses import dataclass, field

from ..notation.sizes import Number
from ..protocol import clock
from ..protocol.clock import NANO, round_calls
from ..protocol.replies import Timed
from ..protocol.requests import TakeTrial
from ..results.questions import Point, Remaining
from ..supervisor.failed import Failed
from .calibration import calibrate
from .counters.counts import metrics_of
from .counters.work import INSTANCES, count_work
from .plan import schedule
from .plan.track import AROUND_S, DesignPoint, Track, making_costs, points, pools, steps_at, trial_costs
from .record.budget import CALIBRATING, COUNTING, LOOKING, STARTING, TRIALS
from .side_trials import Beside, fields_of, timing_of
from .state import Rule, Run

IDLE = 0.03  # seconds: too little for anything but the shortest trials
LOOKS = 4.0  # looking again takes at most so small a part of the time since the last look
LOOK_AGAIN = 1.2  # and is worth it where there are so many times the processes
COUNT_SHARE, COUNT_MOST = 0.05, 1  # of the budget for counting work again, and how often
LARGER_MOST = 3  # how often a contender is measured beyond its last size

log = logging.getLogger(__name__)


@dataclass(slots=True)
class Heats:
    """The heats of a run.

    Attributes:
        run: the run.
        rule: asked between two processes what the rest is for.
        target: seconds that a trial should last.
        pauses: (contender, family, size) that take part only in every k-th heat, with k.
        active: where trials still tell something; None for everywhere.
        lost: design points at which a trial has failed once.
        beside: trials that stand beside those of the heats.
        starting: seconds that another process takes before its first trial.
        looked: the end of the last look, in seconds into the run, and the seconds it took; after how many processes.
        extended: how often each (contender, family) was measured beyond its last size.
        counted: how often work was counted again.
        before: the processes of an earlier part of the run, which is gone on with.
    """

    run: Run
    rule: Rule | None = None
    target: float = 0.0
    pauses: dict[Point, int] = field(default_factory=dict)
    active: set[Point] | None = None
    lost: set[DesignPoint] = field(default_factory=set)
    beside: Beside = field(init=False)
    starting: float = 0.1
    looked: tuple[float, float, int] = (0.0, 0.0, 0)
    extended: dict[tuple[str, str], int] = field(default_factory=dict)
    counted: int = 0
    before: int = 0

    def __post_init__(self) -> None:
        """Begin with nothing beside the heats."""
        self.beside = Beside(self.run)

    def all(self) -> None:
        """Process after process, until everything is settled or the budget is used."""
        run, budget = self.run, self.run.budget
        if "time" not in metrics_of(run.study, run.settings):
            return
        self.starting = run.processes.starting
        self.before = run.processes.number - 1
        self.plan()
        while points(run.tracks):
            heat = sum(trial_costs(run.tracks, self.active).values())
            begun = run.processes.number - self.before
            for _ in range(schedule.heats_of_process(heat, self.starting + self.making, budget.left, begun)):
                if budget.left > IDLE:
                    with budget.during(TRIALS):
                        self.one()
            if budget.left <= IDLE:
                self.look(is_last=True)
                break
            self.count()
            if self.starting + self.making + self.shortest < budget.left and not self.next_process():
                log.info("finished: no question is open after process %d", run.processes.number)
                break

    def plan(self) -> None:
        """Decide how long trials last, and which sizes pause, for the rest of the budget."""
        run, left = self.run, self.run.budget.left
        self.target = schedule.trial_length(run.tracks, run.settings, left, self.active)
        for step in (step for _, steps in steps_at(run.tracks) for step in steps.values()):
            step.calls = round_calls(self.target / max(step.call, 1e-9))
        _, self.pauses = schedule.pauses_of(run.tracks, self.target, left, self.active)

    @property
    def making(self) -> float:
        """Seconds that making the inputs of another process takes."""
        return sum(making_costs(self.run.tracks, self.active).values())

    @property
    def shortest(self) -> float:
        """Seconds of the shortest trial that still takes part."""
        return min(step.trial for _, steps in steps_at(self.run.tracks) for step in steps.values())

    def one(self) -> None:
        """One trial at every design point in shuffled order, as long as the next one ends before the deadline."""
        run = self.run
        run.heats += 1
        order = [each for each in points(run.tracks) if self.takes_part(each)]
        run.shuffler.shuffle(order)
        by_name = {(track.contender.name, track.family.name): track for track in run.tracks}
        among = pools(run.tracks)
        self.beside.begin_heat()
        for point in order:
            instances = among.get((point.family, point.size), 1)
            self.trial(by_name[point.contender, point.family], point, instances)
        run.book.flush()

    def takes_part(self, point: DesignPoint) -> bool:
        """Whether a design point is measured in this heat."""
        where = point.contender, point.family, point.size
        if self.active is not None and where not in self.active:
            return False
        return not (self.run.heats - 1) % self.pauses.get(where, 1)

    def trial(self, track: Track, point: DesignPoint, instances: int) -> None:
        """One trial on so many instances in turn, unless the time would not do."""
        run, processes = self.run, self.run.processes
        step = track.steps.get(point.size, {}).get(point.stage)
        if step is None or step.trial > run.budget.left:
            return
        run.tell(f"process {processes.number}, {run.seen.purpose}")
        # All contenders of a heat begin with the same instance of the pool, those of the next heat with another one.
        timing = timing_of(point, step, processes.seed, instances, first=run.heats - 1)
        limit = 2 * max(track.ceiling, 1.1 * step.calls * step.call) + 0.5
        is_first = point not in processes.warmed
        try:
            if is_first:
                self.beside.warm_up(track, point, timing, limit)
            # What ran before has emptied the processor's caches.
            warm = 0 if step.calls == 1 else round_calls(step.calls / 10) if is_first else 1
            processes.warmed.add(point)
            request = TakeTrial(**fields_of(timing), warm=warm)
            asked = clock.seconds()
            timed = processes.pool.ask(point.contender, request, Timed, limit, step.calls)
            beside = clock.seconds() - asked - timed.elapsed * NANO
            call = run.book.trial(
                point, timed, run.heats, processes.number, processes.seed, step.copies, instances, step.promise
            )
            step.seen(call, self.target, beside, is_first)
            self.beside.repeat(point, step, timing, limit)
            self.beside.grow(point, limit)
        except Failed as failed:
            self.lose(track, point, failed)

    def lose(self, track: Track, point: DesignPoint, failed: Failed) -> None:
        """A design point that came through before has failed: once may be an accident from outside, twice is not."""
        run = self.run
        if point in self.lost:
            run.book.failure(track, point.size, point.stage, failed, run.processes.number)
            track.drop(point.size)
            return
        self.lost.add(point)
        text = f"failed once at {run.book.at(point.size)}, in heat {run.heats}: {failed.reason} ({failed.detail})"
        run.book.note("lost", text, point.contender, point.family, point.size)

    def look(self, is_last: bool = False) -> None:
        """Ask what is still open, unless there was a look a moment ago."""
        run, (then, took, processes) = self.run, self.looked
        is_early = run.budget.elapsed - then < LOOKS * took or run.processes.number < LOOK_AGAIN * processes
        if self.rule is None or (is_early and not is_last):
            return
        begun = run.budget.elapsed
        with run.budget.during(LOOKING):
            run.seen = self.rule(run.book.writer.memory.logbook(), self.remaining())
        self.looked = run.budget.elapsed, run.budget.elapsed - begun, run.processes.number
        log.info("looked after process %d, for %.2f s", run.processes.number, self.looked[1])
        for question in run.seen.unsettled:
            log.info("not settled: %s", question)

    def remaining(self) -> Remaining:
        """What is left of the run."""
        run = self.run
        making = making_costs(run.tracks)
        costs = {point: trial + making[point] for point, trial in trial_costs(run.tracks).items()}
        reach = {(track.contender.name, track.family.name): self.reach(track) for track in run.tracks if track.steps}
        return Remaining(run.budget.left, self.starting, costs, reach)

    def reach(self, track: Track) -> Number:
        """The largest size that a contender may be measured at: the last one, where sizes are fixed."""
        last = max(track.steps)
        where = track.contender.name, track.family.name
        if track.planned is not None or not track.is_size or self.extended.get(where, 0) >= LARGER_MOST:
            return last
        affordable = self.run.budget.left / schedule.LARGER_SHARE
        return track.reach(min(track.ceiling, affordable))

    def count(self) -> None:
        """Count more work where that tells an order, while nothing is timed."""
        run, asked = self.run, self.run.seen.counts
        seconds = COUNT_SHARE * run.budget.total
        if not asked or self.counted >= COUNT_MOST or run.budget.left < 2 * seconds:
            return
        self.counted += 1
        tracks = [track for track in run.tracks if (track.contender.name, track.family.name) in asked]
        run.tell("counting more work")
        log.info("counting more work of %s", ", ".join(dict.fromkeys(track.contender.name for track in tracks)))
        first, processes = self.counted * INSTANCES, run.processes
        with run.budget.during(COUNTING):
            where = run.study, processes.study_file, tracks, run.settings, processes.first_seed, seconds
            run.book.write(*count_work(*where, first=first, templates=processes.templates))

    def next_process(self) -> bool:
        """Look, and begin another process of those that still take part. False where it is over."""
        run, before = self.run, clock.seconds()

        def meanwhile() -> bool:
            self.look()
            return run.settings.whole or not run.seen.over

        taking = [track for track in run.tracks if self.active is None or any(steps_at([track], self.active))]
        with run.budget.during(STARTING):
            if not run.processes.begin(run.processes.number + 1, taking or run.tracks, meanwhile):
                return False
        self.add()
        self.starting = (self.starting + clock.seconds() - before) / 2
        return True

    def add(self) -> None:
        """Bring further sizes into the heats while there is time for them, and let pause what is settled."""
        run, seen = self.run, self.run.seen
        self.active = None if seen.early or run.settings.whole else set(seen.points)
        for track in run.tracks:
            where = track.contender.name, track.family.name
            for size in seen.between.get(where, []):
                self.further(track, size, track.between(size), f"{run.book.at(size)} is near a crossover")
            larger = seen.larger.get(where)
            if larger is not None and track.steps and larger > max(track.steps):
                self.extended[where] = self.extended.get(where, 0) + 1
                self.further(track, larger, track.at(larger), f"{run.book.at(larger)} tells its order")
        if self.active is not None and not self.active:
            self.active = None
        self.plan()

    def further(self, track: Track, size: Number, expected: float, why: str) -> None:
        """Measure a contender at a further size from now on, if there is time for it."""
        run = self.run
        trial = len(track.contender.stages) * (max(expected, self.target) + AROUND_S)
        if size in track.steps or not track.allowed(size) or schedule.HEATS_LEAST * trial > run.budget.left:
            return
        run.tell(f"{track.contender.name} on {track.family.name}: {why}")
        log.info("%s on %s: %s", track.contender.name, track.family.name, why)
        with run.budget.during(CALIBRATING):
            is_through = calibrate(run, track, size, expected, is_further=True)
        if is_through and self.active is not None:
            self.active.add((track.contender.name, track.family.name, size))
