"""Times of what was handed in, each beside the reference, one after another: nothing else runs meanwhile.

They are taken from outside, by clocks that no submission can reach, over calls on instances that it never saw before;
all answers are judged. Beside the time that passes stands the processor's, of the process and all that it started:
what a count of steps does not see, because the work is done in compiled code or behind its back, shows in how that
grows.
"""

from __future__ import annotations

import math
import random
import time
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import msgspec
import numpy as np

from ..errors import MeasuringError, harmless, one_line
from ..logbook.records import AnyRecord, Note, Trial
from ..notation.encoding import decoded
from ..notation.sizes import Number
from ..protocol.clock import NANO
from ..protocol.replies import Answered
from ..protocol.requests import AnswerGiven
from ..results.base import Interval
from ..study.parts import Contender
from ..study.study import Study
from ..supervisor.failed import Failed
from ..supervisor.limits import limits
from ..supervisor.machine.idle import ProcessorClaim
from ..supervisor.sandboxed import WHOLE_LIMIT, SandboxedWorker, Seen, seen_from_outside
from ..supervisor.worker import Worker
from .answers.judge import Judge, reference_of, sandboxed_of
from .answers.shrink import counterexample, wrong_said
from .plan import FamilyPlan
from .ratios import ratio_of
from .time_growth import OUTSIDE, grows_faster

CALLS_S_MOST = 5.0  # seconds for some calls
TARGET = 0.003  # seconds that some calls together are to last
REFERENCE_S_MOST = 0.02  # seconds that the reference may take for one call at the largest size
REFERENCE_S_LEAST = 2e-4  # seconds of its calls together, below which what a submission takes beside it says nothing
ROUND_CALLS_MOST, PARTS_MOST = 1000, 200_000
ROUNDS, ROUNDS_ELSEWHERE, PLACES = 4, 2, 4  # ROUNDS_ELSEWHERE rounds at all sizes but the largest
PROCESSES_MOST, MORE_S_MOST = 3, 8.0  # of one submission of which marks are open, and seconds for the further ones
TOGETHER = 8  # processes that are started at once, while nothing is timed
TIMED_SPAN_MOST = 16  # times the smallest size that is timed, where there are sizes enough
NOTHINGS = 3
TRIED, CALLS_S_LEAST = 4, 1e-7  # calls by which their length is found, and seconds that calls take at least
PLACE_S_MOST = 0.5  # seconds for all calls at one size of a family: what is so slow has been seen well enough
SLOW = 0.05  # seconds that the calls of a slow submission may last
STEEP = 2.0  # a submission's time is thought to grow by this power, so that a steep one is not waited for
TAKING = 2.0  # times what taking instances costs the reference, beyond which it is work that belongs to the calls
TAKING_ELSEWHERE = 8.0  # the same for another language, to which they are handed on
REPLAYS, WRONG_LEAST = 3, 2  # how often calls are made again where an answer was wrong, and how often it must be again
ONCE_MOST = 1  # how often an answer may be wrong that is right when the same calls are repeated


class TimeJob(msgspec.Struct, frozen=True):
    """Time some submissions, one after another, each beside the reference; see `LookJob`.

    Of those that are `exceeding` what is asked by their counts, time need not say so, too.
    """

    names: tuple[str, ...]
    function: str
    memory: float
    salt: int
    families: tuple[FamilyPlan, ...]
    exceeding: tuple[str, ...] = ()
    trusted: bool = False


class Batch(msgspec.Struct, frozen=True):
    """Instances of one family and size for one round, with the right answers; no submission sees one twice."""

    family: str
    size: Number
    heat: int
    pairs: list[tuple[Any, Any]]


