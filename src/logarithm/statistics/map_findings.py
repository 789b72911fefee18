"""Findings of a logbook of two sizes: what holds of the whole map. A slice is analysed as a logbook of one size."""

from __future__ import annotations

from typing import TypeVar

import msgspec
import numpy as np

from ..logbook.memory import Logbook, Slice
from ..notation.metrics import BESIDE, WORK
from ..results.audit.audit import audited
from ..results.findings import Costs, FailureFinding, Findings, NoteFinding
from ..results.operations import Growing, MixFinding, Shares
from ..results.versions import VersionStep
from ..study.parts import GROW
from .comparison.pairs import compare_pairs
from .costs import CURVE_POINTS, costs_of, failure_of
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
)
from .maps.analyse import Mapped, mapped
from .workloads.operations import growing_of, mixes_of, shares_of
from .workloads.versions import versions_of

F = TypeVar("F", bound=Findings)


def findings_of_map(logbook: Logbook, kind: type[F]) -> F:
    """Everything that is concluded of a map.

    Args:
        logbook: of two sizes.
        kind: the class of findings to make.
    """
    every, noise = every_series(logbook)
    mixes = logbook.study.mixes
    series = [each for each in every if each.metric not in BESIDE]
    about = asked_of(logbook)
    found = mapped(logbook, every, about.yardsticks)
    comparisons = compare_pairs(series, {}, about.baseline or "")
    counts, walls = {each.who: each for each in every if each.metric == WORK}, walls_of(logbook, noise)
    concluded = kind(
        study=about,
        run=run_of(logbook, series, noise),
        tools=tools_of(logbook),
        machine=machine_of(logbook),
        growth=found.growth,
        crossovers=[],
        standings=[],
        pairs=[],
        safe=[],
        cutoffs=[],
        breakeven=[],
        claims=found.claims,
        failures=[_whole(failure_of(failure, series), logbook.slices) for failure in logbook.failures],
        costs=[
            _costs(
                costs_of(each, None, about.reference, comparisons, counts.get(each.who), walls.get(each.key)),
                logbook.slices,
                found,
            )
            for each in series
        ],
        versions=[
            _grown(_whole(each, logbook.slices), found) for each in versions_of(about.versions, series, comparisons, [])
        ],
        mixes=[_whole(each, logbook.slices) for each in mixes_of(mixes, series)],
        shares=[_whole(each, logbook.slices) for each in shares_of(mixes, series, about.yardsticks)],
        growing=[_grown(_whole(each, logbook.slices), found) for each in growing_of(every, [])],
        boundaries=found.boundaries,
        leads=found.leads,
        maps=found.maps,
        samples=[],
        native=[],
        startups=[],
        notes=[
            *(_whole(note, logbook.slices) for note in told_in(logbook)),
            *occupation(logbook),
            *few_processes(logbook, series),
        ],
        warnings=logbook.warnings,
    )
    return audited(concluded)


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
