"""Calibration, of functions in a worker and of programs from outside alike.

How many calls make a trial, and how many instances it must take in turn, so that the processor cannot have learnt the
one that comes next; and when a warm-up has become steady.

A processor predicts branches from those it has seen. An instance that is repeated is learnt after a few calls, and
then costs less than it costs anyone who brings it once. How much a processor can learn has an end: a pool of
instances that takes longer to go through than that is as dear as new ones. The number of instances follows from the
time of a call, and the largest number over all contenders of a size holds for each of them.
"""

from __future__ import annotations

import math
from collections.abc import Callable

from .clock import now, round_calls
from .replies import Timed, Warmed

PASS = 400_000  # nanoseconds of calls, all on other inputs, that no processor learns by heart
INSTANCES_LEAST = 4  # instances that dear calls take in turn, one heat after another
TRIAL_CALLS_MOST = 10_000_000  # of one trial
STEADY, STEADY_WITHIN = 3, 1.08  # so many readings within this ratio are steady

Time = Callable[[int, int], Timed]
"""Times so many calls on so many instances in turn."""


def lengthen(time: Time, target: int, timed: Timed) -> Timed:
    """Make more and more calls on one instance until they last for `target` nanoseconds. Returns the last trial."""
    calls = timed.calls
    while timed.own < target and calls < TRIAL_CALLS_MOST:
        longer = 1.1 * calls * target / max(timed.own, 1)
        calls = round_calls(min(max(longer, calls + 1), calls * 10))
        timed = time(calls, 1)
        if timed.calls < calls:
            break  # making what more calls need would take too long
    return timed


def freshened(time: Time, timed: Timed, most: int, hold: Callable[[int], int]) -> tuple[int, Timed, float | None]:
    """How many instances a trial must take in turn.

    Args:
        time: takes a trial.
        timed: one on a single instance, with calls enough.
        most: the largest pool to try; 1 where one instance is repeated on purpose.
        hold: makes so many instances, as far as time and memory allow, and says how many there are.

    Returns:
        the size of the pool, a trial on it, and nanoseconds of a call on one instance that is repeated, where that was
        looked at.
    """
    if most <= 1:
        return 1, timed, None
    instances = hold(min(most, max(INSTANCES_LEAST, math.ceil(PASS / timed.call))))
    if instances <= INSTANCES_LEAST:
        return instances, timed, None
    return instances, time(max(timed.calls, round_calls(instances)), instances), timed.call


def warm_up(time: Callable[[int], Timed], first: int, most: int) -> Warmed:
    """Trial after trial until they are steady.

    Args:
        time: takes a trial that begins with the instance of a number.
        first: that number.
        most: nanoseconds that it may take.
    """
    reply, until = Warmed(steady=False), now() + most
    while not reply.steady and now() < until:
        timed = time(first)
        reply.readings.append((timed.calls, max(0, round(timed.own - timed.overhead))))
        first += timed.calls
        reply.steady = is_steady(reply.readings)
    return reply


def is_steady(readings: list[tuple[int, int]]) -> bool:
    """Whether the last trials of a warm-up are alike: (calls, nanoseconds) of each.

    >>> is_steady([(10, 900), (10, 500), (10, 310), (10, 300), (10, 305)])
    True
    """
    last = [took / calls for calls, took in readings[-STEADY:]]
    return len(last) == STEADY and max(last) <= STEADY_WITHIN * max(min(last), 1e-9)
