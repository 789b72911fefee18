"""Times of what was handed in, each beside the reference, one after another: nothing else runs meanwhile."""

from __future__ import annotations

import random
from collections.abc import Iterator
from pathlib import Path

import msgspec

from ..errors import MeasuringError, one_line
from ..logbook.records import AnyRecord, Note, Trial
from ..measuring.parent.failed import Failed
from ..measuring.parent.limits import limits
from ..measuring.parent.worker import Worker
from ..measuring.shared.clock import NANO
from ..measuring.shared.messages import Calibrate, Calibrated, TakeTrial, Timed
from ..notation.sizes import Number
from ..study.parts import Contender, Family
from ..study.study import Study

LIMIT = 20.0  # seconds for a request
TARGET = 2_000_000  # nanoseconds that a trial lasts
COMMON = 0.005  # seconds that the reference may take at the size at which times are compared
ROUNDS = 3


class TimeJob(msgspec.Struct, frozen=True):
    """Time some submissions, one after another, each beside the reference; `memory` is what each may fill."""

    names: tuple[str, ...]
    memory: float


def times(study: Study, study_file: Path, job: TimeJob) -> list[AnyRecord]:
    """Times at one size, each submission in turn with the reference."""
    bounds = limits(2, job.memory)
    family = study.families[0]
    reference = next(each for each in study.contenders if each.options.baseline and each.source is None)
    base = Worker(study_file, reference, 1, bounds)
    seen: list[AnyRecord] = []
    try:
        size, common = _common(study, base, family)
        for name in job.names:
            if not base.alive:
                base.end()
                base = Worker(study_file, reference, 1, bounds)
            contender = study.the_contender(name)
            worker = Worker(study_file, contender, 1, bounds)
            seen += _beside(worker, contender, base, reference, (family, size, common))
    except (Failed, MeasuringError) as error:
        seen.append(Note(topic="unseen", text=one_line(f"no times were taken: {error}")))
    finally:
        base.end()
    return seen


def _beside(
    worker: Worker, contender: Contender, base: Worker, reference: Contender, place: tuple[Family, Number, Calibrated]
) -> Iterator[AnyRecord]:
    """A few trials of a submission, each beside one of the reference in an order left to chance."""
    family, size, common = place
    chance = random.Random(contender.name)
    try:
        first = worker.ask(Calibrate(family.name, size, 1, None, TARGET), Calibrated, LIMIT)
        instances = max(first.instances, common.instances)
        for heat in range(1, ROUNDS + 1):
            pair = [(worker, contender, first), (base, reference, common)]
            chance.shuffle(pair)
            for each, whose, found in pair:
                request = TakeTrial(
                    family.name, size, 1, None, found.calls, instances, heat, found.changes, found.promise
                )
                reply = each.ask(request, Timed, LIMIT, found.calls)
                # The reference's trial is filed under whom it stood beside, so that the two can be paired.
                trial = Trial(contender=contender.name, family=family.name, size=size, heat=heat)
                trial.metric = "time" if whose is contender else "reference"
                trial.calls, trial.elapsed, trial.overhead = reply.calls, reply.elapsed, reply.overhead
                if whose is not contender:
                    trial.value = reply.call * NANO
                yield trial
    except (Failed, MeasuringError) as error:
        yield Note(topic="trap", text=one_line(f"could not be timed at {size}: {error}"), contender=contender.name)
    finally:
        worker.end()


def _common(study: Study, base: Worker, family: Family) -> tuple[Number, Calibrated]:
    """The largest size of the ladder at which the reference is quick, and how it is timed there."""
    chosen: tuple[Number, Calibrated] | None = None
    for size in study.sizes or (8, 16, 32, 64, 128, 256, 512, 1024):
        reply = base.ask(Calibrate(family.name, size, 1, None, TARGET), Calibrated, LIMIT)
        if chosen is not None and reply.call * NANO > COMMON:
            break
        chosen = size, reply
    assert chosen is not None
    return chosen
