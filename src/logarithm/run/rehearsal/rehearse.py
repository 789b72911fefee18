"""The rehearsal finds out whether the contenders give the same answers, and which traps they hold."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path

from ...errors import FamilyError, StudyError
from ...notation.sizes import Number
from ...notation.words import axis
from ...protocol import answers, clock
from ...protocol.replies import Answered, TrapsFound
from ...protocol.requests import Answer, FindTraps
from ...results.tasks.rehearsal import Disagreement, Trap
from ...study.parts import Family
from ...study.study import Study
from ...supervisor.failed import Failed
from ...supervisor.limits import limits
from ...supervisor.machine.idle import idlest_processor
from ...supervisor.pool import WorkerPool
from ..plan.settings import Settings
from ..plan.track import Track
from .traps import TEXTS, trap

SMALL_SIZE, MEDIUM_SIZE = 64, 512
SIZES_MOST = 5
GROWING = (8, 11, 16, 64)  # where sizes go on without end, nobody knows yet how dear its sizes are
COMPARED_SEEDS = (1, 2, 3)
BRIEF = 0.005  # seconds: a size at which a call is as short as this will do to look for traps
BRIEF_ENOUGH = 0.05  # or this, at the smallest size
ASKING = 0.003  # seconds that asking may take beside the call


@dataclass(slots=True)
class Rehearsed:
    """What the rehearsal found. A failure is (contender, family, size, what failed)."""

    disagreements: list[Disagreement] = field(default_factory=list)
    failures: list[tuple[str, str, Number, Failed]] = field(default_factory=list)
    traps: list[Trap] = field(default_factory=list)
    compared: int = 0
    sizes: list[Number] = field(default_factory=list)


@dataclass(slots=True)
class _Rehearsal:
    study: Study
    tracks: list[Track]
    pool: WorkerPool
    until: float
    tell: Callable[[str], None]
    found: Rehearsed = field(default_factory=Rehearsed)
    out: set[tuple[str, str]] = field(default_factory=set)
    took: dict[tuple[str, str], tuple[Number, float]] = field(default_factory=dict)
    brief: dict[tuple[str, str], Number] = field(default_factory=dict)

    def compare_all(self) -> None:
        """Put instance after instance to every contender, the smallest of each family first."""
        disagreed: set[str] = set()
        families = {track.family.name: track.family for track in self.tracks}
        for family, size, seed, smallest in _instances(families, self.tracks):
            if clock.seconds() + self.expected(family.name, size) > self.until and not smallest:
                continue
            self.tell(f"do the answers agree? {family.name}, {size}")
            given = self.answers_to(family.name, size, seed)
            if len(given) > 1 or self.study.judge is not None:
                self.found.compared += 1
                self.found.sizes.append(size)
            for disagreement in compared(self.study, given, family.name, size, seed):
                if disagreement.contender not in disagreed:
                    disagreed.add(disagreement.contender)
                    self.found.disagreements.append(disagreement)

    def expected(self, family: str, size: Number) -> float:
        """Seconds that all contenders may take for an instance of a size, as if each were quadratic."""
        known = [self.took[key] for key in self.took if key[1] == family and key not in self.out]
        is_size = all(track.is_size for track in self.tracks)
        return sum(seconds * max(size / before, 1.0) ** 2 if is_size else seconds for before, seconds in known)

    def answers_to(self, family: str, size: Number, seed: int) -> dict[str, Answered]:
        """The replies of all contenders that are still in and cheap enough at this size."""
        given: dict[str, Answered] = {}
        for track in self.tracks:
            name = track.contender.name
            if track.family.name != family or (name, family) in self.out:
                continue
            before, seconds = self.took.get((name, family), (size, float("nan")))
            if track.is_size and seconds * (size / before) ** 3 > track.ceiling / 2:
                continue  # a medium size may be far too large for this one
            begun = clock.seconds()
            try:
                given[name] = self.pool.ask(name, Answer(family, size, seed), Answered, track.limit)
            except Failed as failed:
                if failed.reason == FamilyError.__name__:
                    raise StudyError(failed.detail) from None
                self.found.failures.append((name, family, size, failed))
                self.out.add((name, family))
                continue
            took = max(clock.seconds() - begun - ASKING, 0.0)
            # The shortest call of a size: an interruption must not make a cheap contender look dear.
            self.took[name, family] = size, min(took, seconds) if size == before else took
            if took < BRIEF or (took < BRIEF_ENOUGH and (name, family) not in self.brief):
                self.brief[name, family] = size
        return given

    def set_traps(self) -> None:
        """Look for traps in each contender, on the first family that it came through on."""
        seen: set[str] = set()
        for track in self.tracks:
            name, family = track.contender.name, track.family.name
            if name in seen or (name, family) in self.out or (name, family) not in self.brief:
                continue
            seen.add(name)
            size = self.brief[name, family]
            self.tell(f"looking for traps: {name}")
            request = FindTraps(family, size, COMPARED_SEEDS[0], track.next or size)
            try:
                told = self.pool.ask(name, request, TrapsFound, track.ceiling * 15 + 0.5)
            except Failed as failed:
                self.found.failures.append((name, family, size, failed))
                continue
            kinds = {kind: str(detail) for kind, detail in told.traps.items() if kind in TEXTS}
            if told.helped:
                kinds["parallel"] = ""
            self.found.traps += [trap(name, kind, detail) for kind, detail in kinds.items()]


def rehearse(
    study: Study, tracks: list[Track], pool: WorkerPool, until: float, tell: Callable[[str], None] = lambda _: None
) -> Rehearsed:
    """Let every contender answer small instances, compare the answers, and look for traps.

    Args:
        study: what is asked.
        tracks: who runs on what.
        pool: workers of the contenders.
        until: the reading of `clock.seconds` after which no further instance is begun; every family gets one.
        tell: called with what is being done.
    """
    rehearsal = _Rehearsal(study, tracks, pool, until, tell)
    rehearsal.compare_all()
    rehearsal.set_traps()
    return rehearsal.found


@contextmanager
def rehearsal_pool(study: Study, study_file: Path, tracks: list[Track], settings: Settings) -> Iterator[WorkerPool]:
    """The workers of a single process, for a rehearsal that measures nothing."""
    contenders = list({track.contender.name: track.contender for track in tracks}.values())
    bounds = limits(len(contenders), settings.memory, settings.budget, idlest_processor())
    pool = WorkerPool(study, study_file, contenders, settings.seed, bounds, set())
    try:
        pool.greet()
        yield pool
    finally:
        pool.end()


def _instances(families: dict[str, Family], tracks: list[Track]) -> Iterator[tuple[Family, Number, int, bool]]:
    """Family, size and seed of each instance to rehearse on, the smallest of every family first."""
    sizes_of_family = {name: _small(name, tracks) for name in families}
    for step in range(SIZES_MOST):
        for name, family in families.items():
            for size in sizes_of_family[name][step : step + 1]:
                for seed in COMPARED_SEEDS if size <= SMALL_SIZE or step == 0 else COMPARED_SEEDS[:1]:
                    yield family, size, seed, step == 0 and seed == COMPARED_SEEDS[0]


def _small(family: str, tracks: list[Track]) -> list[Number]:
    """Some small sizes, up to a medium one, where what small ones hide may show."""
    own = [track for track in tracks if track.family.name == family and track.next is not None]
    first = min((track.next for track in own if track.next is not None), default=None)
    if first is None:
        return []
    every = sorted({size for track in own for size in track.planned or GROWING if size >= first} | {first})
    known = [size for size in every if size <= max(MEDIUM_SIZE, first)]
    many = min(len(known), SIZES_MOST)
    return [known[round(at * (len(known) - 1) / max(many - 1, 1))] for at in range(many)]


def compared(
    study: Study, given: Mapping[str, Answered], family: str, size: Number, seed: int
) -> Iterator[Disagreement]:
    """Where answers to one instance do not agree, or the referee rejects one."""
    if study.judge is not None:
        for name, reply in given.items():
            if reply.right is False:
                answer = answers.shown(reply.answer) if reply.comparable else "a long one"
                yield Disagreement(name, None, family, size, seed, answer, "", axis(study.axis))
        return
    comparable = {name: reply.answer for name, reply in given.items() if reply.comparable}
    if not comparable:
        return
    there = [each for each in study.contenders if each.name in comparable]
    against = next((each.name for each in there if each.options.baseline), there[0].name)
    rule = study.agreement
    for name, answer in comparable.items():
        if not answers.agree(comparable[against], answer, rule.within, rule.unordered):
            shown, expected = answers.shown(answer), answers.shown(comparable[against])
            yield Disagreement(name, against, family, size, seed, shown, expected, axis(study.axis))
