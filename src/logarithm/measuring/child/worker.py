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
from dataclasses import replace
from typing import BinaryIO

from ...errors import LogarithmError, one_line
from ...searching.instances import decoded
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
    Search,
    TakeTrial,
    Timing,
    TrapsFound,
    Walk,
    WarmUp,
    line_of,
    request_of,
)
from . import traps
from .bench import Bench
from .confining import bound_memory, count_thread_starts, die_with_parent, fence, pin, private_streams, threads_now
from .driving import promise_of
from .pools import copied

LINE_OF = line_of  # taken before any code under study runs
DETAIL_MOST = 300

Request = Answer | Attempt | FindTraps | Calibrate | TakeTrial | WarmUp | Count | Walk | Search | AnswerGiven


def main() -> None:
    """Serve requests until there are no more: `worker STUDY CONTENDER LIMITS`, the limits as JSON."""
    die_with_parent()
    requests, replies = private_streams()
    path, name, limits = sys.argv[1], sys.argv[2], Limits(**json.loads(sys.argv[3]))
    bound_memory(limits)
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
    pinned = False
    for line in requests:
        # Only now: until here it may have been started beside others that are being timed there.
        pinned = pinned or pin(limits)
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
    if isinstance(request, (FindTraps, Calibrate, Timing, Answer, Attempt)):
        bench.pool(request.family, request.size, request.seed)
    say(replies, Began())
    match request:
        case AnswerGiven():
            given = decoded(request.instance)
            return answered(bench, copied(given)[0], lambda: given)
        case Answer():
            return answered(bench, fresh(bench, request), lambda: fresh(bench, request))
        case Attempt():
            bench.answer(fresh(bench, request))
            return Done()
        case Count():
            from . import counts  # loaded where it is needed: most lives only take times

            return counts.count(bench, request)
        case Search():
            from . import search

            return search.searched(bench, request)
        case Walk():
            from . import walk

            return walk.walk(bench, request)
        case FindTraps():
            return TrapsFound(traps=traps.found(bench, request))
        case Calibrate():
            return calibrated(bench, request)
        case WarmUp():
            return bench.warmed(request)
        case TakeTrial():
            if request.warm:
                bench.timed(replace(request, calls=request.warm))
            return bench.timed(request)


def fresh(bench: Bench, request: Answer | Attempt) -> object:
    """The instance, made anew."""
    return bench.study.the_family(request.family).instance(request.size, request.seed)


def answered(bench: Bench, instance: object, untouched: Callable[[], object]) -> Answered:
    """The contender's answer to an instance, and what the referee says of it beside an untouched one."""
    answer = bench.answer(instance)
    if bench.contender.options.drain is False and promise_of(answer):
        return Answered(lazy=type(answer).__name__)
    reply = Answered(too_large=True)
    if bench.study.judge is not None:
        reply.right = bool(bench.study.judge(untouched(), answer))
    with contextlib.suppress(answers.TooLargeError):
        reply.answer, reply.too_large = answers.written(answer), False
    return reply


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
