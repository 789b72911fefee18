"""Heat after heat: one trial at every design point in shuffled order, in several lives, until the budget is used."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from ...notation.sizes import Number
from ..parent.failed import Failed
from ..plan import rhythm
from ..plan.track import AROUND, DesignPoint, Track, heat_cost, making_cost, points, pools
from ..shared.clock import round_calls
from ..shared.messages import TakeTrial, Timed
from .beside import Beside, fields_of, timing_of
from .climb import calibrate
from .counts import metrics_of
from .run import Advice, Run

START_PREPARED = 0.3  # of what the first start took, where workers are started beside the life before
IDLE = 0.03  # seconds: too little for anything but the shortest trials
ASKED, ASKING_UNTIL = 4, 0.75  # how often sizes are added, and up to which share of the time


@dataclass(slots=True)
class Heats:
    """The heats of a run.

    Attributes:
        run: the run.
        advice: asked now and then which sizes to add.
        target: seconds that a trial should last.
        pauses: (contender, family, size) that take part only in every k-th heat, with k.
        lost: design points at which a trial has failed once.
        beside: trials that stand beside those of the heats.
    """

    run: Run
    advice: Advice | None = None
    target: float = 0.0
    pauses: dict[tuple[str, str, Number], int] = field(default_factory=dict)
    lost: set[DesignPoint] = field(default_factory=set)
    beside: Beside = field(init=False)

    def __post_init__(self) -> None:
        """Begin with nothing beside the heats."""
        self.beside = Beside(self.run)

    def all(self) -> None:
        """Heat after heat, in several lives, until the budget is used."""
        run, budget = self.run, self.run.budget
        if "time" not in metrics_of(run.study, run.settings):
            return
        begun, left = budget.elapsed, budget.left
        self.target = rhythm.trial_length(run.tracks, run.settings, left)
        for step in (step for track in run.tracks for steps in track.steps.values() for step in steps.values()):
            step.calls = round_calls(self.target / max(step.call, 1e-9))
        heats, self.pauses = rhythm.rhythm(run.tracks, self.target, left)
        first = run.lives.number
        lives = rhythm.lives(heats, left, START_PREPARED * run.lives.starting + making_cost(run.tracks))
        already, each = run.heats, math.ceil(heats / lives)
        for life in range(1, lives + 1):
            if life > 1:
                asks = (life - 2) % max(1, lives // ASKED) == 0 and budget.elapsed < ASKING_UNTIL * budget.deadline
                self.next_life(first + life - 1, asks, last=life == lives)
            until = begun + left * life / lives
            last = already + min(life * each, heats)
            # Where the machine is slower than it was during the climb, each life still gets a heat; where it
            # is faster, further heats are added at the end.
            while points(run.tracks) and budget.left > IDLE:
                enough = run.heats >= last or (budget.elapsed > until and run.heats >= already + life)
                if run.heats - already >= rhythm.HEATS_MOST or (enough and life < lives):
                    break
                self.one()

    def one(self) -> None:
        """One trial at every design point in shuffled order, as long as the next one ends before the deadline."""
        run = self.run
        run.heats += 1
        order = points(run.tracks)
        # In the second half every other heat goes to what is still open, not to plain cases once more.
        if run.heats % 2 == 0 and run.heats > rhythm.HEATS_LEAST and run.budget.elapsed > run.budget.total / 2:
            wanted = rhythm.deciding(run.tracks)
            order = [point for point in order if (point.contender, point.family, point.size) in wanted]
        run.shuffler.shuffle(order)
        tracks = {(track.contender.name, track.family.name): track for track in run.tracks}
        among = pools(run.tracks)
        self.beside.begin_heat()
        for point in order:
            self.trial(tracks[point.contender, point.family], point, among.get((point.family, point.size), 1))
        run.book.flush()

    def trial(self, track: Track, point: DesignPoint, instances: int) -> None:
        """One trial on so many instances in turn, unless the point pauses in this heat or the time would not do."""
        run, lives = self.run, self.run.lives
        step = track.steps.get(point.size, {}).get(point.stage)
        pausing = (run.heats - 1) % self.pauses.get((point.contender, point.family, point.size), 1)
        if step is None or pausing or step.trial > run.budget.left:
            return
        run.tell(f"heat {run.heats}, life {lives.number}")
        # All contenders of a heat begin with the same instance of the pool, those of the next heat with another one.
        timing = timing_of(point, step, lives.seed, instances, first=run.heats - 1)
        limit = 2 * max(track.ceiling, 1.1 * step.calls * step.call) + 0.5
        try:
            if point not in lives.warmed:
                self.beside.warm_up(track, point, timing, limit)
            # What ran before has emptied the processor's caches.
            warm = 0 if step.calls == 1 else 1 if point in lives.warmed else round_calls(step.calls / 10)
            lives.warmed.add(point)
            request = TakeTrial(**fields_of(timing), warm=warm)
            timed = lives.crew.ask(point.contender, request, Timed, limit, step.calls)
            call = run.book.trial(
                point, timed, run.heats, lives.number, lives.seed, step.copies, instances, step.promise
            )
            step.seen(call, self.target)
            self.beside.repeat(point, step, timing, limit)
        except Failed as failed:
            self.lose(track, point, failed)

    def lose(self, track: Track, point: DesignPoint, failed: Failed) -> None:
        """A design point that came through before has failed: once may be an accident from outside, twice is not."""
        run = self.run
        if point in self.lost:
            run.book.failure(track, point.size, point.stage, failed, run.lives.number)
            track.drop(point.size)
            return
        self.lost.add(point)
        text = f"failed once at {run.book.at(point.size)}, in heat {run.heats}: {failed.reason} ({failed.detail})"
        run.book.note("lost", text, point.contender, point.family, point.size)

    def next_life(self, number: int, asks: bool, last: bool) -> None:
        """Begin another life. While its workers start, ask which sizes to add."""
        wanted: dict[tuple[str, str], list[Number]] = {}

        def ask() -> None:
            self.run.book.flush()
            if asks and self.advice is not None:
                wanted.update(self.advice(self.run.book.writer.path))

        self.run.lives.begin(number, self.run.tracks, ask, last)
        self.add(wanted)

    def add(self, wanted: dict[tuple[str, str], list[Number]]) -> None:
        """Bring further sizes into the heats, between those that were climbed, while there is time for them."""
        run = self.run
        for track in run.tracks:
            for size in wanted.get((track.contender.name, track.family.name), []):
                expected = track.between(size)
                trial = len(track.contender.stages) * (max(expected, self.target) + AROUND)
                if size in track.steps or rhythm.HEATS_LEAST * (heat_cost(run.tracks) + trial) > run.budget.left:
                    continue
                run.tell(f"a closer look: {track.contender.name} on {track.family.name}, {run.book.at(size)}")
                if calibrate(run, track, size, expected):
                    track.steps = dict(sorted(track.steps.items()))
