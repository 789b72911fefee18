"""The rehearsal finds out whether the contenders give the same answers, and which cannot even begin."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from ..sizes import Number
from ..study import Family, Study
from . import answers
from .crew import Crew, Failed
from .plan import Track

SMALL, MEDIUM = 64, 512
SIZES_MOST = 5
GROWING = (8, 11, 16, 32)  # of a ladder that grows by itself nobody knows yet how dear its sizes are
SEEDS = (1, 2, 3)


@dataclass(frozen=True, slots=True)
class Disagreement:
    """Two answers to one instance that should agree; `against` is None where the referee rejects an answer."""

    contender: str
    against: str | None
    family: str
    size: Number
    seed: int
    answer: str
    expected: str

    def __str__(self) -> str:
        where = f"on {self.family}, n = {self.size}, seed {self.seed}"
        if self.against is None:
            return f"the referee rejects the answer of {self.contender} {where}: {self.answer}"
        return f"{self.contender} disagrees with {self.against} {where}: {self.answer} against {self.expected}"


@dataclass(slots=True)
class Rehearsed:
    """What the rehearsal found. A failure is (contender, family, size, what failed); a trap (contender, what)."""

    disagreements: list[Disagreement]
    failures: list[tuple[str, str, Number, Failed]]
    traps: list[tuple[str, str]]
    compared: int


def rehearse(
    study: Study, tracks: list[Track], crew: Crew, until: float, tell: Callable[[str], None] = lambda _: None
) -> Rehearsed:
    """Let every contender answer small instances, and compare the answers.

    Args:
        study: what is asked.
        tracks: who runs on what.
        crew: workers of the contenders.
        until: the reading of `time.monotonic` after which no further instance is begun; every family gets one.
        tell: called with what is being done.

    """
    found = Rehearsed([], [], [], 0)
    out: set[tuple[str, str]] = set()
    disagreed: set[str] = set()
    trapped: set[str] = set()
    families = {track.family.name: track.family for track in tracks}
    took: dict[tuple[str, str], tuple[Number, float]] = {}
    for family, size, seed, smallest in _instances(families, tracks):
        if time.monotonic() > until and not smallest:
            continue
        tell(f"do the answers agree? {family.name}, n = {size}")
        given: dict[str, Any] = {}
        for track in tracks:
            name = track.contender.name
            if track.family.name != family.name or (name, family.name) in out:
                continue
            before, seconds = took.get((name, family.name), (size, 0.0))
            if track.is_size and seconds * (size / before) ** 3 > track.ceiling / 2:
                continue  # a medium size may be far too large for this one
            request = {"do": "answer", "family": family.name, "size": size, "seed": seed}
            begun = time.monotonic()
            try:
                reply = crew.ask(name, request, track.ceiling * 1.1 + 0.5)
            except Failed as failed:
                found.failures.append((name, family.name, size, failed))
                out.add((name, family.name))
                continue
            took[name, family.name] = size, time.monotonic() - begun
            if "lazy" in reply and name not in trapped:
                trapped.add(name)
                found.traps.append(
                    (
                        name,
                        f"returns a {reply['lazy']}, so nothing was computed: give it drain=True to time the work",
                    )
                )
            given[name] = reply
        if len(given) > 1 or study.judge is not None:
            found.compared += 1
        for disagreement in _compared(study, given, family.name, size, seed):
            if disagreement.contender not in disagreed:
                disagreed.add(disagreement.contender)
                found.disagreements.append(disagreement)
    return found


def _instances(families: dict[str, Family], tracks: list[Track]) -> Iterator[tuple[Family, Number, int, bool]]:
    """Family, size and seed of each instance to rehearse on, the smallest of every family first."""
    ladders = {name: _small(name, tracks) for name in families}
    for step in range(SIZES_MOST):
        for name, family in families.items():
            for size in ladders[name][step : step + 1]:
                for seed in SEEDS:
                    yield family, size, seed, step == 0 and seed == SEEDS[0]


def _small(family: str, tracks: list[Track]) -> list[Number]:
    """Some small sizes of the ladder, and one of medium size, where what small ones hide may show."""
    own = [track for track in tracks if track.family.name == family and track.next is not None]
    first = min((track.next for track in own if track.next is not None), default=None)
    if first is None:
        return []
    every = {size for track in own for size in track.ladder or GROWING if size >= first} | {first}
    small = sorted(size for size in every if size <= max(SMALL, first))[: SIZES_MOST - 1]
    medium = max(size for size in every if size <= max(MEDIUM, first))
    return small if medium in small else [*small, medium]


def _compared(study: Study, given: dict[str, Any], family: str, size: Number, seed: int) -> Iterator[Disagreement]:
    if study.judge is not None:
        for name, reply in given.items():
            if not reply.get("right", True):
                answer = answers.shown(reply["answer"]) if "answer" in reply else "a long one"
                yield Disagreement(name, None, family, size, seed, answer, "")
        return
    comparable = {name: reply["answer"] for name, reply in given.items() if "answer" in reply}
    if not comparable:
        return
    baseline = next((each.name for each in study.contenders if each.baseline and each.name in comparable), None)
    against = baseline or next(iter(comparable))
    rule = study.agreement
    for name, answer in comparable.items():
        if not answers.agree(comparable[against], answer, rule.within, rule.unordered):
            shown, expected = answers.shown(answer), answers.shown(comparable[against])
            yield Disagreement(name, against, family, size, seed, shown, expected)
