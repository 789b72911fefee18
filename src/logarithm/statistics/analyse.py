"""From a logbook to findings: calls each analysis on the series it is for, and gathers what they found."""

from __future__ import annotations

import logging
from collections.abc import Sequence
from typing import TypeVar

from ..errors import AnalysisError
from ..logbook.memory import Logbook
from ..notation.metrics import BESIDE, WORK
from ..results.audit.audit import audited
from ..results.findings import (
    ClaimFinding,
    Findings,
    GrowthFinding,
)
from .best_values import best_values_of
from .claims import claim_for, doubted, is_order, judge_claims
from .comparison.pairs import compare, compare_pairs
from .comparison.repeated_inputs import bias_of, findings_of, moved
from .comparison.startup import startups
from .comparison.warmup import warm_ups
from .costs import costs_of, failure_of, samples_of
from .described import (
    asked_of,
    every_series,
    few_processes,
    machine_of,
    occupation,
    run_of,
    told_in,
    tools_of,
    walls_of,
    whose,
    works_of,
)
from .growth.fit import Growth
from .map_findings import findings_of_map
from .naming import name_growth
from .readings.series import Series
from .revisions import changes_of, moved_between
from .work.lines import lines
from .work.native import diagnosis, native_work
from .work.order import work_of
from .workloads.operations import growing_of, mixes_of, shares_of
from .workloads.versions import versions_of

log = logging.getLogger(__name__)


F = TypeVar("F", bound=Findings)


def analyse(
    logbook: Logbook,
    sampled: float | None = None,
    named: Sequence[str] = (),
    *,
    kind: type[F] = Findings,  # type: ignore[assignment]
) -> F:
    """Everything that can be concluded from a logbook.

    Args:
        logbook: what was observed.
        sampled: the size whose single trials are kept; else the largest that all contenders of a family reached.
        named: contenders to compare in full whatever they are; of a crowd only those that can matter are.
        kind: the class of findings to make.

    Raises:
        AnalysisError: where it holds neither a trial nor a failure.
    """
    if not len(logbook.trials) and not logbook.failures:
        raise AnalysisError(f"{logbook.path} holds no trial: nothing was measured")
    if logbook.slices:
        return findings_of_map(logbook, kind)
    every, noise = every_series(logbook)
    series = [each for each in every if each.metric not in BESIDE]
    works = works_of(every)
    about, failures = asked_of(logbook), [failure_of(failure, series) for failure in logbook.failures]
    records = {record.name: record for record in logbook.contenders}
    run = run_of(logbook, series, noise)
    growths: dict[Series, Growth] = {}
    growth: list[GrowthFinding] = []
    claims: list[ClaimFinding] = []
    for each in series if logbook.study.axis == "size" else ():
        record = records[each.contender]
        asked = claim_for(record, each)
        also = [asked] if asked and is_order(asked) else []
        # As a metric of its own, work is its own second witness.
        work = work_of(each) if each.metric == "work" else works.get(whose(each))
        found = name_growth(each, also, record.startup or 0.0, work)
        growth.append(found.finding)
        claims += doubted(judge_claims(record, each, found), found.finding, run)
        if found.growth is not None:
            growths[each] = found.growth
    comparisons = compare_pairs(series, growths, about.baseline or "", named)
    counts = {each.who: each for each in every if each.metric == WORK}
    lost = {(failure.contender, failure.family) for failure in failures}
    compared = compare(series, growths, comparisons, about.yardsticks, lost)
    known = bias_of(every)
    for crossover in compared.crossovers:
        crossover.repeated = moved(crossover, series, known)
    native, walls = native_work(logbook), walls_of(logbook, noise)
    concluded = kind(
        study=about,
        run=run,
        tools=tools_of(logbook),
        machine=machine_of(logbook),
        growth=growth,
        crossovers=compared.crossovers,
        standings=compared.standings,
        pairs=compared.pairs,
        safe=compared.safe,
        cutoffs=compared.cutoffs,
        breakeven=compared.breakeven,
        claims=claims,
        failures=failures,
        costs=[
            costs_of(
                each,
                growths.get(each),
                about.reference,
                comparisons,
                counts.get(each.who),
                walls.get(each.key),
            )
            for each in series
        ],
        changes=changes_of(logbook, comparisons, growth),
        versions=[*versions_of(about.versions, series, comparisons, growth)],
        mixes=[*mixes_of(logbook.study.mixes, series)],
        shares=[*shares_of(logbook.study.mixes, series, about.yardsticks)],
        growing=[*growing_of(every, growth)],
        best_values=[*best_values_of(logbook, series, comparisons)],
        moved=moved_between(logbook, comparisons),
        samples=samples_of(series, sampled),
        native=native,
        startups=startups(logbook, series),
        lines=lines(logbook),
        repeated=findings_of(known),
        warmups=warm_ups(logbook, [each for each in series if not each.is_false]),
        notes=[*told_in(logbook), *occupation(logbook), *few_processes(logbook, series), *diagnosis(native, growth)],
        warnings=logbook.warnings,
    )
    kept = audited(concluded)
    for breach in kept.withheld:
        log.info("withheld: %s", breach)
    return kept
