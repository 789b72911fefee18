"""One event of a walk."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

State = list[Any]
"""What a variable is and what is in it; see `pictures`."""


@dataclass(slots=True)
class Event:
    """One event.

    Attributes:
        kind: what was done, in a word: read, write, swap, compare, append, …, change, set, call, return, raise, pass
            (an outermost loop begins again), or a tally.
        what: the same in words.
        line: of the contender's file.
        function: in which it was done, `depth` calls below the contender.
        scope: a number for each call of a function; another one means other variables.
        touched: for each variable the places or keys that it was done to.
        changed: each variable that is not as it was at the event before, None where it is gone; where the scope is
            another one, all of them.
        tallies: what was counted so far.
        value: of a call, what it was called with; of a return, what it gave.
    """

    kind: str
    what: str
    line: int
    function: str
    depth: int
    scope: int
    touched: dict[str, list[Any]]
    changed: dict[str, State | None]
    tallies: dict[str, int]
    value: str = ""
