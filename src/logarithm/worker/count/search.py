"""Searching in a worker: the climb runs beside the contender's code, so that no instance has to travel."""

from __future__ import annotations

import random
import signal
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from ...counting.metric import count_metric
from ...errors import one_line
from ...notation.encoding import decoded, encoded
from ...protocol.replies import Searched
from ...protocol.requests import Search
from ...worst_case.climb import climb
from ...worst_case.shapes import looks
from ...worst_case.stretch import stretched
from ..timing.bench import Bench
from ..timing.pools import copied
from .counts import called

TYPICAL = 8
SHOWN = 120  # letters of an instance


class EndlessError(Exception):
    """A call that was counted for too long."""


def search_worst(bench: Bench, request: Search) -> Searched:
    """Search at one size, from the family's own instances, the usual suspects, and the patterns that are given."""
    family = bench.study.the_family(request.family)
    own = [family.instance(request.size, request.seed + more) for more in range(TYPICAL)]
    reply = Searched()
    failed: list[tuple[Any, str]] = []

    def cost(instance: Any) -> float | None:
        def make() -> Any:
            return copied(instance)[0]

        def call_on(made: Any) -> Callable[[], Any]:
            return called(bench, made, request.stage, make)

        try:
            with at_most(request.longest):
                return count_metric(request.metric, make, call_on, bench.contender.code) or 0
        except (KeyboardInterrupt, SystemExit):
            raise
        except BaseException as error:  # a contender may raise anything
            failed.append((instance, f"{type(error).__name__}: {one_line(error, SHOWN)}".rstrip(": ")))
            return None

    reply.typical = [count for count in map(cost, own) if count is not None]
    if not reply.typical:
        reply.reason, _, reply.detail = failed[0][1].partition(": ")
        return reply
    failed.clear()
    change = family.change
    if change is None and family.keeps is None and family.is_drawn(request.size):

        def change(_instance: Any, chance: random.Random) -> Any:
            # Nobody can say what else a strategy would allow: another one is drawn.
            return family.instance(request.size, chance.getrandbits(40))

    rng = random.Random(f"search/{request.family}/{request.size}/{request.seed}")
    found = climb(own[0], cost, rng, request.tries, _starts(request, own[0]), family.keeps, change)
    reply.tries, reply.refused, reply.suspects = found.tries + len(own), found.refused, found.suspects
    if found.worst is not None and found.best is not None:
        reply.most, reply.least = max(found.worst[0], *reply.typical), min(found.best[0], *reply.typical)
        reply.worst, reply.best = _written(found.worst[1]), _written(found.best[1])
        reply.shown, reply.looks = one_line(repr(found.worst[1]), SHOWN), looks(found.worst[1])
    if failed:
        reply.fails, reply.detail = _written(failed[0][0]), failed[0][1]
    return reply


@contextmanager
def at_most(seconds: float) -> Iterator[None]:
    """End what takes longer, where the system has a timer for that."""
    if not hasattr(signal, "setitimer"):
        yield
        return

    def end(_number: int, _frame: Any) -> None:
        raise EndlessError(f"it was counted for more than {seconds:g} s")

    before = signal.signal(signal.SIGALRM, end)
    signal.setitimer(signal.ITIMER_REAL, seconds)
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
        signal.signal(signal.SIGALRM, before)


def _starts(request: Search, shape: Any) -> Iterator[Any]:
    for start in request.starts:
        yield from stretched(decoded(start), shape)


def _written(instance: Any) -> Any:
    try:
        return encoded(instance)
    except ValueError:
        return None
