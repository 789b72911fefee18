"""Assessing what was handed in: is it right, how do its steps grow, how long does it take beside the reference.

Every submission runs in a process of its own. Answers and steps are looked at on all processors at once, because
nothing disturbs them; times are taken one after another, in turn with the reference.
"""

from __future__ import annotations

import os
import queue
import random
import threading
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ..errors import MeasuringError, StudyError, one_line
from ..logbook.records import AnyRecord, Failure, Note, Trial
from ..measuring.child.traps import TEXTS
from ..measuring.parent.crew import Worker
from ..measuring.parent.failed import Failed
from ..measuring.parent.limits import limits
from ..measuring.run.plan import Settings, forecast
from ..measuring.shared import answers
from ..notation.sizes import Number
from ..study.parts import Contender, Family
from ..study.study import Study
from .shrinking import shrunk

SMALL = (1, 2, 3, 4, 5, 8, 16, 64)
SEEDS = (1, 2, 3)
CEILING = 2.0  # seconds for a call while answers are compared
STEPS_LONGEST = 4.0  # seconds for counting the steps of one call
MEMORY = 2**30
COMMON = 0.005  # seconds that the reference may take at the size at which times are compared
ROUNDS = 3

Tell = Callable[[float, str], None]


@dataclass(slots=True)
class _Reference:
    """The worker of the reference; several threads ask it, one at a time."""

    worker: Worker
    lock: threading.Lock

    def ask(self, request: dict[str, Any]) -> dict[str, Any]:
        with self.lock:
            return self.worker.ask(request, 10 * CEILING)


def assess(study: Study, study_file: Path, settings: Settings, tell: Tell) -> Iterator[AnyRecord]:
    """Look at every submission of a study, and yield records of what was seen.

    Args:
        study: with submissions, and a baseline that is the reference, or a referee.
        study_file: where workers read it.
        settings: the seed and the memory of each.
        tell: called with the share that is done, and what is being done.

    Raises:
        StudyError: where nothing was handed in, or there is no reference.
    """
    handed_in = [each for each in study.contenders if each.source is not None]
    if not handed_in:
        raise StudyError('nothing was handed in: write study.submissions("handed-in/*.py", function="…") in the study')
    reference = next((each for each in study.contenders if each.baseline and each.source is None), None)
    if reference is None:
        raise StudyError("there is no reference: put @study.contender(baseline=True) above a solution that is right")
    bounds = {**limits(settings, 2), "processor": None, "memory": settings.memory or MEMORY}
    known = _Reference(Worker(study_file, reference, 1, bounds), threading.Lock())
    seen: queue.SimpleQueue[AnyRecord | None] = queue.SimpleQueue()
    passed: list[Contender] = []
    try:
        known.worker.greet()
        with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
            for contender in [reference, *handed_in]:
                pool.submit(_Look(study, study_file, contender, bounds, known, passed, seen).all)
            for done in range(len(handed_in) + 1):
                while (record := seen.get()) is not None:
                    yield record
                tell(0.7 * (done + 1) / (len(handed_in) + 1), f"{done} of {len(handed_in)} looked at")
        yield from _times(study, study_file, reference, passed, settings, tell)
    finally:
        known.worker.end()


