"""The child side of a walk: one call on a small counted instance, event by event, for teaching."""

from __future__ import annotations

from collections import Counter
from functools import partial
from typing import Any

from ...counting.counted import EVERY, CountedList, counted, watching
from ...counting.tallies import listening, quick
from ..shared import answers
from ..shared.messages import Event, Walk, Walked
from .bench import Bench
from .counts import called

EVENTS_MOST = 5000


def walk(bench: Bench, request: Walk) -> Walked:
    """What a contender does on one small instance, whose first list is followed."""
    make = partial(bench.study.the_family(request.family).instance, request.size, request.seed)
    instance = counted(make(), watched=True)
    root = instance if isinstance(instance, CountedList) else _first_list(instance)
    begin = _state(root)
    events: list[Event] = []
    tallies: Counter[str] = Counter()
    before = quick()
    passes = _Passes()

    def tallied(name: str, amount: int) -> None:
        tallies[name] += amount
        if name not in EVERY and len(events) < EVENTS_MOST:
            events.append(Event(name, False, _state(root), so_far(), passes.number))

    def so_far() -> dict[str, int]:
        own = {name: number - before[name] for name, number in quick().items() if number > before[name]}
        return {**own, **tallies}

    def happened(what: str, where: Any, about: tuple[Any, ...]) -> None:
        if len(events) >= EVENTS_MOST:
            return
        part = where is not None and where is not root
        if where is root:
            passes.at(about[0])
        if where is None:
            what = f"{about[0]!r} {what} {about[1]!r}"
        elif what == "swap":
            what = f"swap {about[0]} and {about[1]}"
            # The write before it was its first half.
            if events and events[-1].what.startswith("write"):
                events.pop()
        else:
            what = f"{what} {about[0]}: {about[1]!r}"
        events.append(Event(what, part, _state(root), so_far(), passes.number))

    with listening(tallied), watching(happened):
        answer = called(bench, instance, None if bench.contender.stages == (None,) else "use", make)()
    shown = answers.shown(answers.written(answer)) if not answers.is_lazy(answer) else "a promise"
    return Walked(begin=begin, events=events, answer=shown, cut=len(events) >= EVENTS_MOST)


class _Passes:
    """Tells passes apart: one ends where the work goes back to where the pass began, or before."""

    def __init__(self) -> None:
        self.number, self.began, self.last = 1, 0, -1

    def at(self, place: int) -> None:
        """The list was touched at a place."""
        if place <= self.began and self.last > place + 1:
            self.number, self.began = self.number + 1, place
        elif self.last < 0:
            self.began = place
        self.last = place


def _first_list(instance: Any) -> CountedList | None:
    if isinstance(instance, tuple):
        return next((each for each in tuple.__iter__(instance) if isinstance(each, CountedList)), None)
    return None


def _state(root: Any) -> list[Any]:
    """The values of a list as they are, without counting."""
    if root is None:
        return []
    return [_plain(value) for value in list.__iter__(root)]


def _plain(value: Any) -> Any:
    if isinstance(value, (bool, int)):
        return int(value)
    return round(float(value), 3) if isinstance(value, float) else str(value)
