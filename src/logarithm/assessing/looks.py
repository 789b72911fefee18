"""A look at what was handed in: is it right, how do its steps grow, how long does it take beside the reference.

Every submission runs in a process of its own. Answers and steps are looked at on all processors at once, because
nothing disturbs them; times are taken one after another, in turn with the reference.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator
from contextlib import suppress
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import msgspec

from ..errors import MeasuringError, StudyError, one_line
from ..logbook.records import AnyRecord, Failure, HiddenRecord, LinesRecord, Note, Trial
from ..measuring.gathering.engine import Engine
from ..measuring.parent.failed import Failed
from ..measuring.parent.limits import limits
from ..measuring.parent.worker import Worker
from ..measuring.plan.settings import Settings
from ..measuring.plan.track import forecast
from ..measuring.rehearsing.trap import TEXTS
from ..measuring.shared import answers
from ..measuring.shared.messages import (
    Answer,
    Answered,
    AnswerGiven,
    Count,
    Counted,
    FindTraps,
    HiddenWork,
    Limits,
    TrapsFound,
)
from ..notation.sizes import Number
from ..searching.instances import encoded
from ..study.parts import Contender, Family
from ..study.study import Study
from .shrinking import shrunk
from .times import TimeJob, times

SMALL = (1, 2, 3, 4, 5, 8, 16, 64)
SEEDS = (1, 2, 3)
CEILING = 2.0  # seconds for a call while answers are compared
STEPS_LONGEST = 4.0  # seconds for counting the steps of one call
MEMORY = 2**30

BAD = ("incorrect", "broken", "unseen")

Tell = Callable[[float, str], None]


class LookJob(msgspec.Struct, frozen=True):
    """Look at one contender; `memory` is the bytes that it may fill."""

    name: str
    memory: float


class _Reference:
    """The reference, in a process of its own beside each submission; one that is lost is started anew."""

    def __init__(self, study_file: Path, reference: Contender, bounds: Limits) -> None:
        self.study_file, self.contender, self.bounds = study_file, reference, bounds
        self.worker: Worker | None = None

    def answer(self, request: Answer | AnswerGiven) -> Answered:
        """What the reference answers. Raises Failed."""
        if self.worker is None or not self.worker.alive:
            self.end()
            self.worker = Worker(self.study_file, self.contender, 1, self.bounds)
        return self.worker.ask(request, Answered, 10 * CEILING)

    def end(self) -> None:
        """Let it go."""
        if self.worker is not None:
            self.worker.end()


def reference_of(study: Study) -> Contender:
    """The solution that is right.

    Raises:
        StudyError: where nothing was handed in, or there is no reference.
    """
    if not any(each.source is not None for each in study.contenders):
        raise StudyError('nothing was handed in: write study.submissions("handed-in/*.py", function="…") in the study')
    found = next((each for each in study.contenders if each.options.baseline and each.source is None), None)
    if found is None:
        raise StudyError("there is no reference: put @study.contender(baseline=True) above a solution that is right")
    return found


def assess(
    study: Study,
    settings: Settings,
    engine: Engine,
    tell: Tell,
    done: Collection[str] = (),
    untimed: Collection[str] = (),
) -> Iterator[AnyRecord]:
    """Look at every submission of a study, and yield records of what was seen.

    Args:
        study: with submissions, and a baseline that is the reference, or a referee.
        settings: the memory of each.
        engine: where it is done.
        tell: called with the share that is done, and what is being done.
        done: contenders that were looked at before.
        untimed: those of them that are right, and were not timed yet.

    Raises:
        StudyError: where nothing was handed in, or there is no reference.
    """
    reference = reference_of(study)
    handed_in = [each for each in study.contenders if each.source is not None]
    memory = settings.memory or MEMORY
    names = [each.name for each in (reference, *handed_in) if each.name not in done]
    passed: list[str] = [*untimed]
    jobs = [LookJob(name, memory) for name in names]
    for number, (job, seen) in enumerate(engine.each(look_at, jobs, list[AnyRecord]), start=1):
        if not isinstance(seen, list):
            yield Note(topic="broken", text=seen.reason, contender=job.name)
        else:
            yield from seen
            if not any(is_bad(record) for record in seen) and job.name != reference.name:
                passed.append(job.name)
        yield Note(topic="seen", text="was looked at", contender=job.name)
        tell(0.7 * number / len(jobs), f"{number - 1} of {len(jobs) - 1} looked at")
    # Times stand beside those of the reference on the same machine, while nothing else is done there.
    many = max(1, getattr(engine, "clocks", 1))
    shares = [sorted(passed)[at::many] for at in range(many)]
    jobs_of_time = [TimeJob(tuple(share), memory) for share in shares if share]
    for number, (_, seen) in enumerate(engine.each(times, jobs_of_time, list[AnyRecord], alone=True), start=1):
        yield from (
            seen if isinstance(seen, list) else [Note(topic="unseen", text=f"no times were taken: {seen.reason}")]
        )
        tell(0.7 + 0.3 * number / len(jobs_of_time), "timing")


def is_bad(record: AnyRecord) -> bool:
    """Whether a record says that a submission is not right."""
    return isinstance(record, Failure) or (isinstance(record, Note) and record.topic in BAD)


def look_at(study: Study, study_file: Path, job: LookJob) -> list[AnyRecord]:
    """Everything that can be seen of one submission without timing it."""
    bounds = replace(limits(2, job.memory), processor=None)
    reference = _Reference(study_file, reference_of(study), bounds)
    look = _Look(study, study_file, study.the_contender(job.name), bounds, reference)
    try:
        look.all()
    finally:
        reference.end()
    return look.seen


@dataclass(slots=True)
class _Look:
    """A look at one submission."""

    study: Study
    study_file: Path
    contender: Contender
    bounds: Limits
    reference: _Reference
    seen: list[AnyRecord] = field(default_factory=list)

    def all(self) -> None:
        """Everything that can be seen without timing."""
        worker = Worker(self.study_file, self.contender, 1, self.bounds)
        try:
            worker.greet()
            if self.contender.source is None or self.is_right(worker):
                if self.contender.source is not None:
                    self.traps(worker)
                self.steps(worker)
        except MeasuringError as error:
            text = str(error).removeprefix(f"the worker of '{self.contender.name}' did not start: ")
            if self.contender.source is not None:  # the page goes back to somebody who knows nothing of our folders
                text = text.replace(self.contender.source.file, Path(self.contender.source.file).name)
            self.seen.append(Note(topic="broken", text=one_line(text), contender=self.contender.name))
        except Exception as error:  # a fault of ours must not be taken for one of theirs, nor lose the others
            self.seen.append(
                Note(topic="unseen", text=one_line(f"could not be looked at: {error}"), contender=self.contender.name)
            )
        finally:
            worker.end()

    @property
    def families(self) -> list[Family]:
        """The families that this submission is judged on."""
        own = self.contender.options.families
        return [each for each in self.study.families if own is None or each.name in own]

    def is_right(self, worker: Worker) -> bool:
        """Whether every answer is right, from small instances to larger ones; the first that is not is told."""
        for size in SMALL:
            for family in self.families:
                for seed in SEEDS if size > 1 else SEEDS[:1]:
                    request = Answer(family.name, size, seed)
                    try:
                        expected = self.reference.answer(request)
                    except Failed:
                        continue  # the reference has no answer to so small an instance
                    try:
                        reply = worker.ask(request, Answered, CEILING)
                    except Failed as failed:
                        self.failed(family, size, failed)
                        return False
                    if reply.lazy is not None:
                        text = TEXTS["lazy"].format(reply.lazy).split(":")[0]
                        self.incorrect(family, size, text)
                        return False
                    if self.is_wrong(reply, expected):
                        self.incorrect(family, size, self.smallest(worker, family, size, seed, reply, expected))
                        return False
        return True

    def is_wrong(self, reply: Answered, expected: Answered) -> bool:
        """Whether an answer is wrong, by the referee or beside the reference's."""
        if self.study.judge is not None:
            return reply.right is False
        if not reply.comparable or not expected.comparable:
            return False
        rule = self.study.agreement
        return not answers.agree(expected.answer, reply.answer, rule.within, rule.unordered)

    def failed(self, family: Family, size: Number, failed: Failed) -> None:
        """Take down that a call came to nothing."""
        names = self.contender.name, family.name
        record = Failure(contender=names[0], family=names[1], size=size, reason=failed.reason, detail=failed.detail)
        self.seen.append(record)

    def incorrect(self, family: Family, size: Number, text: str) -> None:
        """Say of a submission that it is wrong, and where that shows."""
        note = Note(topic="incorrect", text=text, contender=self.contender.name, family=family.name, size=size)
        self.seen.append(note)

    def smallest(
        self, worker: Worker, family: Family, size: Number, seed: int, reply: Answered, expected: Answered
    ) -> str:
        """The smallest instance that shows it, with both answers, in a sentence."""
        last = [reply, expected]

        def is_wrong(candidate: Any) -> bool:
            try:
                request = AnswerGiven(encoded(candidate))
                right = self.reference.answer(request)
                given = worker.ask(request, Answered, CEILING)
            except (Failed, ValueError):
                return False
            if self.is_wrong(given, right):
                last[:] = [given, right]
                return True
            return False

        instance = shrunk(family.instance(size, seed), is_wrong)
        given, right = (answers.shown(each.answer, 60) if each.comparable else "a long answer" for each in last)
        told = f"answers {given} to {one_line(repr(instance), 120)}"
        return told if self.study.judge is not None else f"{told}, where {right} is right"

    def traps(self, worker: Worker) -> None:
        """Look for traps at a small size."""
        size = next(
            (size for size in (16, *SMALL) if self.study.sizes is None or size >= min(self.study.sizes)), SMALL[-1]
        )
        with suppress(Failed):
            request = FindTraps(self.families[0].name, size, 1, size)
            for kind, detail in worker.ask(request, TrapsFound, 5 * CEILING).traps.items():
                text = TEXTS[kind].format(detail).split(", so each call")[0]
                self.seen.append(Note(topic="trap", text=text, contender=self.contender.name))

    def steps(self, worker: Worker) -> None:
        """Count steps along the ladder of each family, as far as that is quick."""
        for family in self.families:
            done: list[tuple[Number, float]] = []
            for size in self.study.sizes or (8, 16, 32, 64, 128, 256, 512, 1024):
                if len(done) > 2 and forecast(done[-3], done[-1], size) > 25 * done[-1][1]:
                    break
                try:
                    reply = worker.ask(Count(family.name, size, 1, None, "lines"), Counted, STEPS_LONGEST)
                except Failed as failed:
                    if not done or failed.reason != "timeout":
                        self.failed(family, size, failed)
                    break
                steps = reply.values["steps"]
                done.append((size, float(max(steps, 1))))
                trial = Trial(contender=self.contender.name, family=family.name, size=size, metric="steps", heat=1)
                trial.value = steps
                self.seen.append(trial)
                if reply.lines:
                    lines = LinesRecord(contender=self.contender.name, family=family.name, size=size)
                    lines.lines = reply.lines
                    self.seen.append(lines)
            self.hidden(worker, family, [size for size, _ in done])

    def hidden(self, worker: Worker, family: Family, sizes: list[Number]) -> None:
        """Look at two sizes for operations that themselves grow, where that is quick."""
        for size in sizes[:: max(len(sizes) // 2, 1)][1:3] if len(sizes) > 2 else []:
            with suppress(Failed):
                reply = worker.ask(Count(family.name, size, 1, None, "hidden"), HiddenWork, STEPS_LONGEST)
                record = HiddenRecord(contender=self.contender.name, family=family.name, size=size)
                record.calls, record.spent, record.places = reply.calls, reply.spent, reply.places
                self.seen.append(record)