def times(study: Study, study_file: Path, job: TimeJob) -> list[AnyRecord]:
    """Times of each submission in turn with the reference."""
    claim = ProcessorClaim()
    processor = claim.take()
    asked = study.asked[job.function]
    judge = Judge(study, study_file, reference_of(study, asked), limits(2, job.memory, processor=processor))
    seen: list[AnyRecord] = []

    def sandboxed(name: str) -> SandboxedWorker:
        # On the processor that is timed on.
        return sandboxed_of(study, study_file, study.the_contender(name), job.memory, job.trusted, processor)

    try:
        batches = [batch for plan in job.families for batch in _batches(plan, judge, job)]
        for some in (job.names[at : at + TOGETHER] for at in range(0, len(job.names), TOGETHER)):
            workers: dict[str, SandboxedWorker] = {}
            try:
                for name in some:
                    with suppress(MeasuringError):  # it is asked again, and told of then
                        workers[name] = sandboxed(name)
                        workers[name].greet()
                        workers[name].rest()
                for name in some:
                    if name not in workers:
                        seen += untimed_all([name], "its process did not start")
                        continue
                    workers[name].until = time.monotonic() + WHOLE_LIMIT
                    timing = _Timing(study, judge, job, study.the_contender(name), sandboxed, workers[name])
                    timing.all(batches)
                    seen += timing.seen
                    workers[name].end()
            finally:
                for worker in workers.values():
                    worker.end()
    except (Failed, MeasuringError) as error:
        there = {record.contender for record in seen if isinstance(record, Trial | Note)}
        seen += untimed_all([name for name in job.names if name not in there], str(error))
    finally:
        judge.end()
        claim.release()
    return seen


def untimed_all(names: Iterable[str], why: str) -> Iterator[Note]:
    """A note for each submission of which no times were taken."""
    for name in names:
        yield Note(topic="untimed", text=one_line(f"no times were taken: {why}"), contender=name)


def _batches(plan: FamilyPlan, judge: Judge, job: TimeJob, again: str = "", is_top: bool = False) -> Iterator[Batch]:
    """Instances at a few sizes, as far as the reference is quick; others for whoever is looked at `again`."""
    chance = random.Random(f"{job.salt}/{plan.name}/{again}")
    calls: dict[Number, int] = {}
    nothing = of_nothing(judge.worker)
    for size in plan.all:
        try:
            ((instance, _),) = judge.expected(plan.name, size, chance.getrandbits(40))
            call = min(seen_from_outside(judge.worker, [instance] * TRIED, CALLS_S_MOST).own for _ in range(3))
            call = max(call - nothing.own, CALLS_S_LEAST) / TRIED
        except Failed:
            break
        if call > REFERENCE_S_MOST and calls:
            break
        calls[size] = max(1, min(round(TARGET / call), ROUND_CALLS_MOST, int(PARTS_MOST / max(float(size), 1.0))))
    top = [size for size in calls if size * TIMED_SPAN_MOST >= max(calls)]
    chosen = sorted({top[round(at * (len(top) - 1) / (PLACES - 1))] for at in range(PLACES)}) if top else []
    for heat in range(ROUNDS + 1, 3 * ROUNDS + 1) if again else range(1, ROUNDS + 1):
        for size in chosen:
            if size != chosen[-1] and (is_top or ROUNDS_ELSEWHERE < heat <= ROUNDS):
                continue  # only where the time is told does it need an interval
            with suppress(Failed):
                pairs = judge.expected(plan.name, size, chance.getrandbits(40), calls[size])
                yield Batch(plan.name, size, heat, pairs)