@dataclass(slots=True)
class _Look:
    """A look at one submission."""

    study: Study
    study_file: Path
    contender: Contender
    bounds: dict[str, Any]
    reference: _Reference
    passed: list[Contender]
    seen: queue.SimpleQueue[AnyRecord | None]

    def all(self) -> None:
        """Everything that can be seen without timing."""
        worker = Worker(self.study_file, self.contender, 1, self.bounds)
        try:
            worker.greet()
            if self.contender.source is None or self.is_right(worker):
                if self.contender.source is not None:
                    self.traps(worker)
                    self.passed.append(self.contender)
                self.steps(worker)
        except MeasuringError as error:
            text = str(error).removeprefix(f"the worker of '{self.contender.name}' did not start: ")
            if self.contender.source is not None:  # the page goes back to somebody who knows nothing of our folders
                text = text.replace(self.contender.source.file, Path(self.contender.source.file).name)
            self.seen.put(Note(topic="broken", text=one_line(text), contender=self.contender.name))
        except Exception as error:  # a fault of ours must not be taken for one of theirs, nor lose the others
            self.seen.put(
                Note(topic="unseen", text=one_line(f"could not be looked at: {error}"), contender=self.contender.name)
            )
        finally:
            worker.end()
            self.seen.put(None)

    @property
    def families(self) -> list[Family]:
        """The families that this submission is judged on."""
        own = self.contender.families
        return [each for each in self.study.families if own is None or each.name in own]

    def is_right(self, worker: Worker) -> bool:
        """Whether every answer is right, from small instances to larger ones; the first that is not is told."""
        for size in SMALL:
            for family in self.families:
                for seed in SEEDS if size > 1 else SEEDS[:1]:
                    request = {"do": "answer", "family": family.name, "size": size, "seed": seed}
                    try:
                        expected = self.reference.ask(request)
                    except Failed:
                        continue  # the reference has no answer to so small an instance
                    try:
                        reply = worker.ask(request, CEILING)
                    except Failed as failed:
                        self.failed(family, size, failed)
                        return False
                    if "lazy" in reply:
                        text = TEXTS["lazy"].format(reply["lazy"]).split(":")[0]
                        self.incorrect(family, size, text)
                        return False
                    if self.is_wrong(reply, expected):
                        self.incorrect(family, size, self.smallest(worker, family, size, seed, reply, expected))
                        return False
        return True

    def is_wrong(self, reply: dict[str, Any], expected: dict[str, Any]) -> bool:
        """Whether an answer is wrong, by the referee or beside the reference's."""
        if self.study.judge is not None:
            return not reply.get("right", True)
        if "answer" not in reply or "answer" not in expected:
            return False
        rule = self.study.agreement
        return not answers.agree(expected["answer"], reply["answer"], rule.within, rule.unordered)

    def failed(self, family: Family, size: Number, failed: Failed) -> None:
        """Take down that a call came to nothing."""
        names = self.contender.name, family.name
        record = Failure(contender=names[0], family=names[1], size=size, reason=failed.reason, detail=failed.detail)
        self.seen.put(record)

    def incorrect(self, family: Family, size: Number, text: str) -> None:
        """Say of a submission that it is wrong, and where that shows."""
        note = Note(topic="incorrect", text=text, contender=self.contender.name, family=family.name, size=size)
        self.seen.put(note)

    def smallest(
        self, worker: Worker, family: Family, size: Number, seed: int, reply: dict[str, Any], expected: dict[str, Any]
    ) -> str:
        """The smallest instance that shows it, with both answers, in a sentence."""
        last = [reply, expected]

        def is_wrong(candidate: Any) -> bool:
            try:
                request = {"do": "given", "instance": answers.encoded(candidate)}
                right = self.reference.ask(request)
                given = worker.ask(request, CEILING)
            except (Failed, ValueError):
                return False
            if self.is_wrong(given, right):
                last[:] = [given, right]
                return True
            return False

        instance = shrunk(family.instance(size, seed), is_wrong)
        given, right = (answers.shown(each["answer"], 60) if "answer" in each else "a long answer" for each in last)
        told = f"answers {given} to {one_line(repr(instance), 120)}"
        return told if self.study.judge is not None else f"{told}, where {right} is right"

    def traps(self, worker: Worker) -> None:
        """Look for traps at a small size."""
        size = next(
            (size for size in (16, *SMALL) if self.study.sizes is None or size >= min(self.study.sizes)), SMALL[-1]
        )
        request = {"do": "traps", "family": self.families[0].name, "size": size, "seed": 1, "smallest": size}
        with suppress(Failed):
            for kind, detail in worker.ask(request, 5 * CEILING)["traps"].items():
                text = TEXTS[kind].format(detail).split(", so each call")[0]
                self.seen.put(Note(topic="trap", text=text, contender=self.contender.name))

    def steps(self, worker: Worker) -> None:
        """Count steps along the ladder of each family, as far as that is quick."""
        for family in self.families:
            done: list[tuple[Number, float]] = []
            for size in self.study.sizes or (8, 16, 32, 64, 128, 256, 512, 1024):
                if len(done) > 2 and forecast(done[-3], done[-1], size) > 25 * done[-1][1]:
                    break
                where = {"family": family.name, "size": size, "seed": 1, "stage": None}
                try:
                    reply = worker.ask({"do": "count", "kind": "steps", "wraps": "", **where}, STEPS_LONGEST)
                except Failed as failed:
                    if not done or failed.reason != "timeout":
                        self.failed(family, size, failed)
                    break
                steps = reply["values"]["steps"]
                done.append((size, float(max(steps, 1))))
                trial = Trial(contender=self.contender.name, family=family.name, size=size, metric="steps", heat=1)
                trial.value = steps
                self.seen.put(trial)


