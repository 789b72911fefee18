"""The child side: one contender in a process of its own, told what to do in lines of JSON.

Requests come on what was standard input, replies go to what was standard output; the code under study finds
both leading nowhere. It may print, close them or exit: the parent sees the failure and goes on. This side needs
nothing but the standard library.
"""

from __future__ import annotations

import contextlib
import json
import math
import os
import sys
import threading
from collections.abc import Callable
from typing import Any, BinaryIO

from ...errors import LogarithmError, one_line
from ...study.loading import load, with_code
from ..shared import answers, clock
from . import counts as counting
from . import traps
from . import walk as walking
from .bench import Bench, Timing, copied

DUMPED = json.dumps
DETAIL_MOST = 300
PROCESSES, FILE_MOST = 64, 16 * 2**20  # what code that was handed in may start and write
NEW_NETWORK, NEW_USER = 0x40000000, 0x10000000


def main() -> None:
    """Serve requests until there are no more: `worker STUDY CONTENDER LIMITS`, the limits as JSON."""
    die_with_parent()
    requests, replies = private_streams()
    path, name, limits = sys.argv[1], sys.argv[2], json.loads(sys.argv[3])
    keep_to(limits)
    clock.disable_gc()
    try:
        study = load(path)
        contender = study.the_contender(name)
        if contender.source is not None:
            fence(limits.get("processes", PROCESSES))
        bench = Bench(study, with_code(contender), limits.get("room", math.inf))
    except LogarithmError as error:
        return say(replies, {"failed": "StudyError", "detail": str(error)})
    starts = count_thread_starts()
    say(replies, {"ready": True, "python": sys.version.split()[0]})
    for line in requests:
        request = json.loads(line)
        try:
            reply = serve(bench, request, replies)
            reply["threads"] = threads_now()
            reply["started"] = starts() > 0
        except (KeyboardInterrupt, GeneratorExit):
            raise
        except BaseException as error:  # a contender may raise anything, SystemExit included
            reply = failure(error)
        say(replies, reply)
    return None


def serve(bench: Bench, request: dict[str, Any], replies: BinaryIO) -> dict[str, Any]:
    """Do what one request asks, and return the reply to it."""
    if request["do"] == "given":
        say(replies, {"began": True})
        return answered_to(bench, request["instance"])
    family, size, seed = request["family"], request["size"], request["seed"]
    if request["do"] == "count":
        say(replies, {"began": True})
        return counting.count(bench, request)
    if request["do"] == "walk":
        say(replies, {"began": True})
        return walking.walk(bench, request)
    bench.instance(family, size, seed)
    # From here on the parent counts the time against the ceiling.
    say(replies, {"began": True})
    if request["do"] == "answer":
        return answered(bench, request)
    if request["do"] == "traps":
        found = traps.traps(bench, family, size, seed)
        if not found and bench.contender.stages == (None,) and not bench.is_async:
            found = traps.flat(bench, family, request["smallest"], size, seed)
        return {"traps": found}
    if request["do"] == "try":
        bench.answer(bench.study.the_family(family).instance(size, seed))
        return {"works": True}
    stage = request["stage"]
    if request["do"] == "first":
        with traps.counting_prints() as printed:
            timing, changes = bench.first(family, size, seed, stage, request["target"])
        return {"changes": changes, "printed": printed.characters, **read(timing)}
    if request["warm"]:
        bench.timed(family, size, seed, stage, request["warm"], request["copies"])
    return read(bench.timed(family, size, seed, stage, request["calls"], request["copies"]))


def answered(bench: Bench, request: dict[str, Any]) -> dict[str, Any]:
    """The contender's answer to an instance, written down, with what the referee says of it."""
    instance = bench.study.the_family(request["family"]).instance(request["size"], request["seed"])
    answer = bench.answer(instance)
    if answers.is_lazy(answer):
        return {"lazy": type(answer).__name__}
    reply: dict[str, Any] = {}
    if bench.study.judge is not None:
        fresh = bench.study.the_family(request["family"]).instance(request["size"], request["seed"])
        reply["right"] = bool(bench.study.judge(fresh, answer))
    try:
        reply["answer"] = answers.written(answer)
    except answers.TooLargeError:
        reply["too_large"] = True
    return reply


