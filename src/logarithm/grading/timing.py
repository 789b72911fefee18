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
from collections.abc import Iterable, Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

import msgspec

from ..errors import MeasuringError, one_line
from ..logbook.records import AnyRecord, Note, Trial
from ..notation.sizes import Number
from ..protocol.clock import NANO
from ..study.parts import Contender, Family
from ..study.study import Study
from ..supervisor.failed import Failed
from ..supervisor.limits import limits
from ..supervisor.machine.idle import ProcessorClaim
from ..supervisor.sandboxed import WHOLE_LIMIT, SandboxedWorker, Seen, seen_from_outside
from ..supervisor.worker import Worker
from .judge import Judge, reference_of, sandboxed_of
from .secret_sizes import secret_sizes_of
from .time_growth import grows_faster

CALLS_S_MOST = 5.0  # seconds for some calls
TARGET = 0.003  # seconds that some calls together are to last
REFERENCE_S_MOST = 0.02  # seconds that the reference may take for one call at the largest size
ROUND_CALLS_MOST, PARTS_MOST = 100, 100_000
ROUNDS, ROUNDS_ELSEWHERE, PLACES, FAMILIES = 4, 2, 4, 3  # ROUNDS_ELSEWHERE rounds at all sizes but the largest
TOGETHER = 8  # processes that are started at once, while nothing is timed
TIMED_SPAN_MOST = 16  # times the smallest size that is timed, where there are sizes enough
NOTHINGS = 3
TRIED, CALLS_S_LEAST = 4, 1e-7  # calls by which their length is found, and seconds that calls take at least
SLOW = 0.05  # seconds that the calls of a slow submission may last
STEEP = 2.0  # a submission's time is thought to grow by this power, so that a steep one is not waited for
WRONG = "answers wrongly where many calls follow one another"
OUTSIDE = "outside"  # the metric of the processor's time as it is seen from outside


class TimeJob(msgspec.Struct, frozen=True):
    """Time some submissions, one after another, each beside the reference; see `LookJob`."""

    names: tuple[str, ...]
    memory: float
    salt: int
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
    judge = Judge(study, study_file, reference_of(study), limits(2, job.memory, processor=processor))
    seen: list[AnyRecord] = []
    try:
        batches = [batch for family in study.families[:FAMILIES] for batch in _batches(study, family, judge, job)]
        for some in (job.names[at : at + TOGETHER] for at in range(0, len(job.names), TOGETHER)):
            # On the processor that is timed on.
            workers = [
                sandboxed_of(study, study_file, study.the_contender(name), job.memory, job.trusted, processor)
                for name in some
            ]
            try:
                for sandboxed in workers:
                    with suppress(MeasuringError):  # it is asked again, and told of then
                        sandboxed.greet()
                        sandboxed.rest()
                for sandboxed in workers:
                    sandboxed.until = time.monotonic() + WHOLE_LIMIT
                    chance = random.Random(f"{job.salt}/{sandboxed.contender.name}")
                    found = list(_beside(sandboxed, sandboxed.contender, judge, batches, chance))
                    seen += found
                    for name in _suspected(found, sandboxed.contender.require):
                        # A noisy moment must not be held against anybody: more rounds, on instances of their own.
                        more = list(_batches(study, study.the_family(name), judge, job, sandboxed.contender.name))
                        seen += _beside(sandboxed, sandboxed.contender, judge, more, chance)
                    sandboxed.end()
            finally:
                for sandboxed in workers:
                    sandboxed.end()
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


def _suspected(found: list[AnyRecord], require: str | None) -> list[str]:
    """The families on which time seems to grow faster than an order."""
    least: dict[str, dict[float, float]] = {}
    for record in found:
        if isinstance(record, Trial) and record.metric == OUTSIDE and record.value is not None:
            sizes = least.setdefault(record.family, {})
            sizes[float(record.size)] = min(record.value, sizes.get(float(record.size), math.inf))
    if require is None:
        return []
    return [name for name, by in least.items() if grows_faster(sorted(by), [by[n] for n in sorted(by)], require)]


