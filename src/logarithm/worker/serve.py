"""The worker: one contender in a process of its own, told what to do in lines of JSON.

Requests come on what was standard input, replies go to what was standard output; the code under study finds
both leading nowhere. It may print, close them or exit: the supervisor sees the failure and goes on. This side needs
nothing but the standard library.
"""

from __future__ import annotations

import contextlib
import json
import sys
from collections.abc import Callable
from dataclasses import replace
from typing import BinaryIO

from ..errors import FamilyError, LogarithmError, one_line
from ..notation import encoding
from ..notation.encoding import decoded, encoded
from ..protocol import answers, clock
from ..protocol.message import line_of
from ..protocol.replies import (
    Answered,
    Began,
    Calibrated,
    CallsMade,
    Done,
    Expected,
    Failure,
    ImportsFound,
    Judged,
    Ready,
    Reply,
    TrapsFound,
)
from ..protocol.requests import (
    Answer,
    AnswerGiven,
    Attempt,
    Calibrate,
    CallAll,
    Count,
    Expect,
    FindImports,
    FindTraps,
    Give,
    Judge,
    Limits,
    Search,
    Take,
    TakeTrial,
    TimeDearestStep,
    Timing,
    Walk,
    WarmUp,
    request_of,
)
from ..study.exercise.handed_in import imported
from ..study.files.loading import load, with_code
from ..study.parts import place_of
from ..study.study import Study
from . import traps
from .limits import bound_memory, die_with_parent, pin, private_streams, threads_now, watch_helpers
from .timing.bench import Bench
from .timing.lazy import promise_of
from .timing.pools import copied

LINE_OF = line_of  # taken before any code under study runs
DETAIL_MOST = 300

Asked = (
    Answer
    | Attempt
    | FindTraps
    | Calibrate
    | TakeTrial
    | TimeDearestStep
    | WarmUp
    | Count
    | Walk
    | Search
    | AnswerGiven
)
Request = Asked | Give | Take | CallAll | Expect | Judge | FindImports


def main() -> None:
    """Serve requests until there are no more: `worker STUDY CONTENDER LIMITS`, the limits as JSON."""
    path, name, limits = sys.argv[1], sys.argv[2], Limits(**json.loads(sys.argv[3]))
    serve_study(lambda: load(path), name, limits)


def serve_study(loaded: Callable[[], Study], name: str, limits: Limits) -> None:
    """Serve one contender of a study from this process's standard streams.

    Args:
        loaded: gives the study; raises what is told to the supervisor.
        name: of the contender.
        limits: what the process must keep to.
    """
    die_with_parent()
    requests, replies = private_streams()
    bound_memory(limits)
    clock.disable_gc()
    try:
        study = loaded()
        bench = Bench(study, with_code(study.the_contender(name)), limits.room)
    except LogarithmError as error:
        return say(replies, Failure(reason="StudyError", detail=str(error)))
    return serve_all(bench, limits, requests, replies)


def serve_all(
    bench: Bench,
    limits: Limits,
    requests: BinaryIO,
    replies: BinaryIO,
    told: Callable[[BaseException], object] = lambda error: error,
) -> None:
    """Say that the contender is ready, and serve requests until there are no more.

    Args:
        bench: with the contender.
        limits: what it must keep to.
        requests, replies: the pipes.
        told: what is said of an exception beside its type.
    """
    helped = watch_helpers()
    say(replies, Ready(python=sys.version.split()[0]))
    pinned = False
    for line in requests:
        # Only now: until here it may have been started beside others that are being timed there.
        pinned = pinned or pin(limits)
        try:
            reply = serve(bench, request_of(line), replies)
            reply.threads = threads_now()
            reply.helped = helped()
            if reply.threads > 1 or reply.helped:
                bench.own.watch_threads()
        except (KeyboardInterrupt, GeneratorExit):
            raise
        except BaseException as error:  # a contender may raise anything, SystemExit included
            reply = Failure(reason=type(error).__name__, detail=one_line(told(error), DETAIL_MOST))
        say(replies, reply)


