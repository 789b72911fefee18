"""A look at one submission, without timing it: does it keep to the rules, is it right, how does its work grow."""

from __future__ import annotations

import random
import time
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import msgspec

from ...errors import MeasuringError, harmless, one_line
from ...logbook.records import AnyRecord, Failure, HiddenRecord, LinesRecord, Note, Trial
from ...notation.metrics import WORK
from ...notation.sizes import Number
from ...protocol.replies import Answered, Counted, Done, HiddenWork, TrapsFound
from ...protocol.requests import AnswerGiven, Count, FindTraps, Give
from ...run.counters.work import filled
from ...run.plan.track import forecast
from ...run.rehearsal.traps import TEXTS
from ...study.exercise.handed_in import rule_broken
from ...study.exercise.marks import Asked
from ...study.parts import Contender, Family
from ...study.study import Study
from ...supervisor.failed import Failed
from ...supervisor.limits import limits
from ...supervisor.sandboxed import SandboxedWorker
from ...supervisor.worker import Worker
from ..handed_in import text_of
from ..plan import SMALL_INSTANCES, SMALL_SIZES, FamilyPlan
from .judge import Judge, cases_for, reference_of, sandboxed_of
from .shrink import CEILING, counterexample, shrunk, wrong_said

TRAP_SEEDS = (0, *range(1000, 1005))  # instances that looking for traps takes, from its seed on
BEYOND_LONGEST = 1.0  # seconds that counting one call beyond the sizes may be thought to take
STEPS_LONGEST, STEEP = 4.0, 25.0  # seconds for counting one call, and times the work at the size before
BETWEEN_MOST, AGAIN_MOST = 60_000, 30_000  # units of work up to which sizes in between, and two instances, are counted
SHOWN_MOST = 400  # letters of an instance that is worth showing
FOREIGN = "is written in {}, where work is not counted: its order is that of its time, known to about n^0.3"
STARTS = "starts threads or processes, whose steps are not counted"

BAD = ("incorrect", "broken", "unseen", "rule")


class LookJob(msgspec.Struct, frozen=True):
    """Look at one contender.

    Attributes:
        name: of it.
        function: that is asked for.
        memory: bytes that it may fill.
        salt: what its instances and sizes are drawn from; nobody knows it before.
        families: the sizes at which everyone is looked at.
        trusted: whether it need not run in a sandbox.
    """

    name: str
    function: str
    memory: float
    salt: int
    families: tuple[FamilyPlan, ...]
    trusted: bool = False


def is_bad(record: AnyRecord) -> bool:
    """Whether a record says that a submission is not right."""
    if isinstance(record, Note):
        return record.topic in BAD or (record.topic == "case" and bool(record.text))
    return isinstance(record, Failure)


def look_at(study: Study, study_file: Path, job: LookJob) -> list[AnyRecord]:
    """Everything that can be seen of one contender without timing it."""
    asked = study.asked[job.function]
    judge = Judge(study, study_file, reference_of(study, asked), limits(2, job.memory))
    look = _Look(study, study_file, study.the_contender(job.name), asked, job, judge)
    try:
        look.all()
    finally:
        judge.end()
    return look.seen


