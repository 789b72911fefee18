"""Findings: everything that is concluded of a logbook of one size or two, gathered from each analysis."""

from __future__ import annotations

import logging
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, TypeVar

import msgspec
import numpy as np

from ..errors import AnalysisError
from ..logbook.memory import Slice
from ..results.audit.audit import audited
from ..results.findings import ClaimFinding, Costs, FailureFinding, Findings, NoteFinding, RunFinding
from ..results.operations import Growing, MixFinding, Shares
from ..results.versions import VersionStep
from ..study.parts import GROW
from .best_values import best_values_of
from .claims import doubted, judge_claims
from .comparison.pairs import compare
from .comparison.repeated_inputs import bias_of, moved
from .comparison.repeated_inputs import findings_of as repeated_inputs_of
from .comparison.startup import startups
from .comparison.warmup import warm_ups
from .costs import CURVE_POINTS, costs_of, failure_of, samples_of
from .described import few_processes, machine_of, occupation, run_of, told_in, tools_of
from .maps.analyse import Mapped
from .revisions import changes_of, moved_between
from .work.lines import lines
from .work.native import diagnosis, native_work
from .workloads.operations import growing_of, mixes_of, shares_of
from .workloads.versions import versions_of

if TYPE_CHECKING:
    from .analysis import Analysis

log = logging.getLogger(__name__)


def findings_of(analysis: Analysis, sampled: float | None = None, contenders: Sequence[str] = ()) -> Findings:
    """Return everything that is concluded of a logbook.

    Args:
        analysis: of the logbook.
        sampled: the size whose single trials are kept; else the largest that all contenders of a family reached.
        contenders: compared in full.

    Raises:
        AnalysisError: if the logbook holds neither a trial nor a failure.
    """
    book, series, about = analysis.logbook, analysis.series, analysis.about
    if not len(book.trials) and not book.failures:
        raise AnalysisError(f"{book.path} holds no trial: nothing was measured")
    run, mixes = run_of(book, series, analysis.noise), book.study.mixes
    notes = [*told_in(book), *occupation(book), *few_processes(book, series)]
    failures = [failure_of(failure, series) for failure in book.failures]
    costs = [
        costs_of(
            each,
            None if book.slices else analysis.growths.get(each),
            about.reference,
            analysis.comparisons(contenders),
            analysis.counts.get(each.who),
            analysis.walls.get(each.key),
        )
        for each in series
    ]
    growth = analysis.map.growth if book.slices else [found.finding for found in analysis.named.values()]
    parts: dict[str, Any] = {
        "growth": growth,
        "failures": failures,
        "costs": costs,
        "versions": [*versions_of(about.versions, series, analysis.comparisons(contenders), growth)],
        "mixes": [*mixes_of(mixes, series)],
        "shares": [*shares_of(mixes, series, about.yardsticks)],
        "growing": [*growing_of(analysis.every, growth)],
        "notes": notes,
    }
    if book.slices:
        parts |= _of_two_sizes(parts, book.slices, analysis.map)
    else:
        parts |= _of_one_size(analysis, parts, run, sampled, contenders)
    kept = audited(
        Findings(study=about, run=run, tools=tools_of(book), machine=machine_of(book), warnings=book.warnings, **parts)
    )
    for breach in kept.withheld:
        log.info("withheld: %s", breach)
    return kept


def _of_one_size(
    analysis: Analysis, parts: dict[str, Any], run: RunFinding, sampled: float | None, contenders: Sequence[str]
) -> dict[str, Any]:
    """Return the parts of findings that studies of one size have."""
    book, series, growths, about = analysis.logbook, analysis.series, analysis.growths, analysis.about
    comparisons = analysis.comparisons(contenders)
    lost = {(failure.contender, failure.family) for failure in parts["failures"]}
    compared = compare(series, growths, comparisons, about.yardsticks, lost)
    known = bias_of(analysis.every)
    for crossover in compared.crossovers:
        crossover.repeated = moved(crossover, series, known)
    records = {record.name: record for record in book.contenders}
    native = native_work(book)
    claims: list[ClaimFinding] = []
    for each, found in analysis.named.items():
        claims += doubted(judge_claims(records[each.contender], each, found), found.finding, run)
    return {
        "crossovers": compared.crossovers,
        "standings": compared.standings,
        "pairs": compared.pairs,
        "safe_choice": compared.safe,
        "cutoffs": compared.cutoffs,
        "breakeven": compared.breakeven,
        "claims": claims,
        "changes": changes_of(book, comparisons, parts["growth"]),
        "best_values": [*best_values_of(book, series, comparisons)],
        "moved": moved_between(book, comparisons),
        "samples": samples_of(series, sampled),
        "compiled_calls": native,
        "startups": startups(book, series),
        "lines": lines(book),
        "repeated_inputs": repeated_inputs_of(known),
        "warmups": warm_ups(book, [each for each in series if not each.is_false]),
        "notes": [*parts["notes"], *diagnosis(native, parts["growth"])],
    }


def _of_two_sizes(parts: dict[str, Any], slices: dict[str, Slice], found: Mapped) -> dict[str, Any]:
    """Return the parts of findings of a map: rows of slices are rows of their families at a second size."""
    return {
        **{name: [_whole(row, slices) for row in parts[name]] for name in ("failures", "mixes", "shares", "notes")},
        **{name: [_grown(_whole(row, slices), found) for row in parts[name]] for name in ("versions", "growing")},
        "costs": [_costs(row, slices, found) for row in parts["costs"]],
        "claims": found.claims,
        "boundaries": found.boundaries,
        "leads": found.leads,
        "maps": found.maps,
    }


Row = TypeVar("Row", FailureFinding, NoteFinding, Costs, VersionStep, MixFinding, Shares, Growing)
OfOrder = TypeVar("OfOrder", VersionStep, Growing)


def _whole(row: Row, slices: dict[str, Slice]) -> Row:
    """A row of a slice as one of its family at a second size."""
    part = slices.get(row.family or "")
    return row if part is None else msgspec.structs.replace(row, family=part.family, second=part.second)


def _grown(row: OfOrder, found: Mapped) -> OfOrder:
    """A row with the law of the whole map, by which its cost grows."""
    stage, metric = (row.stage, row.metric) if isinstance(row, VersionStep) else (GROW, "time")
    key = row.contender, row.family, stage, metric
    order = next((each.order for each in found.growth if each.key == key), None)
    return msgspec.structs.replace(row, order=order)


def _costs(own: Costs, slices: dict[str, Slice], found: Mapped) -> Costs:
    """The costs of a slice, with the curve of the map's law through it."""
    made = _whole(own, slices)
    law = found.laws.get(made.key)
    if law is not None and law.terms and made.second is not None:
        first = np.geomspace(made.points[0].size, made.points[-1].size, CURVE_POINTS)
        logs = law.log_cost(first, np.full(len(first), float(made.second)))
        made.fitted = [[float(n), float(cost)] for n, cost in zip(first, np.exp(logs), strict=True)]
    return made
