"""How far each contender gets: its sizes, and what a call at each of them costs.

Pure calculation: nothing here starts a process or reads a clock.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Collection, Iterator, Sequence
from dataclasses import dataclass, field
from functools import partial

from ...notation import sizes
from ...notation.sizes import Number
from ...protocol.clock import round_calls
from ...results.questions import Point
from ...study.parts import Contender, Family
from ...study.study import Study
from .settings import Settings

STEEPEST, FIRST = 8.0, 8  # the steepest power that is foreseen, and the first size where none is said
TRACK_SIZE_MOST = 2**26
MAP_LOOK_S, MAP_LOOK_SHARE = 0.03, 0.2  # seconds of a first look at one point of a map, and share of the budget for all
ALONG_LEAST = 5  # points along either size of a map, at least
FURTHER_MOST = 64  # a size beyond the last planned one is at most so many times as large
AROUND_S = 0.0012  # seconds that a trial of a function takes beside its calls: asking, answering, reading the pace


@dataclass(slots=True)
class Step:
    """What calibration found for one stage at one size.

    Attributes:
        calls: how many make a trial.
        call: seconds of one.
        copies: whether each needs a copy of its input.
        promise: what is returned in place of an answer; see `protocol.requests.Timing`.
        instances: how many this contender must take in turn, so that none is learnt by the processor.
        repeated: seconds of a call where one instance is repeated; None where that was not looked at.
        making: seconds that making one instance takes.
        around: seconds that a trial takes beside its calls: asking, answering, what is made for each call.
        opening: seconds that the first trial of a process took beside that: inputs, objects.
    """

    calls: int
    call: float
    copies: bool
    promise: str = ""
    instances: int = 1
    repeated: float | None = None
    making: float = 0.0
    around: float = AROUND_S
    opening: float = 0.0

    @property
    def trial(self) -> float:
        """Seconds of wall time that one trial takes."""
        return self.calls * self.call + self.around

    @property
    def learned(self) -> float:
        """How many times as much a call costs on fresh inputs as on one that is repeated, as calibration saw it."""
        return self.call / self.repeated if self.repeated else 1.0

    def seen(self, call: float, target: float, beside: float, is_first: bool) -> None:
        """Take in a further reading; where trials turn out far shorter than they should be, make more calls.

        Args:
            call: seconds of one.
            target: seconds that a trial should last.
            beside: seconds that this one took beside its calls.
            is_first: whether it was the first one of its process.
        """
        if is_first:
            self.opening = max(beside - self.around, 0.0)
        else:
            self.around = (self.around + beside) / 2
        self.call = (self.call + call) / 2
        if self.calls * self.call < target / 2:
            self.calls = round_calls(target / max(self.call, 1e-9))


@dataclass(frozen=True, slots=True)
class DesignPoint:
    """One (contender, family, size, stage)."""

    contender: str
    family: str
    size: Number
    stage: str | None


@dataclass(slots=True)
class Track:
    """The calibration of one contender on one family: sizes still to come, and what was found at those done.

    `first` is the size to begin at where none are planned. `waits` is known once calls take longer than the processor
    works for them, also when they are looked at again. Of two sizes, only those are `allowed` that make sense beside
    the second.
    """

    contender: Contender
    family: Family
    ceiling: float
    is_size: bool
    planned: tuple[Number, ...] | None
    first: int = FIRST
    allowed: Callable[[Number], bool] = lambda _: True
    sizes: Iterator[Number] = field(init=False)
    next: Number | None = None
    steps: dict[Number, dict[str | None, Step]] = field(default_factory=dict)
    waits: bool = False

    def __post_init__(self) -> None:
        """Stand at the first size; where none are planned, sizes go on without end."""
        grows = (size for size in sizes.endless(self.first) if size <= TRACK_SIZE_MOST and self.allowed(size))
        self.sizes = iter(self.planned) if self.planned else grows
        self.advance()

    def advance(self) -> None:
        """Turn to the next size, or to None after the last."""
        self.next = next(self.sizes, None)

    def end(self) -> None:
        """Go no further."""
        self.next, self.sizes = None, iter(())

    @property
    def limit(self) -> float:
        """Seconds after which a call is ended: the ceiling, and a little for asking and answering."""
        return self.ceiling * 1.1 + 0.5

    @property
    def coming(self) -> tuple[Number, ...]:
        """The fixed sizes that are still to come, the next one first; none if they go on without end."""
        return self.planned[self.planned.index(self.next) :] if self.planned and self.next is not None else ()

    def take(self, chosen: Collection[Number]) -> None:
        """Measure only the chosen ones of the fixed sizes that are still to come."""
        coming = self.coming
        self.planned = tuple(size for size in self.planned or () if size not in coming or size in chosen)
        self.sizes = iter([size for size in coming if size in chosen])
        self.advance()

    def drop(self, size: Number) -> None:
        """Forget a size that failed, and on a size axis all larger ones too."""
        for other in list(self.steps):
            if other == size or (self.is_size and other > size):
                del self.steps[other]

    def call(self, size: Number) -> float:
        """Seconds of one call of every stage at a size that was calibrated."""
        return sum(step.call for step in self.steps[size].values())

    def between(self, size: Number) -> float:
        """Seconds of one call of every stage at a size between two that were calibrated; 0 where nothing is known."""
        above = [other for other in self.steps if other > size] or list(self.steps)[-1:]
        return self.call(above[0]) if above else 0.0

    def at(self, size: Number) -> float:
        """Seconds of one call of every stage at a size, mostly beyond those that were calibrated."""
        back = [*self.steps][-4:]
        if len(back) < 2 or not self.is_size:
            return self.call(back[-1])
        if size < back[-1]:
            return self.between(size)
        return forecast((back[0], self.call(back[0])), (back[-1], self.call(back[-1])), size)

    def reach(self, most: float) -> Number:
        """The largest size beyond those that were calibrated at which a call may be expected to take `most` seconds."""
        last = size = max(self.steps)
        while size < FURTHER_MOST * last and self.at(math.ceil(size * 1.19)) <= most:
            size = math.ceil(size * 1.19)
        return size

    def nearby(self) -> Iterator[int]:
        """Sizes that make up for few, where none are planned: halfway between those calibrated, then below them."""
        if self.planned is not None or not self.is_size or self.family.second is not None or not self.steps:
            return
        known = sorted(map(int, self.steps))
        while len(known) > 1:
            gap, low = max((high - low, low) for low, high in itertools.pairwise(known))
            if gap < 2:
                break
            known = sorted([*known, low + gap // 2])
            yield low + gap // 2
        yield from range(known[0] - 1, 0, -1)

    def making(self) -> float:
        """Seconds that making one instance of the next size may take; 0 where nothing is known yet."""
        done = list(self.steps)
        if not done or self.next is None:
            return 0.0
        last = max(step.making for step in self.steps[done[-1]].values())
        return last * self.next / done[-1] if self.is_size else last

    def forecast(self) -> float:
        """Seconds that one call at the next size may take; 0 where nothing is known yet."""
        done = list(self.steps)
        if not done or self.next is None:
            return 0.0
        if self.next < done[-1]:
            return self.between(self.next)
        last = self.call(done[-1])
        if not self.is_size or len(done) < 2:
            return last
        back = done[-4:]
        return forecast((back[0], self.call(back[0])), (back[-1], self.call(back[-1])), self.next)


def forecast(earlier: tuple[Number, float], later: tuple[Number, float], size: Number) -> float:
    """The cost at `size`, as a power through two (size, cost) that are known.

    Steeper growth is found out by the call itself, which is ended at the ceiling.

    >>> round(forecast((4, 16.0), (8, 64.0), 16), 6)
    256.0
    """
    slope = math.log(max(later[1], 1e-9) / max(earlier[1], 1e-9)) / math.log(later[0] / earlier[0])
    return later[1] * math.pow(size / later[0], min(max(slope, 0.0), STEEPEST))


def expected_of(tracks: Collection[Track], track: Track) -> float:
    """Seconds that one call at the next size of a track may take, by its own sizes and, on a map, by other slices.

    0 where nothing is known yet.
    """
    own, size, second = track.forecast(), track.next, track.family.second
    if second is None or size is None or len(track.steps) > 1:
        return own
    below = [
        other
        for other in tracks
        if (other.contender.name, other.family.whole) == (track.contender.name, track.family.whole)
        and (other.family.second or 0) < second
        and size in other.steps
    ]
    if not below:
        return own
    below.sort(key=lambda other: other.family.second or 0)
    near, last = below[-1], max(track.steps, default=None)
    if last is not None:
        # It rises with the first size as it does beside.
        return own * near.call(size) / near.call(last) if last in near.steps else max(own, near.call(size))
    if len(below) < 2 or min(second, below[-2].family.second or 0) <= 0:
        return near.call(size)
    earlier, later = ((other.family.second or 1, other.call(size)) for other in below[-2:])
    return forecast(earlier, later, second)


def tracks(study: Study, settings: Settings, absent: Collection[str] = ()) -> list[Track]:
    """A track for each contender on each of its families, standing at its first size; none for those absent."""
    made = []
    for family in study.slices(seconds_of(study, settings)):
        whole = family.whole or family.name
        if settings.families and whole not in settings.families:
            continue
        for contender in study.contenders:
            if contender.name in absent or (settings.contenders and contender.name not in settings.contenders):
                continue
            # What was handed in is assessed, not measured among the others, unless it is asked for by name.
            if contender.source is not None and contender.name not in settings.contenders:
                continue
            if contender.options.families is not None and whole not in contender.options.families:
                continue
            allowed = partial(study.allows, second=family.second)
            own = settings.sizes or contender.options.sizes or study.sizes
            planned = sizes.fixed(own)
            if planned is not None and study.second is not None:
                planned = spread([size for size in planned if allowed(size)], points_along(study, settings)[0])
                if not planned:
                    continue
            ceiling = contender.options.ceiling if contender.options.ceiling is not None else settings.ceiling
            first = FIRST if own is None else max(int(own[0]), 1)
            made.append(Track(contender, family, ceiling, study.axis == "size", planned, first, allowed))
    return made


def seconds_of(study: Study, settings: Settings) -> tuple[Number, ...] | None:
    """The values of the second size that a run takes: as many as its budget bears, spread over all."""
    if study.second is None:
        return None
    every = settings.seconds or study.second.values
    possible = sizes.fixed(settings.sizes or study.sizes) or ()
    worth = [value for value in every if not possible or any(study.allows(size, value) for size in possible)]
    return spread(worth, points_along(study, settings)[1])


def points_along(study: Study, settings: Settings) -> tuple[int, int]:
    """How many points of a map a first look has along the first size, and along the second.

    A coarse grid first, corners included: what is measured beyond it lies where it tells.
    """
    families = settings.families or study.families
    among = settings.contenders or study.contenders
    stages = max((len(contender.stages) for contender in study.contenders), default=1)
    points = MAP_LOOK_SHARE * settings.budget / (MAP_LOOK_S * len(families) * len(among) * stages)
    along = max(ALONG_LEAST, int(math.sqrt(points)))
    return along, along


def spread(values: Sequence[Number], many: int) -> tuple[Number, ...]:
    """At most so many of some rising values, evenly spread among them, both ends included.

    >>> spread((1, 2, 4, 8, 16, 32, 64), 4)
    (1, 4, 16, 64)
    """
    if len(values) <= many:
        return tuple(values)
    return tuple(values[round(at * (len(values) - 1) / (many - 1))] for at in range(many))


def kept_sizes(coming: Sequence[Number], costs: Sequence[float], room: float) -> tuple[Number, ...]:
    """Return the sizes to measure: all, or every k-th down from the largest, as many as there is room for.

    Args:
        coming: rising sizes.
        costs: of each of them.
        room: what all may cost; the largest size is taken also if it costs more.

    >>> kept_sizes((1, 2, 4, 8, 16), [1.0] * 5, 3.0)
    (1, 4, 16)
    """
    stride = next((k for k in range(1, len(coming)) if sum(costs[::-1][::k]) <= room), len(coming))
    return tuple(coming[::-1][::stride][::-1])


def points(tracks: list[Track]) -> list[DesignPoint]:
    """Every design point that calibration reached."""
    return [
        DesignPoint(track.contender.name, track.family.name, size, stage)
        for track in tracks
        for size, steps in track.steps.items()
        for stage in steps
    ]


def pools(tracks: list[Track]) -> dict[tuple[str, Number], int]:
    """How many instances every contender takes in turn, for each family and size: as many as any of them must."""
    made: dict[tuple[str, Number], int] = {}
    for track in tracks:
        for size, steps in track.steps.items():
            key = track.family.name, size
            made[key] = max(made.get(key, 1), *(step.instances for step in steps.values()))
    return made


def steps_at(
    tracks: list[Track], among: Collection[Point] | None = None
) -> Iterator[tuple[Point, dict[str | None, Step]]]:
    """Each (contender, family, size) that was calibrated with what was found there, stage by stage; of some, or all."""
    for track in tracks:
        for size, steps in track.steps.items():
            point = track.contender.name, track.family.name, size
            if among is None or point in among:
                yield point, steps


def making_costs(tracks: list[Track], among: Collection[Point] | None = None) -> dict[Point, float]:
    """Seconds of making what a process needs at each point, every contender its own; of some points, or all.

    These are inputs, as long as nobody has seen what the first trials of a process take beside their calls.
    """
    many = pools(tracks)
    return {
        point: max(
            many[point[1:]] * max(step.making for step in steps.values()), sum(step.opening for step in steps.values())
        )
        for point, steps in steps_at(tracks, among)
    }


def trial_costs(tracks: list[Track], among: Collection[Point] | None = None) -> dict[Point, float]:
    """Seconds that one trial of every stage takes at each point calibrated so far, or at some of them."""
    return {point: sum(step.trial for step in steps.values()) for point, steps in steps_at(tracks, among)}
