"""Everyone who handed in: is it right, how does its work grow, how long does it take beside the reference.

Every submission runs in a sandboxed process of its own, which gets nothing but its file and instances. A judge, in
another process, makes these instances and knows the right answers: from seeds that nobody can know before, at sizes a
little beside the sizes of the study. Every answer is judged, also those of calls that are counted or timed. Answers and
steps are looked at on all processors at once, because nothing disturbs them; times are taken one after another.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Sequence
from pathlib import Path

import msgspec

from ..errors import MeasuringError, StudyError
from ..logbook.records import AnyRecord, Assessed, Note
from ..run.executor import Executor, Lost
from ..run.plan.settings import Settings
from ..study.study import Study
from ..supervisor.sandboxed import check_sandbox
from .answers.inspect import LookJob, is_bad, look_at
from .answers.judge import reference_of
from .grades import exceeds, orders_in
from .handed_in import by_text
from .plan import FamilyPlan, Plan, PlanJob, check_order, plan_of
from .timing import TimeJob, times, untimed_all

MEMORY = 2**30

Tell = Callable[[float, str], None]


class SandboxJob(msgspec.Struct, frozen=True):
    """Find out whether handed-in code can run in a sandbox."""

    trusted: bool


def try_sandbox(_: Study, __: Path, job: SandboxJob) -> None:
    """Raise SandboxError where handed-in code cannot run in a sandbox, and must."""
    check_sandbox(job.trusted)


def assess(
    study: Study,
    settings: Settings,
    executor: Executor,
    tell: Tell,
    done: Collection[str] = (),
    untimed: Collection[str] = (),
    trusted: bool = False,
) -> Iterator[AnyRecord]:
    """Look at every submission of a study, and yield records of what was seen.

    Args:
        study: with submissions, and a baseline that is the reference, or a referee.
        settings: the memory of each, and the seed that nobody can know before.
        executor: where it is done.
        tell: called with the share that is done, and what is being done.
        done: contenders that were looked at before.
        untimed: those of them that are right, and were not timed yet.
        trusted: whether they need not run in a sandbox.

    Raises:
        SandboxError: where the system cannot put into a sandbox what was handed in.
        StudyError: where nothing was handed in, or there is no reference.
    """
    handed_in = [each for each in study.contenders if each.source is not None]
    if not handed_in:
        raise StudyError('nothing was handed in: write study.submissions("handed-in/*.py", function="…") in the study')
    references = {function: reference_of(study, asked) for function, asked in study.asked.items()}
    memory = settings.memory or MEMORY
    for _, came in executor.each(try_sandbox, [SandboxJob(trusted)], type(None)):
        if came is not None:
            raise MeasuringError(came.reason)
    tell(0.0, "trying the reference, the referee and every family")
    plans: dict[str, tuple[FamilyPlan, ...]] = {}
    for job, plan in executor.each(plan_of, [PlanJob(memory, settings.seed, name) for name in references], Plan):
        if not isinstance(plan, Plan) or plan.fault:
            raise StudyError(plan.fault if isinstance(plan, Plan) else plan.reason)
        plans[job.function] = plan.families
    # Submissions of one text are looked at once, and whatever is seen of the first holds for all of them.
    alike = by_text(handed_in)
    of_all = {**{each.name: [each.name] for each in references.values()}, **alike}
    passed: list[str] = [name for name, names in alike.items() if any(each in untimed for each in names)]
    exceeding: set[str] = set()
    functions = {each.name: each.source.function for each in handed_in if each.source is not None}

    def looked(names: Sequence[tuple[str, str]]) -> Iterator[AnyRecord]:
        left = [(name, function) for name, function in names if not all(each in done for each in of_all[name])]
        jobs = [LookJob(*each, memory, settings.seed, plans[each[1]], trusted) for each in left]
        for number, (job, seen) in enumerate(executor.each(look_at, jobs, list[AnyRecord]), start=1):
            records = [Note(topic="broken", text=seen.reason, contender=job.name)] if isinstance(seen, Lost) else seen
            for name in of_all[job.name]:
                if name in done:
                    continue
                yield from (_of(record, name) for record in records)
                yield Assessed(contender=name)
            if not any(is_bad(record) for record in records) and job.name in functions:
                passed.append(job.name)
                is_sure = not any(isinstance(each, Note) and each.topic == "started" for each in records)
                if is_sure and exceeds(study.the_contender(job.name).require, orders_in(records)):
                    exceeding.add(job.name)
            tell(0.7 * number / len(jobs), f"{number} of {len(jobs)} looked at")

    of_references = [*looked([(each.name, function) for function, each in references.items()])]
    for function, order in dict.fromkeys((functions[each.name], each.require) for each in handed_in if each.require):
        own = references[function]
        seen = [record for record in of_references if getattr(record, "contender", "") == own.name]
        check_order(Path(study.file or study.name), own, str(order), orders_in(seen))
    yield from of_references
    yield from looked([(name, functions[name]) for name in alike])
    # Times stand beside those of the reference on the same machine, while nothing else is done there.
    many = max(1, getattr(executor, "clocks", 1))
    jobs_of_time = [
        TimeJob(tuple(share), function, memory, settings.seed, plans[function], tuple(exceeding & {*share}), trusted)
        for function in references
        for at in range(many)
        if (share := sorted(name for name in passed if functions[name] == function)[at::many])
    ]
    for number, (timed, times_seen) in enumerate(
        executor.each(times, jobs_of_time, list[AnyRecord], alone=True), start=1
    ):
        # Whose time nobody saw is not within what is asked by few steps alone.
        if isinstance(times_seen, Lost):
            times_seen = [*untimed_all(timed.names, times_seen.reason)]
        for record in times_seen:
            yield from (_of(record, name) for name in alike[str(getattr(record, "contender", ""))])
        tell(0.7 + 0.3 * number / len(jobs_of_time), "timing")


def _of(record: AnyRecord, name: str) -> AnyRecord:
    """A record as one of another submission, of the same text."""
    return msgspec.structs.replace(record, contender=name)
