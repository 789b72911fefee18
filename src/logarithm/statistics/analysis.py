"""The analysis of a logbook: everything that is computed from it, once and on demand."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from contextlib import suppress
from functools import cached_property

from ..errors import AnalysisError, LogbookError
from ..logbook.exchange.calls import Calls, of_record
from ..logbook.memory import Logbook
from ..notation.durations import seconds
from ..notation.metrics import BESIDE, WORK
from ..notation.places import Key, Who
from ..results.findings import About, Findings
from ..results.tasks.depth import GrowthsInDepth, Lines, PairsInDepth
from ..results.tasks.forecast import Forecast
from ..results.tasks.verdicts import Verdicts, verdicts_of
from ..results.workload import Weighing, WorkloadTotal
from .claims import claim_for, is_order
from .comparison.pairs import PairComparisons, compare_pairs
from .depth import growth_in_depth, lines_in_depth, pairs_in_depth
from .described import asked_of, every_series, walls_of, whose, works_of
from .findings import findings_of
from .forecasts import forecast
from .growth.fit import Growth
from .maps.analyse import Mapped, mapped
from .naming import Named, name_growth
from .readings.series import Series
from .work.order import Work, work_of
from .workloads.workload import weighed

NOWHERE: Mapping[str, float] = {}


class Analysis:
    """The results of analysing a logbook, or a part of one. Each is computed once, when it is first used.

    Args:
        logbook: what was observed.
    """

    def __init__(self, logbook: Logbook) -> None:
        self.logbook = logbook
        # All series at full processor speed, those that stand beside time among them, and the noise of the machine.
        self.every, self.noise = every_series(logbook)
        self._comparisons: dict[tuple[str, ...], PairComparisons] = {}

    @cached_property
    def series(self) -> list[Series]:
        """The series that growth and comparisons are about."""
        return [each for each in self.every if each.metric not in BESIDE]

    @cached_property
    def about(self) -> About:
        """What was asked."""
        return asked_of(self.logbook)

    @cached_property
    def works(self) -> dict[Who | None, Work]:
        """The counted work of each contender on each family and stage."""
        return works_of(self.every)

    @cached_property
    def counts(self) -> dict[Who, Series]:
        """The series of counted work."""
        return {each.who: each for each in self.every if each.metric == WORK}

    @cached_property
    def walls(self) -> dict[Key, Series]:
        """The times that passed, if others had the processor for some of them."""
        return walls_of(self.logbook, self.noise)

    @cached_property
    def named(self) -> dict[Series, Named]:
        """Each series of a study that varies the size, with its growth."""
        records = {record.name: record for record in self.logbook.contenders}
        made: dict[Series, Named] = {}
        for each in self.series if self.logbook.study.axis == "size" else ():
            record = records[each.contender]
            claim = claim_for(record, each)
            # As a metric of its own, work is its own second witness.
            work = work_of(each) if each.metric == "work" else self.works.get(whose(each))
            also = [claim] if claim and is_order(claim) else []
            made[each] = name_growth(each, also, record.startup or 0.0, work)
        return made

    @cached_property
    def growths(self) -> dict[Series, Growth]:
        """The growth of each series that has sizes enough."""
        return {each: found.growth for each, found in self.named.items() if found.growth is not None}

    @cached_property
    def map(self) -> Mapped:
        """What is concluded of two sizes."""
        return mapped(self.logbook, self.every, self.about.yardsticks)

    def comparisons(self, contenders: Sequence[str] = ()) -> PairComparisons:
        """Return the comparisons of all pairs, those of some contenders in full.

        Args:
            contenders: compared whatever they are; of a crowd only those that can matter are.
        """
        key = tuple(contenders)
        if key not in self._comparisons:
            growths = {} if self.logbook.slices else self.growths
            self._comparisons[key] = compare_pairs(self.series, growths, self.about.baseline or "", key)
        return self._comparisons[key]

    def findings(self, sampled: float | None = None, contenders: Sequence[str] = ()) -> Findings:
        """Return everything that is concluded.

        Args:
            sampled: the size whose single trials are kept; else the largest that all contenders of a family reached.
            contenders: compared in full.

        Raises:
            AnalysisError: if the logbook holds neither a trial nor a failure.
        """
        found = findings_of(self, sampled, contenders)
        found.analysis = self
        calls = self.logbook.workload
        if calls is not None:
            with suppress(AnalysisError):  # too few sizes, or none on its families: the rest stands all the same
                found.workload, found.weighing = weighed(self, of_record(calls))
        return found

    def pairs_in_depth(self, contenders: Sequence[str] = (), families: Sequence[str] = ()) -> PairsInDepth:
        """Return the comparison of two contenders size by size; see `statistics.depth.pairs_in_depth`."""
        self._check(contenders, families)
        return pairs_in_depth(self, contenders, families)

    def growth_in_depth(self, contenders: Sequence[str] = (), families: Sequence[str] = ()) -> GrowthsInDepth:
        """Return every order that was tried; see `statistics.depth.growth_in_depth`."""
        self._check(contenders, families)
        return growth_in_depth(self, contenders, families)

    def lines_in_depth(self, contenders: Sequence[str] = (), families: Sequence[str] = ()) -> Lines:
        """Return the lines that growth comes from; see `statistics.depth.lines_in_depth`."""
        self._check(contenders, families)
        return lines_in_depth(self, contenders, families)

    def forecast(
        self,
        at: Mapping[str, float] = NOWHERE,
        within: str | float | None = None,
        contenders: Sequence[str] = (),
        families: Sequence[str] = (),
    ) -> Forecast:
        """Return costs at a size that was not measured; see `statistics.forecasts.forecast`.

        Args:
            at: a place, its sizes by name; the first needs no name.
            within: a span of time, such as "1s", or seconds.
            contenders, families: all if none is named.
        """
        self._check(contenders, families)
        size, second = self.logbook.place(at)
        if size is not None and size <= 0:
            raise LogbookError(f"{size:g} is not a size: it must be more than 0")
        return forecast(self, size, None if within is None else seconds(within), contenders, families, second)

    def weighed(self, calls: Calls) -> tuple[list[WorkloadTotal], Weighing]:
        """Return the cost of some calls; see `statistics.workloads.workload.weighed`."""
        return weighed(self, calls)

    def verify(self, findings: Findings, strict: bool = False) -> Verdicts:
        """Return the claims of findings with their verdicts; see `results.tasks.verdicts.verdicts_of`."""
        return verdicts_of(findings, strict)

    def _check(self, contenders: Sequence[str], families: Sequence[str]) -> None:
        self.logbook.check_names(contenders, families)


Logbook.analyst = Analysis
