"""Whether a contender remembers earlier calls, by their input's identity or by what it holds."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from statistics import median
from typing import Any

from ..protocol import clock
from .timing.pools import copier

REPEATS = 5
REMEMBERED = 0.25  # a repeated instance that costs less than this share of a new one is remembered
TELLING = 3_000  # nanoseconds below which a call is too short to tell
FREED = 32  # copies that take the places in memory of inputs that were freed


def remembered(
    call: clock.Call, make: Callable[[int], Any], numbers: Iterable[int], used_up: bool, usual: float = 0.0
) -> dict[str, str]:
    """The trap of that name, with the cost of an instance that was seen before, as a share of that of a new one.

    Args:
        call: the contender.
        make: makes the instance of a number.
        numbers: of instances that were not seen before.
        used_up: whether a call changes its instance, so that it must be made anew.
        usual: nanoseconds that a call on instances that were seen before is known to take; 0 where that is not known.
    """
    numbers = list(numbers)
    # An input that lies where an earlier one lay would be taken for that by its identity.
    copy = copier(make(numbers[0]), lambda: make(numbers[0]))
    placed = [copy() for _ in range(FREED)]
    held = [make(numbers[0])]
    new = [clock.one_call(call, held[0])[0]]
    if usual > REMEMBERED * new[0]:
        return {}
    # One after another, as those that are repeated: after the making of an instance, a processor has to find the code
    # of the call again.
    held += [make(number) for number in numbers[1:]]
    new += [clock.one_call(call, each)[0] for each in held[1:]]
    del placed
    # The same objects again, unless they were used up: what is remembered may hang on the object or on its value.
    # Others came between: what a processor has learnt of the last one is another matter.
    again = [make(number) for number in numbers] if used_up else held
    repeated = [clock.one_call(call, each)[0] for each in again]
    # Beside the quickest new one, so that a slow moment of the machine is not taken for remembering.
    if median(new) > TELLING and median(repeated) < REMEMBERED * min(new):
        return {"remembers": f"{100 * median(repeated) / median(new):.0f} %"}
    return {}
