"""Where a line from a worker becomes a reply, or is refused.

What a worker sends may be lies: the code under study runs in its process and can write into its pipe. The supervisor
believes that a reply is about the request it sent, and what it says of the contender itself: its answer, its counts,
its time as long as that fits into the time that the supervisor saw pass. It does not believe that a line is JSON, that
it has the fields it should have and no others, that its numbers are finite and of a bounded length, or that it is
shallow enough to be looked through. Nothing in it is ever unpickled, run or used as a path.
"""

from __future__ import annotations

import math
from dataclasses import fields
from typing import Any, TypeVar

import msgspec

from ..errors import one_line
from ..protocol.replies import REPLIES, Failure, Reply, Timed
from .failed import Failed

LINE_MOST = 64 * 2**20
DEPTH_MOST = 220  # an answer may be nested a hundred deep, and each level of it is two of JSON
DIGITS_MOST = 1300  # longer integers are sent as texts
LATE = 0.05  # seconds by which a clock read in another process may be off

_KINDS: dict[str | None, type[Reply]] = {each.__name__: each for each in REPLIES}
Kind = TypeVar("Kind", bound=Reply)


def reply_of(line: bytes) -> Reply:
    """The reply in a line.

    Raises:
        Failed: where it is nonsense.
    """
    try:
        given = msgspec.json.decode(line)
        if not isinstance(given, dict):
            raise ValueError("it is not an object")
        kind = _KINDS.get(given.pop("kind", None))
        if kind is None:
            raise ValueError("its kind is not known")
        named = {each.name for each in fields(kind)}
        if named != set(given):
            raise ValueError(f"it does not have the fields of a {kind.__name__}")
        _bounded(given)
        return msgspec.convert(given, kind)
    except (msgspec.MsgspecError, ValueError, RecursionError, OverflowError, TypeError):
        raise _nonsense(line) from None


def expected(reply: Reply, kind: type[Kind], seconds: float = math.inf, calls: int | None = None) -> Kind:
    """The reply, where it is of the kind that the request asks for.

    Args:
        reply: what came.
        kind: what should have come.
        seconds: how long the supervisor waited for it; a trial cannot have taken longer.
        calls: the most that a trial may say it made.

    Raises:
        Failed: with the worker's own reason where it failed, else because what came is nonsense.
    """
    if isinstance(reply, Failure):
        raise Failed(one_line(reply.reason, 100), one_line(reply.detail))
    if type(reply) is not kind:
        raise Failed("nonsense", f"its process replied with a {type(reply).__name__}, not with a {kind.__name__}")
    if isinstance(reply, Timed) and not _is_possible(reply, seconds, calls):
        raise Failed("nonsense", "its process reported a trial that is impossible")
    return reply


def _is_possible(timed: Timed, seconds: float, calls: int | None) -> bool:
    made = timed.calls >= 1 and (calls is None or timed.calls <= calls)
    read = 0 <= timed.elapsed <= (seconds + LATE) * 1e9 and timed.overhead >= 0
    return (
        made
        and read
        and min(timed.cpu or 0, timed.queued or 0) >= 0
        and min(*timed.pace, timed.during, timed.peak, timed.made) >= 0
    )


def _bounded(given: Any) -> None:
    """Raise a ValueError where something is nested too deep, or a number is not finite or too long."""
    level: list[Any] = [given]
    for _ in range(DEPTH_MOST):
        below: list[Any] = []
        for each in level:
            if isinstance(each, dict):
                below += each.values()
            elif isinstance(each, list):
                below += each
            elif isinstance(each, float) and not math.isfinite(each):
                raise ValueError("a number is not finite")
            elif isinstance(each, int) and each.bit_length() > 4 * DIGITS_MOST:
                raise ValueError("a number is too long")
        level = below
        if not level:
            return
    raise ValueError("it is nested too deep")


def _nonsense(line: bytes) -> Failed:
    return Failed("nonsense", f"its process wrote into the pipe: {one_line(line[:200].decode(errors='replace'), 60)}")
