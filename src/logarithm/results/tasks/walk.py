"""A walk: what a contender did on one small instance, event by event."""

from __future__ import annotations

from typing import ClassVar

from ...counting.walk.event import Event
from ..base import Drawn, Frames, Part


class Call(Part):
    """One call of a function in a walk.

    Attributes:
        words: with what it was called, as Python writes it.
        answer: what it gave, in a few letters; the name of an exception that left it.
        parent: the number of the call that called it, from 0 on; None for the first.
        begin, end: the numbers of its first and its last event, from 1 on; no end where the walk ends before.
    """

    words: str
    answer: str
    parent: int | None
    begin: int
    end: int | None


class Walk(Drawn):
    """A walk.

    Attributes:
        contender, family, size: whose, on what.
        events: what happened, in order.
        answer: as Python writes it.
        failure: in words, where there was no answer: what was raised, or that it did not end.
        source: the lines of the contender's file that were at work, from line `first` on.
        cut: whether there were more events.
    """

    _frames: ClassVar[Frames] = {"events": Event}

    contender: str
    family: str
    size: int
    events: list[Event]
    answer: str
    failure: str
    source: list[str]
    first: int
    cut: bool

    def calls(self) -> list[Call]:
        """Each call of a function, in the order in which they began."""
        made: list[Call] = []
        open_now: list[int] = []
        for number, event in enumerate(self.events, start=1):
            if event.kind == "begin" and open_now:  # one of several calls on one object
                made[open_now[0]].end = number - 1
                open_now = []
            if event.kind in ("begin", "call"):
                made.append(Call(event.value, "", open_now[-1] if open_now else None, number, None))
                open_now.append(len(made) - 1)
            elif event.kind == "return" and open_now:
                done = made[open_now.pop()]
                done.answer, done.end = event.value, number
        if open_now and not (self.cut or self.failure):
            last = made[open_now[0]]
            last.end = len(self.events)
            last.answer = self.answer if last is made[0] else ""
        return made
