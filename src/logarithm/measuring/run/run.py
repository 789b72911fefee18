"""One run: rehearse, climb the ladders, then heat after heat until the budget is used, all into the logbook."""

from __future__ import annotations

import math
import random
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from ...logbook.records import Failure, Note, Trial
from ...logbook.writing import LogbookWriter
from ...notation.sizes import Number
from ...study.study import Study
from ..child.bench import round_calls
from ..parent.crew import Crew
from ..parent.failed import Failed
from ..parent.limits import limits
from ..parent.tools import absent
from . import plan
from .gather import gather, metrics_of
from .plan import DesignPoint, Settings, Step, Track
from .rehearsal import Rehearsed, rehearse

NANO = 1e-9
ENDING, ENDING_SHARE = 0.4, 0.03  # seconds, and share of the budget, kept for starting up, ending and the report
REHEARSAL_SHARE = 0.05
FAIR = 0.7
IDLE = 0.03  # seconds: too little for anything but the shortest trials
AGAIN, SURPRISE = 2, 3.0
SEARCH_SHARE = 0.05
COUNTING_SHARE = 0.4  # of what is left of the budget after the climb
ASKED, ASKING_UNTIL = 4, 0.75  # how often sizes are added, and up to which share of the time

Progress = Callable[[float, str], None]
"""Called with the share of the budget that is used, and what is being done."""

Advice = Callable[[Path], dict[tuple[str, str], list[Number]]]
"""Reads the logbook as far as it is written, and returns further sizes for (contender, family)."""


@dataclass(slots=True)
class Outcome:
    """How a run ended."""

    logbook: Path
    heats: int
    lives: int
    elapsed: float
    inside: float
    rehearsed: Rehearsed


