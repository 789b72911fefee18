"""A search for worst cases, written into a logbook of its own, from which it can be told again."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from ...errors import AnalysisError, LogarithmError, there
from ...logbook.memory import Logbook, in_one
from ...logbook.records import (
    AnyRecord,
    ClaimRecord,
    ContenderRecord,
    FamilyRecord,
    Instance,
    Searched,
    StudyRecord,
    Trial,
)
from ...logbook.writing import LogbookWriter
from ...notation.metrics import METRICS, metric_of
from ...notation.sizes import Number
from ...results.tasks.worst import BEST, SHOWS, TYPICAL, WORST, Search
from ...run.counters.worst import SearchJob, Worst, search
from ...run.executor import Executor, Lost
from ...run.plan.settings import Settings
from ...run.record.preamble import preamble
from ...run.state import Progress
from ...statistics.analysis import Analysis
from ...study.checks import WORST_CLAIM
from ...study.parts import Contender, Family
from ...study.study import Study
from ...study.tally_names import check_metrics
from ..options import check_in

AS_MUCH = 0.9  # of the worst that was found: a usual suspect that does so much is named
SHOWN_SIZE_MOST = 64  # the largest size at which is told what was found, where one was climbed
NAMES = {TYPICAL: "typical", BEST: "best found", WORST: "worst found"}


@dataclass(frozen=True, slots=True)
class Sought:
    """What is searched for.

    Attributes:
        contenders, families: names; all where there are none.
        metric: what is to be large.
        budget: seconds that it may take at most.
        sizes: those to search at; the usual ones where it is None.
        seed: the same one gives the same result, as long as the time is enough.
        second: of two sizes, the value of the second.
    """

    contenders: tuple[str, ...]
    families: tuple[str, ...]
    metric: str
    budget: float
    sizes: tuple[int, ...] | None
    seed: int
    second: Number | None = None


def search_worst(
    study: Study,
    file: Path,
    sought: Sought,
    logbook: Path,
    executor: Executor,
    progress: Progress,
    lost: Callable[[str], None],
) -> Search:
    """Search for instances on which each contender does most, and write what is found into a logbook.

    Args:
        study, file: what is asked, and where it stands.
        sought: what is searched for.
        logbook: to write.
        executor: where it is done.
        progress: called with the share that is done, and who was searched for last.
        lost: called with a line where the search for a contender could not be done.

    Raises:
        LogarithmError: where nothing can be searched for, or a name is not there.
    """
    pairs = _pairs(study, sought)
    several = len({family.name for _, family in pairs}) > 1
    with LogbookWriter(logbook) as writer:
        writer.write(*_preamble(study, file, pairs, sought, several))
        contenders = list({contender.name: contender for contender, _ in pairs})
        seconds = sought.budget * min(executor.places, len(contenders)) / len(contenders)
        jobs = [
            SearchJob(
                name,
                tuple(f.name for c, f in pairs if c.name == name),
                sought.metric,
                seconds,
                sought.seed,
                sought.sizes,
            )
            for name in contenders
        ]
        made: list[Worst] = []
        for number, (job, found) in enumerate(executor.each(search, jobs, list[Worst]), start=1):
            progress(number / len(jobs), job.contender)
            if isinstance(found, Lost):
                lost(f"{job.contender}: {found.reason}")
                continue
            made += found
        order = {(contender.name, family.name): at for at, (contender, family) in enumerate(pairs)}
        made.sort(key=lambda each: (order[each.contender, each.family], each.stage or ""))
        for each in made:
            writer.write(*_records(each, sought, several), _case(each, sought.metric))
        return search_of(writer.memory.logbook())


def search_of(logbook: Logbook) -> Search:
    """What a search found, from its logbook alone.

    Raises:
        AnalysisError: where it is not the logbook of a search.
    """
    if not logbook.searched:
        raise AnalysisError(f"{logbook.path} is not the logbook of a search: make one with logarithm worst STUDY")
    metric = logbook.searched[0].metric
    return Search(logbook.study.name, metric, logbook.searched, logbook.instances, Analysis(logbook).findings())


def _pairs(study: Study, sought: Sought) -> list[tuple[Contender, Family]]:
    """Who is searched for on what.

    Raises:
        LogarithmError: where that is nobody, or something that is named is not there or cannot be searched for.
    """
    check_in(study, sought.contenders, sought.families)
    if not metric_of(sought.metric).searched:
        known = [each.name for each in METRICS.values() if each.searched and each.ranked]
        raise LogarithmError(f"a worst case of {sought.metric} cannot be searched for: {there(known, 20)}, and tallies")
    check_metrics(study, (sought.metric,))
    where = study.file or study.name
    if study.axis != "size":
        raise LogarithmError(f"{where} varies {study.axis}, not the size: a worst case is searched for over sizes")
    pairs = [
        (contender, family)
        for contender in study.contenders
        for family in study.slices(None if sought.second is None else [sought.second])
        if contender.program is None
        and contender.source is None
        and (not sought.contenders or contender.name in sought.contenders)
        and (not sought.families or (family.whole or family.name) in sought.families)
        and (contender.options.families is None or (family.whole or family.name) in contender.options.families)
    ]
    if not pairs:
        raise LogarithmError(
            f"{where} has no contender in Python to search: the worst case of programs cannot be counted"
        )
    return pairs


def _family(role: str, of: str, several: bool) -> str:
    """The name of the family of what was found on another."""
    return NAMES[role] + (f" on {of}" if several else "")


def _preamble(
    study: Study, file: Path, pairs: Sequence[tuple[Contender, Family]], sought: Sought, several: bool
) -> Iterator[AnyRecord]:
    """The records that open the logbook: claims on the worst case are for the family of what was found."""
    settings = Settings(budget=sought.budget, seed=sought.seed, metrics=(sought.metric,))
    taking = {contender.name for contender, _ in pairs}
    families = list({family.name: None for _, family in pairs})
    for record in preamble(study, file, settings, taking, ()):
        if isinstance(record, StudyRecord):
            record.names, record.seconds = [], []  # a search is over one size
        if isinstance(record, ContenderRecord):
            own = record.claims if study.both is None else in_one(record, study.both).claims
            record.claims = [
                ClaimRecord(
                    claim.order,
                    f"{_family(WORST if claim.where == WORST_CLAIM else TYPICAL, name, several)}, {sought.metric}",
                )
                for name in families
                for claim in own
                if claim.where in (None, WORST_CLAIM, name)
            ]
        yield record
    for role in NAMES:
        yield from (FamilyRecord(name=_family(role, name, several), role=role, of=name) for name in families)


def _records(found: Worst, sought: Sought, several: bool) -> Iterator[AnyRecord]:
    """The counts of a search as trials, and the instances behind the best and the worst."""
    for size, each in found.found.items():
        rows = [(TYPICAL, heat, count) for heat, count in enumerate(each.typical, start=1)]
        rows += [(role, 1, count) for role, count in ((BEST, each.least), (WORST, each.most)) if count is not None]
        for role, heat, count in rows:
            yield Trial(
                contender=found.contender,
                family=_family(role, found.family, several),
                stage=found.stage,
                size=size,
                metric=sought.metric,
                heat=heat,
                seed=sought.seed + heat - 1,
                value=count,
            )
        for role, number, instance in ((WORST, each.most, each.worst), (BEST, each.least, each.best)):
            yield Instance(
                contender=found.contender,
                family=found.family,
                stage=found.stage,
                sort=role,
                metric=sought.metric,
                size=size,
                count=number,
                looks=each.looks if role == WORST else "",
                instance=instance,
            )


def _case(found: Worst, metric: str) -> Searched:
    """What a search came to."""
    case = Searched(contender=found.contender, family=found.family, stage=found.stage, metric=metric, why=found.why)
    case.tries, case.refused = found.tries, sum(each.refused for each in found.found.values())
    case.fails = next((each.detail for each in found.found.values() if each.fails is not None), "")
    searched = [size for size, each in found.found.items() if each.most is not None and each.suspects]
    sizes = searched or list(found.found)
    if not sizes:
        return case
    case.size = max(size for size in sizes if size <= SHOWN_SIZE_MOST) if min(sizes) <= SHOWN_SIZE_MOST else max(sizes)
    last = found.found[case.size]
    case.most, case.typical, case.looks = last.most or 0.0, sum(last.typical) / len(last.typical), last.looks
    ranked = sorted(last.suspects.items(), key=lambda each: -each[1])
    case.suspects = [name for name, count in ranked if count >= AS_MUCH * case.most and count >= SHOWS * case.typical]
    for size, each in found.found.items():
        if each.most is not None and each.most >= SHOWS * sum(each.typical) / len(each.typical):
            case.smallest, case.shown = size, each.shown
            break
    return case
