"""Counting one call of a contender: what it tallies, allocates, or takes in steps. None of it is ever timed."""

from __future__ import annotations

import contextlib
import inspect
import linecache
import sys
from collections import Counter, deque
from collections.abc import Callable, Iterable, Mapping, Sequence
from functools import partial
from pathlib import Path
from typing import Any

from ...counting.code.item_counting import ITEMS, ITEMS_WITHOUT_CONTAINERS
from ...counting.code.known import known_work
from ...counting.code.rewriting import rewritten
from ...counting.items.counted import counted, plain
from ...counting.known.kinds import Done
from ...counting.memory import allocated
from ...counting.steps import (
    Keeping,
    Line,
    Operation,
    Place,
    counted_lines,
    counted_steps,
    hidden_work,
    text_at,
    undisturbed,
)
from ...counting.tallies import counting
from ...notation import encoding
from ...notation.kinds import STEPS
from ...notation.metrics import UNCOUNTED
from ...protocol import answers
from ...protocol.replies import Counted, HiddenWork
from ...protocol.requests import Count
from ...study.parts import GROW, HOLDS
from ..timing.bench import Bench
from ..timing.lazy import driven, promise_of
from ..timing.operations import DRIFT, Pair, growth_steps, pairs_on, turns_of
from ..timing.pools import copied

ARGUMENTS_COUNTED = 16
FRAMES = 4  # times as many as without counting
NATIVE_CALLS_SHOWN, UNCOUNTED_SHOWN, OPERATIONS_SHOWN = 40, 5, 60
UNSEEN = "its text cannot be read, so what built-in functions do with its items is not seen"
FOREIGN = "its instances are of a kind that cannot be counted, so what happens to their items is not known"
DIFFERS = "it gives another answer on a counted instance, so what happens to its items is not known"


def count(bench: Bench, request: Count) -> Counted | HiddenWork:
    """Count one call on a fresh instance. Counting takes frames of its own, which are not to end a recursion early."""
    before = sys.getrecursionlimit()
    sys.setrecursionlimit(FRAMES * before)
    try:
        return _counted(bench, request)
    finally:
        sys.setrecursionlimit(before)


def _counted(bench: Bench, request: Count) -> Counted | HiddenWork:
    make = partial(bench.study.the_family(request.family).instance, request.size, request.seed)
    if request.way == "tallies":
        return tallied(bench, request, make)
    if request.way == "work":
        return worked(bench, request, make)
    if request.way == "steps":
        many = arguments_counted(bench, request)
        every = called(bench, make(), request.stage, make, many)
        return Counted(values=_each({"steps": counted_steps(every)}, many))
    call = called(bench, make(), request.stage, make)
    if request.way == "memory":
        return Counted(values={**allocated(call)})
    if request.way == "hidden":
        found = undisturbed(hidden_work(call), hidden_work(called(bench, make(), request.stage, make)))
        places = own(bench, found.places)
        return HiddenWork(calls=dict(found.calls.most_common(NATIVE_CALLS_SHOWN)), spent=found.spent, places=places)
    keeping = Keeping(call)
    steps = counted_lines(keeping)
    lines = [
        (file, line, linecache.getline(each.file, line).strip(), runs, number)
        for each in steps.lines
        for file, line, runs, number in own(bench, [each])
    ]
    done, _ = known(bench, request, make, with_places=True)
    values: dict[str, int | float] = {
        "steps": steps.total,
        "calls": steps.calls,
        "work": steps.total + round(done.total),
    }
    reply = Counted(values=values, lines=lines, operations=own(bench, operations(done)), too_large=True)
    with contextlib.suppress(encoding.TooLargeError):
        reply.answer, reply.too_large = encoding.described(driven(keeping.answer, bench.run)), False
    return reply


def tallied(bench: Bench, request: Count, make: Callable[[], Any]) -> Counted:
    """What the code tallies, and what is done to the items of a counted instance."""
    if not request.wraps:
        call = called(bench, make(), request.stage, make)
        with counting() as found:
            call()
        return Counted(values=dict(found))
    containers = request.wraps == "all"
    plainly = make()
    instance = counted(plainly, containers)
    seen = is_seen(plainly, instance)
    way = ITEMS if containers else ITEMS_WITHOUT_CONTAINERS
    with rewritten(bench.contender.code, way) as is_read:
        call = called(bench, instance, request.stage, make)
        with counting() as found:
            answer = call()
    if not alike(bench, request, make, plain(answer)):
        return Counted(values=dict(found), unseen=DIFFERS, unknown=True)
    if not seen:
        return Counted(values=dict(found), unseen=FOREIGN, unknown=True)
    return Counted(values=dict(found), unseen="" if is_read else UNSEEN)


def worked(bench: Bench, request: Count, make: Callable[[], Any]) -> Counted:
    """The steps of a call, and what known operations do inside them, added up; the steps alone beside it."""
    many = arguments_counted(bench, request)
    steps = counted_steps(called(bench, make(), request.stage, make, many))
    done, is_read = known(bench, request, make, many=many)
    values: dict[str, int | float] = {"work": steps + round(done.steps), STEPS: steps}
    values |= {kind: round(amount) for kind, amount in done.amounts.items()}
    values = {**_each(values, many), UNCOUNTED: len(done.unknown) + (not is_read)}
    uncounted = sorted(done.unknown)[:UNCOUNTED_SHOWN]
    return Counted(values=values, unseen="" if is_read else UNSEEN, uncounted=uncounted)