@dataclass(slots=True)
class Run:
    """A run under way. `inside` sums the seconds spent inside timed calls."""

    study: Study
    study_file: Path
    settings: Settings
    writer: LogbookWriter
    progress: Progress
    advice: Advice | None = None
    begun: float = field(default_factory=time.monotonic)
    free: set[str] = field(default_factory=set)
    before: float = 0.0
    target: float = field(init=False)
    loud: set[str] = field(default_factory=set)
    lost: set[DesignPoint] = field(default_factory=set)
    warmed: set[DesignPoint] = field(default_factory=set)
    heats: int = 0
    life: int = 1
    inside: float = 0.0
    starting: float = 0.1
    pauses: dict[tuple[str, str, Number], int] = field(default_factory=dict)
    absent: dict[str, str] = field(init=False)
    tracks: list[Track] = field(init=False)
    crew: Crew = field(init=False)
    shuffler: random.Random = field(init=False)

    def __post_init__(self) -> None:
        """Lay out the tracks; nobody works yet."""
        self.target = self.settings.trial
        self.crew = Crew(self.study, self.study_file, [], 0, {}, self.free)
        self.absent = absent(self.study)
        self.tracks = plan.tracks(self.study, self.settings, self.absent)
        self.shuffler = random.Random(self.settings.seed)

    @property
    def elapsed(self) -> float:
        """Seconds since the run began, those of an interrupted run that is gone on with included."""
        return time.monotonic() - self.begun + self.before

    @property
    def deadline(self) -> float:
        """Seconds after the beginning at which the last trial must be over."""
        return self.settings.budget * (1 - ENDING_SHARE) - ENDING

    def tell(self, what: str) -> None:
        """Report progress."""
        self.progress(min(self.elapsed / self.settings.budget, 1.0), what)

    def rehearse(self) -> Rehearsed:
        """Compare answers; what cannot even begin leaves the run here."""
        until = self.begun + self.settings.budget * REHEARSAL_SHARE
        rehearsed = rehearse(self.study, self.tracks, self.crew, until, self.tell)
        for contender, family, size, failed in rehearsed.failures:
            for track in self.tracks:
                if (track.contender.name, track.family.name, track.next) == (contender, family, size):
                    self.fail(track, size, None, failed)
                    track.end()
        self.loud |= {trap.contender for trap in rehearsed.traps if trap.kind == "prints"}
        for trap in rehearsed.traps:
            self.writer.write(Note(topic="trap", text=str(trap), contender=trap.contender))
        return rehearsed

    def climb(self) -> None:
        """Go up the ladders, all contenders together by size, and find how many calls a trial needs."""
        while climbing := [track for track in self.tracks if track.next is not None]:
            size = min(track.next for track in climbing if track.next is not None)
            level = [track for track in climbing if track.next == size]
            self.writer.flush()
            self.shuffler.shuffle(level)
            for track in level:
                self.tell(f"climbing: {track.contender.name} on {track.family.name}, n = {size}")
                refusal = self.refusal(track)
                if refusal:
                    self.end_ladder(track, size, f"ends before {self.at(size)}: {refusal}")
                elif self.step(track, size) or not track.is_size:
                    track.advance()
                else:
                    track.end()
        self.writer.flush()

    def refusal(self, track: Track) -> str:
        """Why the next size of a track is not to be tried; empty where it is."""
        expected = track.forecast()
        if expected > track.ceiling:
            return f"a call would take about {expected:.2g} s, over the ceiling of {track.ceiling:g} s"
        trial = max(expected, self.settings.trial) + plan.AROUND
        # Everyone has a fair share of the budget; beyond it a contender goes only while there is enough for all.
        fair = FAIR * self.deadline / plan.HEATS_LEAST / len(self.tracks)
        if plan.heat_cost([track]) + trial <= fair:
            return ""
        heats = plan.HEATS_LEAST * (plan.heat_cost(self.tracks) + trial)
        if track.steps and self.elapsed + trial + heats + plan.reserve(self.tracks, self.settings) > self.deadline:
            return f"a call would take about {expected:.2g} s, too much for a budget of {self.settings.budget:g} s"
        return ""

    def end_ladder(self, track: Track, size: Number, why: str) -> None:
        """Let a contender go no further, and say why."""
        names = track.contender.name, track.family.name
        self.writer.write(Note(topic="ladder", text=why, contender=names[0], family=names[1], size=size))
        track.end()

    def at(self, size: Number) -> str:
        """A place on the axis, as people read it."""
        return f"{'n' if self.study.axis == 'size' else self.study.axis} = {size}"

    def step(self, track: Track, size: Number, expected: float | None = None) -> bool:
        """Calibrate one contender at one size. Returns whether it came through."""
        found: dict[str | None, Step] = {}
        for stage in track.contender.stages:
            point = DesignPoint(track.contender.name, track.family.name, size, stage)
            # A quarter of a trial is enough to see how many calls a whole one needs.
            request = {"do": "first", "target": int(self.settings.trial / NANO / 4), **self.named(point)}
            limit = track.ceiling * 1.1 + 0.5
            try:
                reply = self.crew.ask(point.contender, request, limit)
            except Failed as failed:
                self.fail(track, size, stage, failed, works=self.search(track, size, failed))
                return False
            call = self.record(point, reply, heat=0, copies=reply["changes"])
            self.hear(point, reply["printed"])
            # One bad moment must not end a ladder: what is far dearer than was to be expected is looked at again.
            usual = (track.forecast() if expected is None else expected) or self.settings.trial
            for _ in range(AGAIN):
                if call > SURPRISE * usual:
                    with suppress(Failed):
                        again = {"do": "trial", "calls": 1, "warm": 0, "copies": True, **self.named(point)}
                        call = min(call, self.record(point, self.crew.ask(point.contender, again, limit), heat=0))
            if call > track.ceiling:
                why = f"a call took {call:.3g} s, over the ceiling of {track.ceiling:g} s"
                self.end_ladder(track, size, f"ends at {self.at(size)}: {why}")
                return False
            calls = round_calls(self.settings.trial / max(call, 1e-9))
            found[stage] = Step(calls, call, reply["changes"])
        track.steps[size] = found
        return True

    def hear(self, point: DesignPoint, printed: int) -> None:
        """Tell once of a contender that prints, if the rehearsal did not: it may do so at large sizes only."""
        if printed and point.contender not in self.loud:
            self.loud.add(point.contender)
            text = f"prints at {self.at(point.size)}, and the time includes that"
            self.writer.write(Note(topic="trap", text=text, contender=point.contender, size=point.size))

    def search(self, track: Track, fails: Number, failed: Failed) -> Number | None:
        """Return the largest whole size below one that failed that still works, as far as there is time to search."""
        works = max(track.steps, default=None)
        if works is None or not track.is_size or failed.reason == "timeout":
            return works
        until = self.elapsed + self.settings.budget * SEARCH_SHARE
        low, high = int(works), math.ceil(fails)
        while high - low > 1 and self.elapsed < until:
            middle = (low + high) // 2
            self.tell(f"{track.contender.name} fails at {self.at(fails)}: does {middle} work?")
            request = {"do": "try", "family": track.family.name, "size": middle, "seed": self.seed}
            try:
                self.crew.ask(track.contender.name, request, track.ceiling * 1.1 + 0.5)
                low = middle
            except Failed:
                high = middle
        return low

    def heat(self, until: float) -> None:
        """One trial at every design point in shuffled order, as long as the next one ends before `until`."""
        self.heats += 1
        order = plan.points(self.tracks)
        # In the second half every other heat goes to what is still open, not to plain cases once more.
        if self.heats % 2 == 0 and self.heats > plan.HEATS_LEAST and self.elapsed > self.settings.budget / 2:
            wanted = plan.deciding(self.tracks)
            order = [point for point in order if (point.contender, point.family, point.size) in wanted]
        self.shuffler.shuffle(order)
        tracks = {(track.contender.name, track.family.name): track for track in self.tracks}
        for point in order:
            track = tracks[point.contender, point.family]
            step = track.steps.get(point.size, {}).get(point.stage)
            pausing = (self.heats - 1) % self.pauses.get((point.contender, point.family, point.size), 1)
            if step is None or pausing or self.elapsed + step.trial > until:
                continue
            self.tell(f"heat {self.heats}, life {self.life}")
            # What ran before has emptied the processor's caches; a new process has to warm up more than these.
            warm = 0 if step.calls == 1 else 1 if point in self.warmed else round_calls(step.calls / 10)
            self.warmed.add(point)
            request = {
                "do": "trial",
                "calls": step.calls,
                "warm": warm,
                "copies": step.copies,
                **self.named(point),
            }
            limit = 2 * max(track.ceiling, (step.calls + warm) * step.call) + 0.5
            try:
                reply = self.crew.ask(point.contender, request, limit)
            except Failed as failed:
                self.lose(track, point, failed)
                continue
            step.seen(self.record(point, reply, self.heats, step.copies), self.target)
        self.writer.flush()

    def lose(self, track: Track, point: DesignPoint, failed: Failed) -> None:
        """A design point that came through before has failed: once may be an accident from outside, twice is not."""
        if point in self.lost:
            self.fail(track, point.size, point.stage, failed)
            track.drop(point.size)
            return
        self.lost.add(point)
        text = f"failed once at {self.at(point.size)}, in heat {self.heats}: {failed.reason} ({failed.detail})"
        self.writer.write(
            Note(topic="lost", text=text, contender=point.contender, family=point.family, size=point.size)
        )

    def count(self) -> None:
        """Gather what is counted rather than timed."""
        alone = "time" not in metrics_of(self.study, self.settings)
        left = self.deadline - self.elapsed
        until = time.monotonic() + (left if alone else COUNTING_SHARE * left)
        for record in gather(self.study, self.study_file, self.tracks, self.settings, self.seed, until):
            self.tell("counting")
            self.writer.write(record)
        self.writer.flush()

    def start_ups(self) -> dict[str, float]:
        """Seconds that each command takes to start, by contender."""
        found: dict[str, float] = {}
        for track in self.tracks:
            name = track.contender.name
            if track.contender.program is None or name in found or not track.steps:
                continue
            request = {"do": "startup", "family": track.family.name, "size": min(track.steps), "seed": self.seed}
            with suppress(Failed):
                seconds = self.crew.ask(name, request, track.ceiling * 1.1 + 0.5)["startup"]
                if seconds is not None:
                    found[name] = seconds
        return found

    def all_heats(self) -> None:
        """Heat after heat, in several lives, until the budget is used."""
        if "time" not in metrics_of(self.study, self.settings):
            return
        begun, left = self.elapsed, self.deadline - self.elapsed
        self.target = plan.longer_trials(self.tracks, self.settings, left)
        for step in (step for track in self.tracks for steps in track.steps.values() for step in steps.values()):
            step.calls = round_calls(self.target / max(step.call, 1e-9))
        heats, self.pauses = plan.rhythm(self.tracks, self.settings, left)
        lives = plan.lives(heats, left, self.starting)
        each = math.ceil(heats / lives)
        for life in range(1, lives + 1):
            if life > 1:
                asks = (life - 2) % max(1, lives // ASKED) == 0 and self.elapsed < ASKING_UNTIL * self.deadline
                self.begin_life(life, asks)
            until = begun + left * life / lives
            last = min(life * each, heats)
            # Where the machine is slower than it was during the climb, each life still gets a heat; where it
            # is faster, further heats are added at the end.
            while plan.points(self.tracks) and self.elapsed < self.deadline - IDLE:
                enough = self.heats >= last or (self.elapsed > until and self.heats >= life)
                if self.heats >= plan.HEATS_MOST or (enough and life < lives):
                    break
                self.heat(self.deadline)

    def begin_life(self, life: int, asks: bool = False) -> None:
        """Start fresh workers, and let those of the last life go. While they start, ask which sizes to add."""
        self.crew.end()
        self.life = life
        self.warmed.clear()
        contenders = list({track.contender.name: track.contender for track in self.tracks}.values())
        begun = time.monotonic()
        bounds = limits(self.settings, len(contenders))
        self.crew = Crew(self.study, self.study_file, contenders, self.seed, bounds, self.free)
        self.writer.flush()
        wanted = self.advice(self.writer.path) if asks and self.advice is not None else {}
        self.crew.greet()
        self.starting = time.monotonic() - begun
        self.add(wanted)

    def add(self, wanted: dict[tuple[str, str], list[Number]]) -> None:
        """Bring further sizes into the heats, between those that were climbed, while there is time for them."""
        for track in self.tracks:
            for size in wanted.get((track.contender.name, track.family.name), []):
                expected = track.between(size)
                trial = len(track.contender.stages) * (max(expected, self.target) + plan.AROUND)
                left = self.deadline - self.elapsed
                if size in track.steps or plan.HEATS_LEAST * (plan.heat_cost(self.tracks) + trial) > left:
                    continue
                self.tell(f"a closer look: {track.contender.name} on {track.family.name}, {self.at(size)}")
                if self.step(track, size, expected):
                    track.steps = dict(sorted(track.steps.items()))

    def named(self, point: DesignPoint) -> dict[str, Any]:
        """The part of a request that says where."""
        return {"family": point.family, "size": point.size, "seed": self.seed, "stage": point.stage}

    @property
    def seed(self) -> int:
        """The seed of this life's instances."""
        return self.settings.seed * 1000 + self.life

    def record(self, point: DesignPoint, reply: dict[str, Any], heat: int, copies: bool = False) -> float:
        """Write one trial down. Returns the seconds of one call."""
        trial = Trial(
            contender=point.contender,
            family=point.family,
            size=point.size,
            stage=point.stage,
            heat=heat,
            life=self.life,
            seed=self.seed,
            calls=reply["calls"],
            elapsed=reply["elapsed"],
            overhead=round(reply["overhead"], 1),
            cpu=reply["cpu"],
            pace=reply["pace"],
            copies=copies,
            at=round(self.elapsed, 3),
        )
        self.writer.write(trial)
        self.inside += trial.elapsed * NANO
        return max(trial.elapsed - trial.overhead, 1.0) * NANO / trial.calls

    def fail(self, track: Track, size: Number, stage: str | None, failed: Failed, works: Number | None = None) -> None:
        """Write one failure down."""
        self.writer.write(
            Failure(
                contender=track.contender.name,
                family=track.family.name,
                size=size,
                stage=stage,
                reason=failed.reason,
                detail=failed.detail,
                works=works,
                life=self.life,
            )
        )