@dataclass(slots=True)
class _Timing:
    """One submission beside the reference.

    Attributes:
        study, judge, job, contender: who, by whom, on what.
        begin: starts another process of it.
        worker: the process at work; `process` is its number.
        seen: what was seen.
        known: by family, the size and seconds of a call there.
        asked: the instances that this process was given, batch by batch.
        spent: seconds at each family and size.
        once: how often an answer was wrong, and right when the same calls were repeated.
    """

    study: Study
    judge: Judge
    job: TimeJob
    contender: Contender
    begin: Callable[[str], SandboxedWorker]
    worker: SandboxedWorker
    process: int = 1
    seen: list[AnyRecord] = field(default_factory=list)
    known: dict[str, tuple[Number, float]] = field(default_factory=dict)
    asked: list[list[Any]] = field(default_factory=list)
    once: int = 0
    spent: Counter[tuple[str, Number]] = field(default_factory=Counter)

    def all(self, batches: Sequence[Batch]) -> None:
        """Rounds of all families, and more where growth is suspect or marks are open."""
        own = self.contender.options.families
        chance = random.Random(f"{self.job.salt}/{self.contender.name}")
        plans = [each for each in self.job.families if own is None or each.name in own]
        try:
            self.rounds([each for each in batches if own is None or each.family in own], chance)
            for plan in plans:
                if plan.name in self.suspected():
                    # A noisy moment must not be held against anybody: more rounds, on instances of their own.
                    self.rounds([*_batches(plan, self.judge, self.job, self.contender.name)], chance)
            until = time.monotonic() + MORE_S_MOST
            while self.process < PROCESSES_MOST and time.monotonic() < until and (family := self.unclear()):
                self.another()
                plan = next(each for each in plans if each.name == family)
                again = f"{self.contender.name}/{self.process}"
                self.rounds([*_batches(plan, self.judge, self.job, again, is_top=True)], chance)
        except (Failed, MeasuringError) as error:
            self.note("untimed", f"could not be timed: {error}")
        finally:
            self.worker.end()

    def another(self) -> None:
        """Go on with another process: each lies elsewhere in memory."""
        self.worker.end()
        self.worker, self.asked = self.begin(self.contender.name), []
        self.process += 1

    def suspected(self) -> list[str]:
        """The families on which time seems to grow faster than what is asked."""
        if self.contender.require is None or self.contender.name in self.job.exceeding:
            return []
        least: dict[str, dict[float, float]] = {}
        for record in self.seen:
            if isinstance(record, Trial) and record.metric == OUTSIDE and record.value is not None:
                sizes = least.setdefault(record.family, {})
                sizes[float(record.size)] = min(record.value, sizes.get(float(record.size), math.inf))
        require = self.contender.require
        return [name for name, by in least.items() if grows_faster(sorted(by), [by[n] for n in sorted(by)], require)]

    def unclear(self) -> str:
        """The family on which it takes longest, where marks for its time are open; empty where none are."""
        limit = self.study.asked[self.job.function].marks.get("time", (0.0, 0.0))
        if not limit[0] or self.is_wrong():
            return ""
        ratios = {name: ratio for name in self.known if (ratio := self.ratio(name)) is not None}
        if not ratios:
            return ""
        worst = max(ratios, key=lambda name: ratios[name].value)
        low, high = ratios[worst].low, ratios[worst].high
        return worst if low <= limit[1] < high else ""

    def ratio(self, family: str) -> Interval | None:
        """How many times as long as the reference it takes at the largest size of a family."""
        trials = [each for each in self.seen if isinstance(each, Trial) and each.family == family]
        sizes = [each.size for each in trials if each.metric == "time"]
        if not sizes:
            return None
        rows = [each for each in trials if each.size == max(sizes) and each.value is not None]
        base = {(each.process, each.heat): each.value for each in rows if each.metric == "reference"}
        pairs = [
            (each.value, base[each.process, each.heat], each.process)
            for each in rows
            if each.metric == "time" and (each.process, each.heat) in base
        ]
        columns = np.array(pairs, dtype=np.float64).reshape(-1, 3).T
        return ratio_of(columns[0], columns[1], columns[2].astype(int))

    def is_wrong(self) -> bool:
        """Whether an answer was wrong."""
        return any(isinstance(each, Note) and each.topic == "incorrect" for each in self.seen)

    def note(self, topic: str, text: str, batch: Batch | None = None) -> None:
        """Take down what is to be said."""
        made = Note(topic=topic, text=one_line(harmless(text)), contender=self.contender.name)
        if batch is not None:
            made.family, made.size = batch.family, batch.size
        self.seen.append(made)

    def rounds(self, batches: Sequence[Batch], chance: random.Random) -> None:
        """Answers to each batch, beside the reference's in an order left to chance."""
        self.worker.greet()
        nothing, skipped = of_nothing(self.judge.worker), set[str]()
        for batch in batches:
            if self.is_wrong():
                return
            pairs = [*batch.pairs]
            if batch.family not in self.known:
                alone = self.outside(self.worker, [pairs.pop()[0]])
                self.known[batch.family] = batch.size, max(alone.own - nothing.own, CALLS_S_LEAST)
            size, call = self.known[batch.family]
            expected = call * (batch.size / size) ** (STEEP if batch.size > size else 0)
            if expected > CALLS_S_MOST and batch.family not in skipped:
                skipped.add(batch.family)
                self.note("untimed", f"was not timed at n = {batch.size:g}: a call may take {expected:.1g} s", batch)
            if expected > CALLS_S_MOST or not pairs or self.spent[batch.family, batch.size] > PLACE_S_MOST:
                continue
            self.round(batch, pairs[: max(1, int(SLOW / expected))], nothing, chance)

    def round(self, batch: Batch, pairs: list[tuple[Any, Any]], nothing: Seen, chance: random.Random) -> None:
        """One batch, by both."""
        instances = [instance for instance, _ in pairs]
        found: dict[str, Seen] = {}
        workers: list[tuple[str, Worker]] = [("own", self.worker), ("reference", self.judge.worker)]
        chance.shuffle(workers)
        for whose, worker in workers:
            found[whose] = self.outside(worker, instances)
        self.spent[batch.family, batch.size] += found["own"].own  # type: ignore[assignment]
        self.known[batch.family] = (
            batch.size,
            max(found["own"].own - nothing.own, CALLS_S_LEAST) / len(pairs),
        )
        for (instance, right), given in zip(pairs, found["own"].answers, strict=True):
            if not self.judge.is_right(instance, given, right):
                self.wrong(batch, (instance, right), given)
                return
        self.seen += _records(self.contender, batch, self.process, len(pairs), found, nothing)

    def outside(self, worker: Worker, instances: list[Any]) -> Seen:
        """Calls seen from outside, written down where they are the submission's."""
        if worker is self.worker:
            self.asked.append(instances)
        return seen_from_outside(worker, instances, 2 * CALLS_S_MOST)

    def wrong(self, batch: Batch, pair: tuple[Any, Any], given: Any) -> None:
        """An answer was wrong: shown with its instance, alone where that is enough, else after calls that come before.

        What does not happen again is told, and is no verdict.
        """
        instance, right = pair
        history = self.asked
        self.another()
        reply = self.worker.ask(AnswerGiven(instance), Answered, CALLS_S_MOST)
        if reply.comparable and not self.judge.is_right(instance, reply.answer, right):
            told = counterexample(self.judge, self.worker, decoded(instance), (reply.answer, right))
            return self.note("incorrect", told, batch)
        again = sum(self.replayed(history, pair) for _ in range(REPLAYS))
        shown = wrong_said(self.judge, decoded(instance), given, right)
        before = sum(map(len, history)) - 1
        if again >= WRONG_LEAST:
            return self.note("incorrect", f"{shown}, after {before} other calls; alone it is right", batch)
        self.once += 1
        if self.once > ONCE_MOST:
            return self.note("incorrect", f"{shown}; another time it answers otherwise", batch)
        return self.note("trap", f"{shown}, once, and not again when the same calls were repeated", batch)

    def replayed(self, history: list[list[Any]], pair: tuple[Any, Any]) -> bool:
        """Whether an answer is wrong again, where a new process gets the same calls."""
        self.another()
        for instances in history:
            found = self.outside(self.worker, instances)
        at = max((at for at, instance in enumerate(history[-1]) if instance == pair[0]), default=0)
        return not self.judge.is_right(pair[0], found.answers[at], pair[1])