def arguments_counted(bench: Bench, request: Count) -> int:
    """On how many arguments an operation is counted, for one call on average: it may do more for one than for another.

    So few that its object stays as large as it should be.
    """
    options = bench.contender.options
    if request.stage not in options.operations:
        return 1
    return max(1, min(ARGUMENTS_COUNTED, int(DRIFT * request.size)))


def _each(values: Mapping[str, float], many: int) -> dict[str, int | float]:
    """What was counted, for one of so many calls; whole numbers as such."""
    return {name: value // many if value % many == 0 else value / many for name, value in values.items()}


def known(
    bench: Bench, request: Count, make: Callable[[], Any], with_places: bool = False, many: int = 1
) -> tuple[Done, bool]:
    """What known operations do in one call, and whether the contender's text could be read."""
    instance = make()
    call = called(bench, instance, request.stage, make, many)
    return known_work(call, bench.contender.code, instance, with_places)


def operations(done: Done) -> list[Operation]:
    """What known operations did by where they stand, the most of it first."""
    found: Counter[tuple[str, int, str, str]] = Counter()
    for (code, offset), amounts in (done.places or {}).items():
        for kind, amount in amounts.items():
            found[(*text_at(code, offset), kind)] += round(amount)
    return [Operation(*where, amount) for where, amount in found.most_common(OPERATIONS_SHOWN)]


def is_seen(instance: Any, made: Any) -> bool:
    """Whether an instance, or any part of it, is of a kind that can be counted; `made` is what counts in its place."""
    if isinstance(made, tuple):
        return not made or any(map(is_seen, tuple.__iter__(instance), tuple.__iter__(made)))
    return made is not instance


def alike(bench: Bench, request: Count, make: Callable[[], Any], answer: Any) -> bool:
    """Whether a contender answers as it does on a plain instance; one that never answers twice alike does, too."""
    plainly = [_written(called(bench, make(), request.stage, make)()) for _ in range(2)]
    return plainly[0] != plainly[1] or answers.agree(_written(answer), plainly[0], 1e-9)


def _written(answer: Any) -> Any:
    try:
        return encoding.described(answer)
    except encoding.TooLargeError:
        return None


def own(bench: Bench, lines: Iterable[Line | Operation | Place]) -> list[Any]:
    """The lines that stand in the contender's file or beside it, with their file named from there."""
    code = getattr(bench.contender.code, "func", bench.contender.code)
    try:
        folder = Path(inspect.getfile(code)).resolve().parent
    except TypeError:
        return []
    library = Path(__file__).resolve().parents[2]
    found = []
    for each in lines:
        file = Path(each.file)
        if not file.is_absolute() or not file.is_relative_to(folder) or "site-packages" in file.parts:
            continue
        if file.is_relative_to(library) and not folder.is_relative_to(library):
            continue
        found.append((file.relative_to(folder).as_posix(), *each[1:]))
    return found


def called(
    bench: Bench, instance: Any, stage: str | None, spare: Callable[[], Any], many: int = 1
) -> Callable[[], Any]:
    """One call of a contender's stage, of an operation so many, with nothing else around it.

    `spare` makes another instance like this one.
    """
    code = bench.contender.code
    if not inspect.isclass(code):
        return partial(bench.plain, instance) if _is_plain(bench, spare) else partial(bench.answer, instance)
    built: Any = code(**bench.contender.values)
    if bench.contender.options.operations and isinstance(instance, dict):
        if stage in (None, "build"):
            return partial(built.build, instance[HOLDS])
        if stage == GROW:
            return _in_turn(growth_steps(bench.contender, instance))
        built.build(copied(instance[HOLDS])[0])
        turns = turns_of(bench.contender, stage, instance)
        return _in_turn(pairs_on(built, [turns[at % len(turns)] for at in range(many)]))
    if stage == "build":
        return partial(built.build, instance)
    is_counted = type(instance) is not type(plain(instance))
    built.build(instance if is_counted else copied(instance)[0])
    return partial(built.use, instance) if bench.use_asks else partial(built.use)


def _in_turn(calls: Sequence[Pair]) -> Callable[[], Any]:
    """Calls of one method, one after another, without a step of the interpreter's that is not the contender's."""
    if len(calls) == 1:
        ((call, argument),) = calls
        return partial(call, argument)
    return partial(deque[Any], map(calls[0][0], [argument for _, argument in calls]), 0)


def _is_plain(bench: Bench, spare: Callable[[], Any]) -> bool:
    """Whether a contender's work is over when it returns. Found out once, by a call on a spare instance."""
    if bench.is_plain is None:
        waits = bench.is_async or bench.contender.options.finish is not None
        bench.is_plain = not waits and not promise_of(bench.plain(spare()))
    return bench.is_plain
