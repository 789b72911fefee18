"""Times of what was handed in, each beside the reference, one after another: nothing else runs meanwhile."""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator
from pathlib import Path

from ..errors import MeasuringError, one_line
from ..logbook.records import AnyRecord, Note, Trial
from ..measuring.parent.failed import Failed
from ..measuring.parent.limits import limits
from ..measuring.parent.worker import Worker
from ..measuring.plan.settings import Settings
from ..measuring.shared.clock import NANO
from ..measuring.shared.messages import Calibrate, Calibrated, TakeTrial, Timed
from ..notation.sizes import Number
from ..study.parts import Contender, Family
from ..study.study import Study

LIMIT = 20.0  # seconds for a request
TARGET = 2_000_000  # nanoseconds that a trial lasts
COMMON = 0.005  # seconds that the reference may take at the size at which times are compared
ROUNDS = 3

Tell = Callable[[float, str], None]


def times(
    study: Study, study_file: Path, reference: Contender, passed: list[Contender], settings: Settings, tell: Tell
) -> Iterator[AnyRecord]:
    """Times at one size, each submission in turn with the reference.

    Those that `passed` are timed, within the settings' memory; `tell` is called with the share done and what is done.
    """
    bounds = limits(2, settings.memory)
    family = study.families[0]
    base = Worker(study_file, reference, 1, bounds)
    try:
        size, common = _common(study, base, family)
        for number, contender in enumerate(sorted(passed, key=lambda each: each.name)):
            tell(0.7 + 0.3 * number / max(len(passed), 1), f"timing {contender.name} at {size}")
            yield from _beside(
                Worker(study_file, contender, 1, bounds), contender, base, reference, (family, size, common)
            )
    except (Failed, MeasuringError) as error:
        yield Note(topic="unseen", text=one_line(f"no times were taken: {error}"))
    finally:
        base.end()


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
