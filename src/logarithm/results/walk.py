"""A walk: what a contender did on one small instance, event by event."""

from __future__ import annotations

from typing import ClassVar

from ..counting.walk.event import Event
from .base import Drawn, Frames


class Walk(Drawn):
    """A walk.

    Attributes:
        contender, family, size: whose, on what.
        events: what happened, in order.
        answer: as Python writes it.
        source: the lines of the contender's file that were at work, from line `first` on.
        cut: whether there were more events.
    """

    _frames: ClassVar[Frames] = {"events": Event}

    contender: str
    family: str
    size: int
    events: list[Event]
    answer: str
    source: list[str]
    first: int
    cut: bool
