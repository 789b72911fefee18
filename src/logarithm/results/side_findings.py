"""What is told beside costs: starting a program, the first calls of a process, inputs that are repeated."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ..notation.places import Timed
from ..notation.sizes import Number
from .base import Part

if TYPE_CHECKING:
    pass


class StartUp(Part):
    """How long a command takes to start, and from which size on it leads over another, with and without that.

    `size` counts the start, `kept` does not: as if the program were kept running. None where it does not overtake.
    """

    contender: str
    seconds: float
    family: str
    over: str
    size: float | None
    kept: float | None


class RepeatedFinding(Part, Timed):
    """A contender that is `ratio` times cheaper at `size` on an input that is repeated; it gains up to `until`."""

    contender: str
    family: str
    stage: str | None
    size: Number
    ratio: float
    until: Number


class WarmUpFinding(Part):
    """What the first calls of a new process cost, at `size`.

    It is at full speed after `seconds` and `calls`; these cost `extra` seconds more than at full speed, and the first
    ones `cold` times as much. Against `over` that is repaid after `repaid` calls at size `at`; None where nobody is
    slower at full speed.
    """

    contender: str
    family: str
    size: Number
    seconds: float
    extra: float
    cold: float
    calls: int
    over: str | None
    at: Number | None
    repaid: float | None