@dataclass(slots=True)
class _Look:
    """A look at one submission, or at the reference."""

    study: Study
    study_file: Path
    contender: Contender
    asked: Asked
    job: LookJob
    judge: Judge
    seen: list[AnyRecord] = field(default_factory=list)
    running: SandboxedWorker | None = None

    def all(self) -> None:
        """Everything that can be seen without timing."""
        if self.contender.source is None:
            self.of_reference()
            return
        try:
            self.sandboxed.greet()
            if self.is_right():
                self.traps()
                self.steps()
        except (Failed, MeasuringError) as error:
            text = str(error).removeprefix(f"the worker of '{self.contender.name}' did not start: ")
            self.note("broken", text)
        except Exception as error:  # a fault of ours must not be taken for one of theirs, nor lose the others
            self.note("unseen", f"could not be assessed: {error}")
        finally:
            if self.running is not None:
                self.running.end()

    def of_reference(self) -> None:
        """What everyone is held against; the referee is tried with what is no answer to anything."""
        family, sizes = self.families[0], self.plan(self.families[0]).sizes
        for what in self.judge.weaknesses(family.name, sizes[min(1, len(sizes) - 1)], self.seed(0)):
            self.note("referee", f"the referee accepts {what} as an answer: let it check more")
        self.steps()

    @property
    def sandboxed(self) -> SandboxedWorker:
        """A process with the submission's code; one that had to be ended is started anew, with what time is left."""
        if self.running is None or not self.running.alive:
            until = None
            if self.running is not None:
                until = self.running.until
                self.running.end()
            self.running = sandboxed_of(self.study, self.study_file, self.contender, self.job.memory, self.job.trusted)
            self.running.until = until or self.running.until
        return self.running

    @property
    def worker(self) -> Worker:
        """Whoever runs the contender's code."""
        return self.judge.worker if self.contender.source is None else self.sandboxed

    @property
    def families(self) -> list[Family]:
        """The families that this submission is judged on."""
        own, planned = self.contender.options.families, [each.name for each in self.job.families]
        return [each for each in self.study.families if each.name in (planned if own is None else own)]

    def plan(self, family: Family) -> FamilyPlan:
        """The sizes of a family at which everyone of this assessment is looked at."""
        return next(each for each in self.job.families if each.name == family.name)

    def seed(self, number: int) -> int:
        """The seed of the instances of this number."""
        return random.Random(f"{self.job.salt}/{number}").getrandbits(40)

    @property
    def notes(self) -> list[Note]:
        """What was said until now."""
        return [each for each in self.seen if isinstance(each, Note)]

    def note(
        self, topic: str, text: str, family: str | None = None, size: Number | None = None, cause: str = ""
    ) -> None:
        """Take down what is to be said of the submission."""
        made = Note(topic=topic, text=one_line(harmless(text)), contender=self.contender.name, family=family, size=size)
        made.cause = cause
        self.seen.append(made)

    def is_right(self) -> bool:
        """Whether it keeps to the rules and every answer is right; of each family the first wrong one is told."""
        return self.keeps_rules() and all([self.cases_are_right(), *map(self.is_right_on, self.families)])

    def keeps_rules(self) -> bool:
        """Whether it imports only what is allowed."""
        allowed, source = self.asked.imports, self.contender.source
        if allowed is None or source is None or source.language:
            return True
        with suppress(Failed):
            if broken := rule_broken(self.judge.imported(text_of(source)), allowed):
                self.note("rule", broken)
                return False
        return True

    def cases_are_right(self) -> bool:
        """Whether the answers to all fixed cases are right; each of them is told."""
        told = []
        for case in cases_for(self.study, self.asked):
            instance, right = self.judge.case(case)
            try:
                reply = self.sandboxed.ask(AnswerGiven(instance), Answered, CEILING)
                is_right = reply.comparable and self.judge.is_right(instance, reply.answer, right)
                why = "" if is_right else wrong_said(self.judge, case.instance, reply.answer, right)
            except Failed as failed:
                why = one_line(f"{failed.reason}: {failed.detail}".rstrip(": "))
            told.append(not why)
            made = Note(topic="case", text=one_line(harmless(why)), contender=self.contender.name, cause=case.name)
            self.seen.append(made)
        return all(told)

    def is_right_on(self, family: Family) -> bool:
        """Whether every answer on a family is right, from the edges to one size beyond the others."""
        plan = self.plan(family)
        for size in (*plan.small, plan.all[-1]):
            is_beyond = size == plan.all[-1]
            if not self.are_right(family, size, 1 if size < 2 or is_beyond else SMALL_INSTANCES, is_beyond):
                return False
        return True

    def are_right(self, family: Family, size: Number, many: int, is_beyond: bool) -> bool:
        """Whether the answers to so many instances are right; one that takes too long beyond the sizes is let be."""
        try:
            pairs = self.judge.expected(family.name, size, self.seed(1), many)
        except Failed:
            return True  # it was tried, but nobody's judge can be held up by a slow moment
        for number, pair in enumerate(pairs):
            try:
                reply = self.sandboxed.ask(AnswerGiven(pair[0]), Answered, CEILING)
            except Failed as failed:
                if is_beyond and failed.is_late:
                    self.note("uncounted", f"takes more than {CEILING:g} s at n = {size:g}", family.name, size)
                    return True
                self.failed(family, size, failed, self.seed(1) + number)
                return False
            if not self.is_accepted(family, size, reply, pair, self.seed(1) + number):
                return False
        return True

    def is_accepted(
        self,
        family: Family,
        size: Number,
        reply: Answered | Counted,
        pair: tuple[Any, Any],
        seed: int,
        when: str = "",
    ) -> bool:
        """Whether an answer that was given is right; where not, that is taken down."""
        instance, expected = pair
        if isinstance(reply, Answered) and reply.lazy is not None:
            self.note("incorrect", TEXTS["lazy"].format(reply.lazy).split(":")[0], family.name, size)
        elif reply.too_large:
            self.note("incorrect", "its answer is too large or nested too deep to compare", family.name, size)
        elif self.judge.is_right(instance, reply.answer, expected):
            return True
        else:
            shown = family.instance(size, seed)
            told = counterexample(self.judge, self.sandboxed, shown, (reply.answer, expected))
            self.note("incorrect", f"{when}{told}", family.name, size)
        return False

    def failed(self, family: Family, size: Number, failed: Failed, seed: int | None = None) -> None:
        """Take down that a call came to nothing, with the smallest instance that shows it."""
        record = Failure(contender=self.contender.name, family=family.name, size=size, reason="", detail="")
        record.reason, record.detail = failed.reason, failed.detail
        if seed is not None:
            shown = self.smallest_failing(family, size, failed, seed)
            record.detail = "; ".join(part for part in (failed.detail, shown and f"for example with {shown}") if part)
        self.seen.append(record)

    def smallest_failing(self, family: Family, size: Number, failed: Failed, seed: int) -> str:
        """The smallest instance on which it fails alike, as Python writes it; one that is late is not made smaller."""

        def fails(candidate: Any) -> bool:
            try:
                written, _ = self.judge.answer_to(candidate)
            except (Failed, ValueError):
                return False
            try:
                self.sandboxed.ask(AnswerGiven(written), Answered, CEILING)
            except Failed as other:
                return other.reason == failed.reason
            return False

        instance = family.instance(size, seed)
        shown = repr(instance if failed.is_late else shrunk(instance, fails))
        return one_line(shown, 120) if failed.is_late or len(shown) < SHOWN_MOST else f"an instance of size {size:g}"

    def traps(self) -> None:
        """Look for traps at a small size."""
        family = self.families[0]
        sizes = self.plan(family).sizes
        size = next((size for size in (16, *SMALL_SIZES) if sizes[0] <= size <= sizes[-1]), sizes[0])
        seed = self.seed(2)
        with suppress(Failed):
            for number in TRAP_SEEDS:
                self.given(family, size, seed + number)
            told = self.sandboxed.ask(FindTraps(family.name, size, seed, size), TrapsFound, 5 * CEILING).traps
            for kind, detail in told.items():
                if kind in TEXTS and not (kind == "fickle" and self.study.judge is not None):
                    self.note("trap", TEXTS[kind].format(detail).split(", so each call")[0], cause=kind)

    def given(self, family: Family, size: Number, seed: int) -> tuple[Any, Any]:
        """An instance that the submission holds now, and the right answer to it. Raises Failed."""
        ((instance, right),) = self.judge.expected(family.name, size, seed)
        self.sandboxed.ask(Give(family.name, size, seed, instance), Done, CEILING)
        return instance, right

    def steps(self) -> None:
        """Count work at the sizes of each family, as far as that is quick; the answers must be right, too."""
        source = self.contender.source
        if source is not None and source.language:
            self.note("foreign", FOREIGN.format(source.language))
            return
        for family in self.families:
            done: list[tuple[Number, float]] = []
            planned, took = self.plan(family).all, 0.0
            for size in filled([*planned]):
                # What is quick is told by counts, which are the same each time.
                if size not in planned and done and done[-1][1] > BETWEEN_MOST:
                    continue
                ahead = forecast(done[-3], done[-1], size) / done[-1][1] if len(done) > 2 else 1.0
                longest = STEPS_LONGEST if size in self.plan(family).sizes else BEYOND_LONGEST
                is_steep = ahead > STEEP or ahead * took > longest
                begun = time.monotonic()
                work = None if is_steep else self.counted_at(family, size, 1, not done)
                took = time.monotonic() - begun
                if work is None:
                    self.uncounted(family, size, done)
                    break
                done.append((size, float(max(work, 1))))
                # Instances differ: another one is worth its time where that is short.
                if work < AGAIN_MOST:
                    begun = time.monotonic()
                    if self.counted_at(family, size, 2, False) is None:
                        break
                    took = min(took, time.monotonic() - begun)  # other programs may have had the processor once
            if any(each.topic in BAD for each in self.notes):
                return
            self.hidden(family, [size for size, _ in done])

    def uncounted(self, family: Family, size: Number, done: list[tuple[Number, float]]) -> None:
        """Say that its work could not be counted up to the end, where that of the reference can be."""
        if self.contender.source is not None and not any(each.topic in BAD for each in self.notes):
            last = f"beyond n = {done[-1][0]:g}" if done else "at any size"
            self.note("uncounted", f"its work could not be counted {last} on {family.name}", family.name, size)

    def counted_at(self, family: Family, size: Number, heat: int, is_first: bool) -> int | None:
        """Count the work of one call, on one of two instances. Returns it; None where there is no going on."""
        is_sandboxed, seed = self.contender.source is not None, self.seed(2 + heat)
        name = self.contender.name
        try:
            pair = self.given(family, size, seed) if is_sandboxed else None
        except Failed:
            return None  # the reference has no answer to so large an instance
        try:
            reply = self.worker.ask(Count(family.name, size, seed, None, "lines"), Counted, STEPS_LONGEST)
            steps = reply.values["steps"]
        except (Failed, KeyError) as error:
            failed = error if isinstance(error, Failed) else Failed("nonsense", "its steps were not reported")
            # Counting takes room on the stack, and time: what fails only then does not fail.
            if pair is not None and (is_first or not failed.is_late) and not self.works(pair):
                self.failed(family, size, failed, seed)
            return None
        when = "while its steps are counted it "
        if pair is not None and not self.is_accepted(family, size, reply, pair, seed, when):
            return None
        if is_sandboxed and reply.helped and not any(each.topic == "started" for each in self.notes):
            self.note("started", STARTS)
        work = reply.values.get("work", steps)
        for metric, value in (("steps", steps), (WORK, work)):
            trial = Trial(contender=name, family=family.name, size=size, metric=metric, heat=heat, seed=seed)
            trial.value = value
            self.seen.append(trial)
        if reply.lines and heat == 1:
            lines = LinesRecord(contender=name, family=family.name, size=size)
            lines.lines, lines.operations = reply.lines, reply.operations
            self.seen.append(lines)
        return round(work)

    def works(self, pair: tuple[Any, Any]) -> bool:
        """Whether a plain call comes to an answer."""
        with suppress(Failed):
            self.sandboxed.ask(AnswerGiven(pair[0]), Answered, CEILING)
            return True
        return False

    def hidden(self, family: Family, sizes: list[Number]) -> None:
        """Look at two sizes for operations that themselves grow, where that is quick."""
        seed = self.seed(3)
        for size in sizes[:: max(len(sizes) // 2, 1)][1:3] if len(sizes) > 2 else []:
            with suppress(Failed):
                reply = self.worker.ask(Count(family.name, size, seed, None, "hidden"), HiddenWork, STEPS_LONGEST)
                record = HiddenRecord(contender=self.contender.name, family=family.name, size=size)
                record.calls, record.spent, record.places = reply.calls, reply.spent, reply.places
                self.seen.append(record)
