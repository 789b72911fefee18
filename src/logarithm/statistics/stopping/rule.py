"""Watching a run: what its logbook says so far, looked at from process to process."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

import numpy as np

from ...errors import AnalysisError
from ...logbook.memory import Logbook
from ...logbook.records import ContenderRecord
from ...notation.metrics import RANKED_TIMES, WORK
from ...notation.places import Key, Who
from ...notation.sizes import plain
from ...notation.words import axis
from ...results.questions import OPEN, ORDER, SETTLED, Look, Question, Remaining
from ..comparison.pairs import PairComparisons, compare_pairs, places
from ..comparison.standings import standings
from ..described import every_series, whose, works_of
from ..growth.fit import Growth
from ..growth.naming import named_growth
from ..readings.series import Series
from ..work.order import Work
from ..work.witnesses import by_both, price_of
from .further_sizes import sizes_between
from .questions import factor_known, points_of, questions

PROCESSES_LEAST = 3  # before growth is named
AGAIN = 1.5  # growth that is not settled is named again when there are so many times the processes


@dataclass(slots=True)
class StoppingRule:
    """Looks at a logbook again and again, and keeps what does not change in between; `last` is what was seen last."""

    last: Look = field(default_factory=Look)
    works: dict[Who | None, Work] = field(default_factory=dict)
    counted: int = 0
    growths: dict[Key, tuple[Growth, int, int]] = field(default_factory=dict)

    def __call__(self, logbook: Logbook, rest: Remaining) -> Look:
        """What the logbook says now.

        Args:
            logbook: as far as it is written.
            rest: what is left of the run.
        """
        counted = _trials_of(logbook, WORK)
        is_new = counted != self.counted
        every, _ = every_series(logbook, () if is_new else RANKED_TIMES)
        series = [each for each in every if each.metric in RANKED_TIMES and not each.is_false]
        failed = {(failure.contender, failure.family) for failure in logbook.failures}
        going = [each for each in series if (each.contender, each.family) not in failed] or series
        processes = min((len(np.unique(each.processes[each.heats > 0])) for each in going), default=0)
        if is_new:
            self.counted, self.works = counted, works_of(every)
            self.growths.clear()
        named: dict[Series, Growth] = {}
        # Of two sizes, orders are named on the whole map.
        if logbook.study.axis == "size" and not logbook.slices and processes >= PROCESSES_LEAST:
            records = {record.name: record for record in logbook.contenders}
            for each in series:
                growth = self._growth(each, records[each.contender], processes)
                if growth is not None:
                    named[each] = growth
        comparisons = compare_pairs(series, {})
        ranked = {record.name for record in logbook.contenders if not record.yardstick}
        ranks = [each for each in series if each.contender in ranked]
        between = compare_pairs(ranks, {}) if len(ranks) < len(series) else comparisons
        asked = questions(named, between, rest, axis(logbook.study.axis))
        for own in _of_revisions(logbook, comparisons):
            asked += [factor_known(each, own, rest) for each in questions({}, own, rest, axis(logbook.study.axis))]
        asked += [
            _by_work(each, self.works) for each in series if named and each not in named and whose(each) in self.works
        ]
        opened = [each for each in asked if each.state == OPEN]
        larger = {
            (each.contenders[0], each.place[0]): plain(round(each.size))
            for each in opened
            if each.kind == ORDER and each.size is not None
        }
        leading = {where: standings(where, group, between[where]) for where, group in places(ranks).items()}
        # While it goes on for one question, others that noise leaves open may gain by it too.
        points = points_of([each for each in asked if each.state != SETTLED and (each.by_noise or each.state == OPEN)])
        doubted = {
            (each.contenders[0], *each.place[:2]) for each in asked if each.kind == ORDER and len(each.orders) > 1
        }
        counts = {where[:2] for where in doubted if where in self.works and len(self.works[where].plausible) > 1}
        self.last = Look(
            early=processes < PROCESSES_LEAST,
            asked=asked,
            points=frozenset(points),
            between=sizes_between(opened, series, comparisons),
            larger=larger,
            counts=frozenset(counts),
            standings=leading,
        )
        return self.last

    def _growth(self, series: Series, record: ContenderRecord, processes: int) -> Growth | None:
        """How a series grows; named again only where that may have changed."""
        key = series.key
        known = self.growths.get(key)
        if known is not None:
            growth, then, sizes = known
            if sizes == len(series.sizes) and (len(growth.plausible) < 2 or processes < AGAIN * then):
                return growth
        work = self.works.get(whose(series))
        if work is not None and len(work.plausible) == 1 and _is_priced(work, series):
            return None  # work alone names its order: there is nothing to ask
        try:
            growth, _ = by_both(named_growth(series, (), record.startup or 0.0), work)
        except AnalysisError:
            return None
        self.growths[key] = growth, processes, len(series.sizes)
        return growth


def _trials_of(logbook: Logbook, metric: str) -> int:
    """How many trials of a metric there are."""
    of_it = [code for code, key in enumerate(logbook.trials.keys) if key[3] == metric]
    return int(np.isin(logbook.trials.series, of_it).sum())


def _of_revisions(logbook: Logbook, comparisons: PairComparisons) -> Iterator[PairComparisons]:
    """Each contender beside itself at a revision: whether it changed is asked whoever leads."""
    for record in logbook.contenders:
        for place, pairs in comparisons.items() if record.beside else ():
            for names in ((record.beside, record.name), (record.name, record.beside)):
                if names in pairs:
                    yield {place: {names: pairs[names]}}


def _by_work(series: Series, works: Mapping[Who | None, Work]) -> Question:
    """The question of an order that work has answered."""
    place = series.place
    ends = float(series.sizes[0]), float(series.sizes[-1])
    orders = works[whose(series)].order
    return Question(ORDER, place, (series.contender,), *ends, SETTLED, orders=(orders,))


def _is_priced(work: Work, series: Series) -> bool:
    """Whether time follows work."""
    typical = series.typical
    return bool((typical > 0).all()) and price_of(work, series.sizes, typical).says == "work"
