"""The plan: which design points there are, how far each contender's ladder goes, how many heats fit.

Pure calculation: nothing here starts a process or reads a clock.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Iterator
from dataclasses import dataclass, field
from itertools import combinations

from ...notation import sizes
from ...notation.sizes import Number
from ...study.parts import Contender, Family
from ...study.study import Study
from ..child.bench import round_calls

HEATS_LEAST = 5
HEATS_MOST = 100
LIVES_MOST = 10
CLOSE = 0.2  # of the logarithm of a ratio
LONGEST = 0.03  # seconds that a trial of short calls may last
PAUSING = 4.0  # a trial that takes this many times a plain one pauses every other heat
STEEPEST = 8.0
SIZE_MOST = 2**26
AROUND = 0.0004  # seconds that a trial takes beside its calls: asking, answering, looking for garbage


@dataclass(frozen=True, slots=True)
class Settings:
    """The dials of a run; spans of time in seconds, memory (of one contender) in bytes. Empty tuples mean all."""

    budget: float = 60.0
    ceiling: float = 1.0
    seed: int = 1
    trial: float = 0.005
    sizes: tuple[Number, ...] | None = None
    families: tuple[str, ...] = ()
    contenders: tuple[str, ...] = ()
    metrics: tuple[str, ...] = ()
    anyway: bool = False
    memory: float | None = None


@dataclass(slots=True)
class Step:
    """What the climb found for one stage at one size: calls for a trial, seconds for a call."""

    calls: int
    call: float
    copies: bool

    @property
    def trial(self) -> float:
        """Seconds of wall time that one trial takes."""
        return self.calls * self.call + AROUND

    def seen(self, call: float, target: float) -> None:
        """Take in a further reading; where trials turn out far shorter than they should be, make more calls."""
        self.call = (self.call + call) / 2
        if not self.copies and self.calls * self.call < target / 2:
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
    """The climb of one contender on one family: sizes still to come, and what was found at those done."""

    contender: Contender
    family: Family
    ceiling: float
    is_size: bool
    ladder: tuple[Number, ...] | None
    sizes: Iterator[Number] = field(init=False)
    next: Number | None = None
    steps: dict[Number, dict[str | None, Step]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        """Stand at the first size; without a ladder, one that grows by itself."""
        grows = (size for size in sizes.endless() if size <= SIZE_MOST)
        self.sizes = iter(self.ladder) if self.ladder else grows
        self.advance()

    def advance(self) -> None:
        """Turn to the next size, or to None at the end of the ladder."""
        self.next = next(self.sizes, None)

    def end(self) -> None:
        """Go no further."""
        self.next, self.sizes = None, iter(())

    @property
    def left(self) -> int:
        """How many sizes of a fixed ladder are still to come; none of one that grows by itself."""
        return sum(size >= self.next for size in self.ladder) if self.ladder and self.next is not None else 0

    def drop(self, size: Number) -> None:
        """Forget a size that failed, and on a size axis all larger ones too."""
        for other in list(self.steps):
            if other == size or (self.is_size and other > size):
                del self.steps[other]

    def call(self, size: Number) -> float:
        """Seconds of one call of every stage at a size that was climbed."""
        return sum(step.call for step in self.steps[size].values())

    def between(self, size: Number) -> float:
        """Seconds of one call of every stage at a size between two that were climbed; 0 where nothing is known."""
        above = [other for other in self.steps if other > size] or list(self.steps)[-1:]
        return self.call(above[0]) if above else 0.0

    def forecast(self) -> float:
        """Seconds that one call at the next size may take; 0 where nothing is known yet."""
        done = list(self.steps)
        if not done or self.next is None:
            return 0.0
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


def tracks(study: Study, settings: Settings, absent: Collection[str] = ()) -> list[Track]:
    """A track for each contender on each of its families, standing at its first size; none for those absent."""
    made = []
    for family in study.families:
        if settings.families and family.name not in settings.families:
            continue
        for contender in study.contenders:
            if contender.name in absent or (settings.contenders and contender.name not in settings.contenders):
                continue
            # What was handed in is assessed, not measured among the others, unless it is asked for by name.
            if contender.source is not None and contender.name not in settings.contenders:
                continue
            if contender.families is not None and family.name not in contender.families:
                continue
            own = settings.sizes or contender.sizes or study.sizes
            ceiling = contender.ceiling if contender.ceiling is not None else settings.ceiling
            made.append(Track(contender, family, ceiling, study.axis == "size", own))
    return made


def points(tracks: list[Track]) -> list[DesignPoint]:
    """Every design point that the climb reached."""
    return [
        DesignPoint(track.contender.name, track.family.name, size, stage)
        for track in tracks
        for size, steps in track.steps.items()
        for stage in steps
    ]


def heat_cost(tracks: list[Track]) -> float:
    """Seconds that one heat over everything climbed so far takes."""
    return sum(step.trial for track in tracks for steps in track.steps.values() for step in steps.values())


def longer_trials(tracks: list[Track], settings: Settings, left: float) -> float:
    """How long a trial may last where the budget allows for more heats than anyone needs, in seconds."""
    heats = left / max(heat_cost(tracks), 1e-6)
    return min(LONGEST, max(settings.trial, settings.trial * heats / HEATS_MOST))


def rhythm(tracks: list[Track], settings: Settings, left: float) -> tuple[int, dict[tuple[str, str, Number], int]]:
    """How many heats to plan for the seconds `left`, and which sizes take part only in every k-th of them.

    Were every design point in every heat, a few dear ones would use up the budget and leave all others with
    hardly a trial. So those that take many times a plain trial pause in between, but none is left with fewer
    than a few trials. Contenders that cost alike pause alike, and so can still be compared within a heat.

    Returns:
        the number of heats, and k for each (contender, family, size).

    """
    trials = {
        (track.contender.name, track.family.name, size): sum(step.trial for step in steps.values())
        for track in tracks
        for size, steps in track.steps.items()
    }
    plain = PAUSING * (settings.trial + AROUND)
    for heats in range(HEATS_MOST, 1, -1):
        most = max(1, heats // HEATS_LEAST)
        pauses = {key: min(most, 2 ** max(0, int(math.log2(max(trial / plain, 1.0))))) for key, trial in trials.items()}
        if sum(trial * math.ceil(heats / pauses[key]) for key, trial in trials.items()) <= left:
            return heats, pauses
    return 1, dict.fromkeys(trials, 1)


def deciding(tracks: list[Track]) -> set[tuple[str, str, Number]]:
    """The (contender, family, size) at which more trials may decide something.

    These are the sizes at which two contenders cost about the same, and those between which one overtakes the
    other; and the largest sizes of each contender, which say most about its growth.
    """
    wanted = {(track.contender.name, track.family.name, size) for track in tracks for size in [*track.steps][-2:]}
    for one, other in combinations(tracks, 2):
        if one.family.name != other.family.name or one.contender.stages != other.contender.stages:
            continue
        common = [size for size in one.steps if size in other.steps]
        ratios = [math.log(max(one.call(size), 1e-9) / max(other.call(size), 1e-9)) for size in common]
        for index, ratio in enumerate(ratios):
            flips = any(ratio * ratios[at] < 0 for at in (index - 1, index + 1) if 0 <= at < len(ratios))
            if flips or abs(ratio) < CLOSE:
                wanted |= {(track.contender.name, track.family.name, common[index]) for track in (one, other)}
    return wanted


def reserve(tracks: list[Track], settings: Settings) -> float:
    """Seconds to keep for points of fixed ladders that are still to come: one short trial in each heat."""
    still = sum(track.left for track in tracks)
    return min(still * (settings.trial + AROUND) * (HEATS_LEAST + 1), settings.budget / 2)


def lives(heats: float, left: float, start: float) -> int:
    """How many lives to give each contender: up to ten, of two heats at least, their start a tenth of the time.

    Args:
        heats: how many heats fit.
        left: seconds left.
        start: seconds that starting the workers takes.

    """
    affordable = left * 0.1 / max(start, 1e-3)
    return max(1, min(LIVES_MOST, int(heats // 2), int(affordable)), 3 if heats >= 3 and left > 8 * start else 1)