def of_nothing(worker: Worker) -> Seen:
    """What no calls at all take, with all that is said around them."""
    seen = [seen_from_outside(worker, [], CALLS_S_MOST) for _ in range(NOTHINGS)]
    return Seen(min(each.own for each in seen), min(each.busy for each in seen), 0.0, [])


def _records(
    contender: Contender, batch: Batch, process: int, many: int, found: dict[str, Seen], nothing: Seen
) -> Iterator[AnyRecord]:
    """The trials of one batch: the time of both, and what is seen of the submission from outside.

    What no calls take is taken off as the reference takes it: nothing that a submission does is taken off its time.
    What is done while instances are taken, beyond what taking them costs the reference, belongs to the calls.
    """
    handing = TAKING_ELSEWHERE if contender.source is not None and contender.source.language else TAKING
    before = max(found["own"].taking - handing * found["reference"].taking, 0.0)
    spent = {whose: max(each.own - nothing.own, CALLS_S_LEAST) for whose, each in found.items()}
    spent["own"] += before
    if spent["reference"] >= REFERENCE_S_LEAST:
        for whose, metric in (("own", "time"), ("reference", "reference")):
            # The reference's trial is filed under the one it stood beside, so that the two can be paired.
            trial = Trial(contender=contender.name, family=batch.family, size=batch.size, heat=batch.heat)
            trial.metric, trial.calls, trial.process, trial.value = metric, many, process, spent[whose] / many
            trial.elapsed, trial.overhead = round((spent[whose] + nothing.own) / NANO), nothing.own / NANO
            yield trial
    outside = Trial(contender=contender.name, family=batch.family, size=batch.size, heat=batch.heat, metric=OUTSIDE)
    outside.process = process
    outside.value = max(found["own"].busy - nothing.busy + before, spent["own"], 1e-9) / many
    yield outside