def answered_to(bench: Bench, instance: Any) -> dict[str, Any]:
    """The contender's answer to an instance that is given, as a written answer, and what the referee says of it."""
    given = answers.decoded(instance)
    answer = bench.answer(copied(given)[0])
    reply: dict[str, Any] = {}
    if bench.study.judge is not None:
        reply["right"] = bool(bench.study.judge(given, answer))
    with contextlib.suppress(answers.TooLargeError):
        reply["answer"] = answers.written(answer)
    return reply


def read(timing: Timing) -> dict[str, Any]:
    """A timing as a reply."""
    return {
        "calls": timing.calls,
        "elapsed": timing.elapsed,
        "cpu": timing.cpu,
        "overhead": timing.overhead,
        "pace": timing.pace,
    }


def failure(error: BaseException) -> dict[str, Any]:
    """What went wrong, as a reply."""
    return {"failed": type(error).__name__, "detail": one_line(error, DETAIL_MOST)}


def say(replies: BinaryIO, reply: dict[str, Any]) -> None:
    """Send one reply."""
    replies.write(DUMPED(reply).encode() + b"\n")
    replies.flush()


def private_streams() -> tuple[BinaryIO, BinaryIO]:
    """Keep the pipes to the parent for ourselves, and let descriptors 0, 1 and 2 lead nowhere."""
    requests, replies = os.dup(0), os.dup(1)
    nowhere = os.open(os.devnull, os.O_RDWR)
    for descriptor in (0, 1, 2):
        os.dup2(nowhere, descriptor)
    os.close(nowhere)
    return os.fdopen(requests, "rb"), os.fdopen(replies, "wb")


def keep_to(limits: dict[str, Any]) -> None:
    """Stay on one processor and within the memory that the parent allows, where the system has such limits."""
    if limits.get("processor") is not None and hasattr(os, "sched_setaffinity"):
        with contextlib.suppress(OSError):
            os.sched_setaffinity(0, {limits["processor"]})
    if limits.get("memory") and sys.platform != "win32":
        import resource

        # Linux counts what a process really fills its own pages with; elsewhere the address space must do.
        kind = resource.RLIMIT_DATA if sys.platform == "linux" else resource.RLIMIT_AS
        with contextlib.suppress(OSError, ValueError):
            resource.setrlimit(kind, (int(limits["memory"]), resource.getrlimit(kind)[1]))


def fence(processes: int) -> None:
    """Keep code that was handed in from filling the disk, from starting processes without end, and from the network.

    As far as the system allows; what it does not is left as it is.
    """
    if sys.platform == "win32":
        return
    import resource

    bounds = [(resource.RLIMIT_FSIZE, FILE_MOST), (resource.RLIMIT_CORE, 0)]
    # For the superuser, whom everything on the machine belongs to, a number of processes is no bound.
    if hasattr(os, "geteuid") and os.geteuid() != 0:
        bounds.append((resource.RLIMIT_NPROC, processes))
    for kind, most in bounds:
        with contextlib.suppress(OSError, ValueError):
            resource.setrlimit(kind, (most, most))
    if sys.platform == "linux":
        import ctypes

        with contextlib.suppress(OSError, AttributeError):
            library = ctypes.CDLL(None)
            # A network of its own, with nobody else in it.
            if library.unshare(NEW_NETWORK) != 0:
                library.unshare(NEW_USER | NEW_NETWORK)


def threads_now() -> int:
    """How many threads this process has at the moment, those of libraries included."""
    try:
        return sum(1 for _ in os.scandir("/proc/self/task"))
    except OSError:
        return threading.active_count()


def count_thread_starts() -> Callable[[], int]:
    """Count the threads and child processes that the code under study starts. Returns a function that tells."""
    count = [0]
    start = threading.Thread.start

    def counted(thread: threading.Thread) -> None:
        count[0] += 1
        start(thread)

    threading.Thread.start = counted  # type: ignore[method-assign,assignment]
    return lambda: count[0] + children_ended()


def children_ended() -> int:
    """Whether any child process was waited for: 1 or 0."""
    if sys.platform == "win32":
        return 0
    import resource

    return int(resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss > 0)


def die_with_parent() -> None:
    """Ask Linux to end this process with its parent, even while it is stuck in a call."""
    if sys.platform == "linux":
        import ctypes
        import signal

        with contextlib.suppress(OSError, AttributeError):
            ctypes.CDLL(None).prctl(1, signal.SIGKILL)  # 1 is PR_SET_PDEATHSIG


if __name__ == "__main__":
    main()
