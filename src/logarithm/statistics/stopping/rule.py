"""Watching a run: what its logbook says so far, looked at from life to life."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from ...errors import AnalysisError
from ...logbook.reading import Logbook
from ...logbook.records import BESIDE, WORK, ContenderRecord
from ...results.findings import Number, plain
from ..analyse import every_series, whose, works_of
from ..comparison.pairs import duels_of, places
from ..comparison.standings import Reign, standings
from ..growth.fit import Growth
from ..growth.naming import named_growth
from ..series import TIMED, Series
from ..work.order import Work
from ..work.witnesses import by_both, price_of
from .further_sizes import sizes_between
from .questions import OPEN, ORDER, SETTLED, Point, Question, Rest, points_of, questions

LIVES_LEAST = 3  # before growth is named
AGAIN = 1.5  # growth that is not settled is named again when there are so many times the lives
Key = tuple[str, str, str | None, str]


@dataclass(frozen=True, slots=True)
class Look:
    """What was seen at one look.

    Attributes:
        lives: how many there were.
        asked: all questions with their states.
        points: where trials would tell something about those that are not settled.
        between: further sizes for (contender, family), around crossovers.
        larger: a larger size for (contender, family), that would tell orders apart.
        counts: (contender, family) whose work leaves several orders open.
        reigns: who leads where, by place.
    """

    lives: int
    asked: list[Question]
    points: set[Point]
    between: dict[tuple[str, str], list[Number]]
    larger: dict[tuple[str, str], Number]
    counts: set[tuple[str, str]]
    reigns: dict[tuple[str, str | None, str], list[Reign]]

    @property
    def over(self) -> bool:
        """Whether no question is open."""
        return self.lives >= LIVES_LEAST and all(each.state != OPEN for each in self.asked)

    @property
    def unsettled(self) -> list[Question]:
        """The questions without an answer that lasts."""
        return [each for each in self.asked if each.state != SETTLED]


@dataclass(slots=True)
class Watch:
    """Looks at a logbook again and again, and keeps what does not change in between."""

    works: dict[tuple[str, str, str | None] | None, Work] = field(default_factory=dict)
    counted: int = 0
    growths: dict[Key, tuple[Growth, int, int]] = field(default_factory=dict)

    def look(self, logbook: Logbook, rest: Rest) -> Look:
        """What the logbook says now.

        Args:
            logbook: as far as it is written.
            rest: what is left of the run.
        """
        every, _ = every_series(logbook)
        series = [each for each in every if each.metric not in BESIDE and each.metric in TIMED]
        failed = {(failure.contender, failure.family) for failure in logbook.failures}
        going = [each for each in series if (each.contender, each.family) not in failed] or series
        lives = min((len(np.unique(each.lives[each.heats > 0])) for each in going), default=0)
        counted = sum(each.costs.size for each in every if each.metric == WORK)
        if self.counted != counted:
            self.counted, self.works = counted, works_of(every)
            self.growths.clear()
        named: dict[Series, Growth] = {}
        if logbook.study.axis == "size" and lives >= LIVES_LEAST:
            records = {record.name: record for record in logbook.contenders}
            for each in series:
                growth = self._growth(each, records[each.contender], lives)
                if growth is not None:
                    named[each] = growth
        duels = duels_of(series, {})
        ranked = {record.name for record in logbook.contenders if not record.yardstick}
        ranks = [each for each in series if each.contender in ranked]
        between = duels_of(ranks, {}) if len(ranks) < len(series) else duels
        asked = questions(named, between, rest)
        asked += [
            _by_work(each, self.works) for each in series if named and each not in named and whose(each) in self.works
        ]
        opened = [each for each in asked if each.state == OPEN]
        larger = {
            (each.contenders[0], each.place[0]): plain(round(each.size))
            for each in opened
            if each.kind == ORDER and each.size is not None
        }
        reigns = {where: standings(group, between[where]) for where, group in places(ranks).items()}
        # While it goes on for one question, others that noise leaves open may gain by it too.
        points = points_of([each for each in asked if each.state != SETTLED and (each.by_noise or each.state == OPEN)])
        doubted = {
            (each.contenders[0], *each.place[:2]) for each in asked if each.kind == ORDER and len(each.orders) > 1
        }
        counts = {where[:2] for where in doubted if where in self.works and len(self.works[where].plausible) > 1}
        return Look(lives, asked, points, sizes_between(opened, series, duels), larger, counts, reigns)

    def _growth(self, series: Series, record: ContenderRecord, lives: int) -> Growth | None:
        """How a series grows; named again only where that may have changed."""
        key = series.contender, series.family, series.stage, series.metric
        known = self.growths.get(key)
        if known is not None:
            growth, then, sizes = known
            if sizes == len(series.sizes) and (len(growth.plausible) < 2 or lives < AGAIN * then):
                return growth
        work = self.works.get(whose(series))
        if work is not None and len(work.plausible) == 1 and _is_priced(work, series):
            return None  # work alone names its order: there is nothing to ask
        try:
            growth, _ = by_both(named_growth(series, (), record.startup or 0.0), work)
        except AnalysisError:
            return None
        self.growths[key] = growth, lives, len(series.sizes)
        return growth


def _by_work(series: Series, works: Mapping[tuple[str, str, str | None] | None, Work]) -> Question:
    """The question of an order that work has answered."""
    place = series.family, series.stage, series.metric
    ends = float(series.sizes[0]), float(series.sizes[-1])
    orders = works[whose(series)].order
    return Question(ORDER, place, (series.contender,), *ends, SETTLED, orders=(orders,))


def _is_priced(work: Work, series: Series) -> bool:
    """Whether time follows work."""
    typical = series.typical
    return bool((typical > 0).all()) and price_of(work, series.sizes, typical).says == "work"