def _batches(study: Study, family: Family, judge: Judge, job: TimeJob, again: str = "") -> Iterator[Batch]:
    """Instances at a few sizes, as far as the reference is quick; others for whoever is looked at `again`."""
    chance = random.Random(f"{job.salt}/{family.name}/{again}")
    calls: dict[Number, int] = {}
    nothing = of_nothing(judge.worker)
    for size in secret_sizes_of(study, job.salt):
        try:
            ((instance, _),) = judge.expected(family.name, size, chance.getrandbits(40))
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
            if size != chosen[-1] and ROUNDS_ELSEWHERE < heat <= ROUNDS:
                continue  # only where the time is told does it need an interval
            try:
                yield Batch(
                    family.name, size, heat, judge.expected(family.name, size, chance.getrandbits(40), calls[size])
                )
            except Failed:
                continue


def _beside(
    sandboxed: SandboxedWorker, contender: Contender, judge: Judge, batches: list[Batch], chance: random.Random
) -> Iterator[AnyRecord]:
    """A submission's answers to each batch, beside the reference's in an order left to chance."""
    known: dict[str, tuple[Number, float]] = {}
    try:
        sandboxed.greet()
        alone = {"own": of_nothing(sandboxed), "reference": of_nothing(judge.worker)}
        for batch in batches:
            pairs = [*batch.pairs]
            if batch.family not in known:
                first = seen_from_outside(sandboxed, [pairs.pop()[0]], CALLS_S_MOST).own - alone["own"].own
                known[batch.family] = batch.size, max(first, CALLS_S_LEAST)
            size, call = known[batch.family]
            forecast = call * (batch.size / size) ** (STEEP if batch.size > size else 0)
            if forecast > CALLS_S_MOST or not pairs:
                continue
            pairs = pairs[: max(1, int(SLOW / forecast))]
            found: dict[str, Seen] = {}
            workers: list[tuple[str, Worker]] = [("own", sandboxed), ("reference", judge.worker)]
            chance.shuffle(workers)
            for whose, worker in workers:
                found[whose] = seen_from_outside(worker, [instance for instance, _ in pairs], 2 * CALLS_S_MOST)
            spent = max(found["own"].own - alone["own"].own, CALLS_S_LEAST)
            known[batch.family] = batch.size, spent / len(pairs)
            for (instance, right), given in zip(pairs, found["own"].answers, strict=True):
                if not judge.is_right(instance, given, right):
                    note = Note(topic="incorrect", text=WRONG, contender=contender.name)
                    note.family, note.size = batch.family, batch.size
                    yield note
                    return
            yield from _records(contender, batch, len(pairs), found, alone)
    except (Failed, MeasuringError) as error:
        yield Note(topic="untimed", text=one_line(f"could not be timed: {error}"), contender=contender.name)


def of_nothing(worker: Worker) -> Seen:
    """What no calls at all take, with all that is said around them."""
    seen = [seen_from_outside(worker, [], CALLS_S_MOST) for _ in range(NOTHINGS)]
    return Seen(min(each.own for each in seen), min(each.busy for each in seen), 0.0, [])


def _records(
    contender: Contender, batch: Batch, many: int, found: dict[str, Seen], alone: dict[str, Seen]
) -> Iterator[AnyRecord]:
    """The trials of one batch: the time of both, and what is seen of the submission from outside.

    The latter is the time that passed or that of all processors, whichever is more, without what `alone` no calls take.
    """
    for whose, metric in (("own", "time"), ("reference", "reference")):
        # The reference's trial is filed under the one it stood beside, so that the two can be paired.
        trial = Trial(contender=contender.name, family=batch.family, size=batch.size, heat=batch.heat)
        trial.metric, trial.calls, trial.elapsed = metric, many, found[whose].own / NANO
        trial.overhead = alone[whose].own / NANO
        if whose == "reference":
            trial.value = max(found[whose].own - alone[whose].own, CALLS_S_LEAST) / many
        yield trial
    # What is done while instances are taken, beyond what taking them costs the reference, belongs to the calls.
    before = max(found["own"].taking - 2 * found["reference"].taking, 0.0)
    outside = Trial(contender=contender.name, family=batch.family, size=batch.size, heat=batch.heat, metric=OUTSIDE)
    spent = max(found["own"].busy - alone["own"].busy, found["own"].own - alone["own"].own)
    outside.value = max(spent + before, 1e-9) / many
    yield outside