def serve(bench: Bench, request: Request, replies: BinaryIO) -> Reply:
    """Do what one request asks, and return the reply to it.

    The time counts against the ceiling from `Began` on: once the instance is made, where it is kept.
    """
    if isinstance(request, (FindTraps, Calibrate, Timing, TimeDearestStep, Answer, Attempt)):
        bench.pool(*request.pool)
    say(replies, Began())
    match request:
        case AnswerGiven():
            given = decoded(request.instance)
            return answered(bench, copied(given)[0], lambda: given)
        case Give():
            bench.study.the_family(request.family).keep(request.size, request.seed, request.instance)  # type: ignore[attr-defined]
            return Done()
        case Take():
            taken = [decoded(each) for each in request.instances]
            bench.taken = taken if bench.hand_over is None else [*map(bench.hand_over, taken)]
            return Done()
        case CallAll():
            return all_called(bench)
        case Expect():
            return expected(bench, request)
        case Judge():
            return judged(bench, request)
        case FindImports():
            return ImportsFound(imports=imported(request.text))
        case Answer():
            return answered(bench, repeatable(bench, request), lambda: fresh(bench, request))
        case Attempt():
            bench.answer(fresh(bench, request))
            return Done()
        case Count():
            from .count import counts  # loaded where it is needed: most processes only take times

            return counts.count(bench, request)
        case Search():
            from .count import search

            return search.search_worst(bench, request)
        case Walk():
            from .count import walk

            return walk.walk(bench, request)
        case FindTraps():
            return TrapsFound(traps=traps.found(bench, request))
        case Calibrate():
            return calibrated(bench, request)
        case WarmUp():
            return bench.warmed(request)
        case TimeDearestStep():
            return bench.dearest(request)
        case TakeTrial():
            if request.warm:
                bench.timed(replace(request, calls=request.warm))
            return bench.timed(request)


def fresh(bench: Bench, request: Answer | Attempt) -> object:
    """The instance, made anew."""
    return bench.study.the_family(request.family).instance(request.size, request.seed)


def repeatable(bench: Bench, request: Answer) -> object:
    """The instance; that its family makes the same one of the same seed is looked at once.

    Raises:
        FamilyError: where it does not, or makes nothing: no contender is to blame for that.
    """
    made = fresh(bench, request)
    if request.family not in bench.repeated:
        bench.repeated.add(request.family)
        if made is None:
            raise FamilyError(
                f"the family '{request.family}' returns nothing at n = {request.size}: return the instance"
            )
        with contextlib.suppress(encoding.TooLargeError):
            if not answers.agree(encoding.described(made), encoding.described(fresh(bench, request)), 1e-12, False):
                raise FamilyError(
                    f"the family '{request.family}' makes two different instances of one seed at n = {request.size}: "
                    "take all chance from rng"
                )
    return made


def answered(bench: Bench, instance: object, untouched: Callable[[], object]) -> Answered:
    """The contender's answer to an instance, and what the referee says of it beside an untouched one."""
    answer = bench.answer(instance)
    if bench.contender.options.drain is False and promise_of(answer):
        return Answered(lazy=type(answer).__name__)
    reply = Answered(too_large=True)
    if bench.study.judge is not None:
        reply.right = bool(bench.study.judge(untouched(), answer))
    with contextlib.suppress(encoding.TooLargeError):
        reply.answer, reply.too_large = encoding.described(answer), False
    return reply


def all_called(bench: Bench) -> CallsMade:
    """The answers to all instances that were taken."""
    made = [bench.answer(instance) for instance in bench.taken]
    bench.taken = []
    try:
        return CallsMade(answers=[encoding.described(each) for each in made])
    except encoding.TooLargeError:
        return CallsMade(too_large=True)


def expected(bench: Bench, request: Expect) -> Expected:
    """Instances, and the answers of a contender that is right. Raises TooLargeError, ValueError."""
    family = bench.study.the_family(request.family)
    instances = [family.instance(request.size, request.seed + number) for number in range(request.count)]
    if None in instances:
        raise FamilyError(f"the family '{request.family}' returns nothing at n = {request.size}: return the instance")
    written = [encoded(each) for each in instances]
    try:
        right = [bench.answer(each) for each in instances]
    except Exception as error:  # the instructor's code is to be corrected: say where
        raise ReferenceError(f"the reference raises {place_of(error)}") from None
    return Expected(instances=written, answers=[encoding.described(each) for each in right])


def judged(bench: Bench, request: Judge) -> Judged:
    """What the referee says of an answer; one that it cannot even read is not right."""
    assert bench.study.judge is not None
    try:
        return Judged(right=bool(bench.study.judge(decoded(request.instance), encoding.decoded(request.answer))))
    except Exception as error:  # of a referee that met what it did not expect
        return Judged(detail=one_line(place_of(error), DETAIL_MOST))


def calibrated(bench: Bench, request: Calibrate) -> Calibrated:
    """How calls are to be timed, and what the first one prints."""
    with traps.counting_prints() as printed:
        reply = bench.calibrated(request)
    reply.printed = printed.characters
    return reply


def say(replies: BinaryIO, reply: Reply) -> None:
    """Send one reply."""
    replies.write(LINE_OF(reply))
    replies.flush()


if __name__ == "__main__":
    main()