def _times(
    study: Study, study_file: Path, reference: Contender, passed: list[Contender], settings: Settings, tell: Tell
) -> Iterator[AnyRecord]:
    """Times at one size, each submission in turn with the reference."""
    bounds = limits(settings, 2)
    family = study.families[0]
    base = Worker(study_file, reference, 1, bounds)
    try:
        size, calls = _common(study, base, family)
        for number, contender in enumerate(sorted(passed, key=lambda each: each.name)):
            tell(0.7 + 0.3 * number / max(len(passed), 1), f"timing {contender.name} at {size}")
            yield from _beside(
                Worker(study_file, contender, 1, bounds), contender, base, reference, (family, size, calls)
            )
    except (Failed, MeasuringError) as error:
        yield Note(topic="unseen", text=one_line(f"no times were taken: {error}"))
    finally:
        base.end()


def _beside(
    worker: Worker, contender: Contender, base: Worker, reference: Contender, place: tuple[Family, Number, int]
) -> Iterator[AnyRecord]:
    """A few trials of a submission, each beside one of the reference in an order left to chance."""
    family, size, calls = place
    chance = random.Random(contender.name)
    where = {"family": family.name, "size": size, "seed": 1, "stage": None}
    try:
        first = worker.ask({"do": "first", "target": 2_000_000, **where}, 10 * CEILING)
        for heat in range(1, ROUNDS + 1):
            pair = [(worker, contender, first["calls"], first["changes"]), (base, reference, calls, False)]
            chance.shuffle(pair)
            for each, whose, many, copies in pair:
                request = {"do": "trial", "calls": many, "warm": 0, "copies": copies, **where}
                reply = each.ask(request, 10 * CEILING)
                # The reference's trial is filed under whom it stood beside, so that the two can be paired.
                trial = Trial(contender=contender.name, family=family.name, size=size, heat=heat)
                trial.metric = "time" if whose is contender else "reference"
                trial.calls, trial.elapsed, trial.overhead = reply["calls"], reply["elapsed"], reply["overhead"]
                if whose is not contender:
                    trial.value = max(reply["elapsed"] - reply["overhead"], 1.0) * 1e-9 / reply["calls"]
                yield trial
    except (Failed, MeasuringError) as error:
        yield Note(topic="trap", text=one_line(f"could not be timed at {size}: {error}"), contender=contender.name)
    finally:
        worker.end()


def _common(study: Study, base: Worker, family: Family) -> tuple[Number, int]:
    """The largest size of the ladder at which the reference is quick, and how many calls of it make a trial."""
    chosen: tuple[Number, int] | None = None
    for size in study.sizes or (8, 16, 32, 64, 128, 256, 512, 1024):
        request = {"do": "first", "target": 2_000_000, "family": family.name, "size": size, "seed": 1, "stage": None}
        reply = base.ask(request, 10 * CEILING)
        if chosen is not None and reply["elapsed"] / reply["calls"] > COMMON * 1e9:
            break
        chosen = size, reply["calls"]
    assert chosen is not None
    return chosen
