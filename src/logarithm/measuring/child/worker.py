"""The child side: one contender in a process of its own, told what to do in lines of JSON.

Requests come on what was standard input, replies go to what was standard output; the code under study finds
both leading nowhere. It may print, close them or exit: the parent sees the failure and goes on. This side needs
nothing but the standard library.
"""

from __future__ import annotations

import contextlib
import json
import sys
from collections.abc import Callable
from typing import BinaryIO

from ...errors import LogarithmError, one_line
from ...study.loading import load, with_code
from ..shared import answers, clock
from ..shared.messages import (
    Answer,
    Answered,
    AnswerGiven,
    Attempt,
    Began,
    Calibrate,
    Calibrated,
    Count,
    Done,
    Failure,
    FindTraps,
    Limits,
    Ready,
    Reply,
    TakeTrial,
    TrapsFound,
    Walk,
    line_of,
    request_of,
)
from . import counts, traps, walk
from .bench import Bench, copied
from .confining import count_thread_starts, die_with_parent, fence, keep_to, private_streams, threads_now

LINE_OF = line_of  # taken before any code under study runs
DETAIL_MOST = 300

Request = Answer | Attempt | FindTraps | Calibrate | TakeTrial | Count | Walk | AnswerGiven


def main() -> None:
    """Serve requests until there are no more: `worker STUDY CONTENDER LIMITS`, the limits as JSON."""
    die_with_parent()
    requests, replies = private_streams()
    path, name, limits = sys.argv[1], sys.argv[2], Limits(**json.loads(sys.argv[3]))
    keep_to(limits)
    clock.disable_gc()
    try:
        study = load(path)
        contender = study.the_contender(name)
        if contender.source is not None:
            fence()
        bench = Bench(study, with_code(contender), limits.room)
    except LogarithmError as error:
        return say(replies, Failure(reason="StudyError", detail=str(error)))
    starts = count_thread_starts()
    say(replies, Ready(python=sys.version.split()[0]))
    for line in requests:
        try:
            reply = serve(bench, request_of(line), replies)
            reply.threads = threads_now()
            reply.started = starts() > 0
        except (KeyboardInterrupt, GeneratorExit):
            raise
        except BaseException as error:  # a contender may raise anything, SystemExit included
            reply = Failure(reason=type(error).__name__, detail=one_line(error, DETAIL_MOST))
        say(replies, reply)
    return None


def serve(bench: Bench, request: Request, replies: BinaryIO) -> Reply:
    """Do what one request asks, and return the reply to it.

    The time counts against the ceiling from `Began` on: once the instance is made, where it is kept.
    """
    if isinstance(request, (FindTraps, Calibrate, TakeTrial, Answer, Attempt)):
        bench.instance(request.family, request.size, request.seed)
    say(replies, Began())
    match request:
        case AnswerGiven():
            given = answers.decoded(request.instance)
            return answered(bench, copied(given)[0], lambda: given)
        case Answer():
            return answered(bench, fresh(bench, request), lambda: fresh(bench, request))
        case Attempt():
            bench.answer(fresh(bench, request))
            return Done()
        case Count():
            return counts.count(bench, request)
        case Walk():
            return walk.walk(bench, request)
        case FindTraps():
            return TrapsFound(traps=traps.found(bench, request))
        case Calibrate():
            return calibrated(bench, request)
        case TakeTrial():
            where = request.family, request.size, request.seed, request.stage
            if request.warm:
                bench.timed(*where, request.warm, request.copies)
            return bench.timed(*where, request.calls, request.copies)


def fresh(bench: Bench, request: Answer | Attempt) -> object:
    """The instance, made anew."""
    return bench.study.the_family(request.family).instance(request.size, request.seed)


def answered(bench: Bench, instance: object, untouched: Callable[[], object]) -> Answered:
    """The contender's answer to an instance, and what the referee says of it beside an untouched one."""
    answer = bench.answer(instance)
    if answers.is_lazy(answer):
        return Answered(lazy=type(answer).__name__)
    reply = Answered(too_large=True)
    if bench.study.judge is not None:
        reply.right = bool(bench.study.judge(untouched(), answer))
    with contextlib.suppress(answers.TooLargeError):
        reply.answer, reply.too_large = answers.written(answer), False
    return reply


def calibrated(bench: Bench, request: Calibrate) -> Calibrated:
    """How many calls make a trial, whether they change the input, and what the first one prints."""
    with traps.counting_prints() as printed:
        timed, changes = bench.first(request.family, request.size, request.seed, request.stage, request.target)
    return Calibrated(
        calls=timed.calls,
        elapsed=timed.elapsed,
        cpu=timed.cpu,
        overhead=timed.overhead,
        pace=timed.pace,
        changes=changes,
        printed=printed.characters,
    )


def say(replies: BinaryIO, reply: Reply) -> None:
    """Send one reply."""
    replies.write(LINE_OF(reply))
    replies.flush()


if __name__ == "__main__":
    main()
