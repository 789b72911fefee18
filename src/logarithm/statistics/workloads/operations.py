"""Operations of one object: mixes priced from them, who leads over the share of one of them, growing from nothing."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterator, Mapping, Sequence
from itertools import pairwise

import numpy as np

from ...notation.metrics import DEAREST, TIMED
from ...notation.places import Place
from ...notation.sizes import plain
from ...results.base import Interval
from ...results.findings import GrowthFinding
from ...results.operations import Growing, MixFinding, ShareLead, Shares, ShareSwitch
from ...study.parts import GROW
from ..growth.exponent import SIZES_LEAST
from ..naming import name_growth
from ..readings.arrays import Floats
from ..readings.series import Series, shared_sizes
from ..uncertainty.level import level_of

Mixes = Mapping[str, Mapping[str, float]]
Ends = tuple[float, float, float]
"""A cost with both ends of its interval."""
SHARES_ALIKE = 1e-9


def mixes_of(mixes: Mixes, series: list[Series]) -> Iterator[MixFinding]:
    """Each mix of each contender, at each size that tells of all its operations, and of itself where it was timed.

    What is uncertain of one operation may be so of the others, in the same heats: ends are added up.

    Args:
        mixes: how often each operation is called, by the name of the mix.
        series: the costs of operations and mixes.
    """
    measured = _by_place(series)
    for mix, contender, family, metric, own in _priced(mixes, series):
        whole = measured.get((contender, (family, mix, metric)))
        if metric in TIMED and whole is None:
            continue
        told = shared_sizes(each.sizes[each.tells] for each in [*own.values(), *([] if whole is None else [whole])])
        prices = {name: _ends(part) for name, part in own.items()}
        for size in sorted(told):
            priced = _weighed([(mixes[mix][name], prices[name][size]) for name in own])
            took = None if whole is None else float(whole.typical[whole.sizes == size][0])
            yield MixFinding(contender, family, mix, metric, plain(size), Interval(*priced), took)


def shares_of(mixes: Mixes, series: list[Series], left_out: Collection[str] = ()) -> Iterator[Shares]:
    """Who leads over the share of the rarest operation of each mix, at the largest size that tells of all of them.

    Args:
        mixes: how often each operation is called, by the name of the mix.
        series: the costs of operations.
        left_out: contenders that are not ranked.
    """
    grouped: dict[tuple[str, str], dict[str, dict[str, Series]]] = {}
    for mix, contender, family, metric, own in _priced(mixes, series):
        if metric == "time" and contender not in left_out:
            grouped.setdefault((family, mix), {})[contender] = own
    for (family, mix), parts in grouped.items():
        told = shared_sizes(each.sizes[each.tells] for own in parts.values() for each in own.values())
        if len(parts) < 2 or not told:
            continue
        size, weights = max(told), mixes[mix]
        operation = min(reversed([*weights]), key=lambda name: weights[name])
        costs = {}
        for contender, own in parts.items():
            prices = {name: _ends(part)[size] for name, part in own.items()}
            others = _weighed([(weights[name], prices[name]) for name in own if name != operation])
            costs[contender] = others, prices[operation]
        share = weights[operation] / sum(weights.values())
        leads = _leads(costs)
        yield Shares(
            family=family,
            mix=mix,
            operation=operation,
            share=share,
            size=plain(size),
            costs={name: [Interval(*ends) for ends in own] for name, own in costs.items()},
            leads=leads,
            switches=[_switch(one, other, costs) for one, other in pairwise(leads)],
        )


def growing_of(every: Sequence[Series], growth: Sequence[GrowthFinding]) -> Iterator[Growing]:
    """What growing from nothing costs, at the largest size of each contender, with its dearest step.

    Args:
        every: series, those beside time among them.
        growth: how each cost grows.
    """
    orders = {each.key: each.order for each in growth}
    timed = _by_place(every)
    for (contender, (family, stage, metric)), whole in timed.items():
        dearest = timed.get((contender, (family, GROW, DEAREST)))
        if stage != GROW or metric != "time" or dearest is None:
            continue
        size = max(shared_sizes([whole.sizes, dearest.sizes]), default=None)
        if size is None:
            continue
        cost, step = (float(each.typical[each.sizes == size][0]) for each in (whole, dearest))
        is_told = dearest.tells.sum() >= SIZES_LEAST
        order = name_growth(dearest).finding.order if is_told else None
        yield Growing(contender, family, plain(size), cost, cost / size, step, orders.get(whole.key), order)


def _by_place(series: Sequence[Series]) -> dict[tuple[str, Place], Series]:
    return {(each.contender, each.place): each for each in series}


def _priced(mixes: Mixes, series: list[Series]) -> Iterator[tuple[str, str, str, str, dict[str, Series]]]:
    """Each mix, contender, family and metric of which all operations were observed, with these."""
    found = _by_place(series)
    where = dict.fromkeys((contender, family, metric) for contender, (family, _, metric) in found)
    for mix, weights in mixes.items():
        for contender, family, metric in where:
            own = {name: found.get((contender, (family, name, metric))) for name in weights}
            parts = {name: part for name, part in own.items() if part is not None}
            if len(parts) == len(weights):
                yield mix, contender, family, metric, parts


def _ends(series: Series) -> dict[float, Ends]:
    """The typical cost at each size, with the ends of its interval."""
    if series.is_exact:
        return {float(size): (float(cost),) * 3 for size, cost in zip(series.sizes, series.typical, strict=True)}
    logs: Floats = np.log(np.maximum(series.costs, 1e-300))
    reach = level_of(logs, series.processes, series.is_ours).reach()
    values: Floats = series.typical
    rows = zip(series.sizes, values, values * np.exp(-reach), values * np.exp(reach), strict=True)
    return {float(size): (float(value), float(low), float(high)) for size, value, low, high in rows}


def _weighed(rows: Sequence[tuple[float, Ends]]) -> Ends:
    """The mean of some costs, each with its weight."""
    many = sum(weight for weight, _ in rows)
    value, low, high = (sum(weight * ends[at] for weight, ends in rows) / many for at in range(3))
    return value, low, high


def _leads(costs: Mapping[str, tuple[Ends, Ends]]) -> list[ShareLead]:
    """Who costs least over the share of an operation; costs are straight lines over it."""

    def at(name: str, share: float) -> float:
        return costs[name][0][0] * (1 - share) + costs[name][1][0] * share

    crossings = {_crossing(costs[one], costs[other])[0] for one in costs for other in costs if one < other}
    ends = [0.0, *sorted(each for each in crossings if SHARES_ALIKE < each < 1 - SHARES_ALIKE), 1.0]
    leads: list[ShareLead] = []
    for start, end in pairwise(ends):
        best = min(costs, key=lambda name: at(name, (start + end) / 2))
        if leads and leads[-1].leader == best:
            leads[-1].end = end
        else:
            leads.append(ShareLead(start, end, best))
    return leads


def _crossing(one: tuple[Ends, Ends], other: tuple[Ends, Ends]) -> tuple[float, float]:
    """The share at which two straight costs meet, and how far it may be off; outside of 0 to 1 where they do not.

    Its error follows from those of both differences, at share 0 and at share 1, to the first order.
    """
    gaps = [mine[0] - its[0] for mine, its in zip(one, other, strict=True)]
    errors = [math.hypot(mine[2] - mine[1], its[2] - its[1]) / 2 for mine, its in zip(one, other, strict=True)]
    apart = gaps[0] - gaps[1]
    if not apart or gaps[0] * gaps[1] > 0:
        return -1.0, 0.0
    return gaps[0] / apart, math.hypot(gaps[1] * errors[0], gaps[0] * errors[1]) / apart**2


def _switch(one: ShareLead, other: ShareLead, costs: Mapping[str, tuple[Ends, Ends]]) -> ShareSwitch:
    share, reach = _crossing(costs[one.leader], costs[other.leader])
    return ShareSwitch(one.leader, other.leader, Interval(share, max(share - reach, 0.0), min(share + reach, 1.0)))
