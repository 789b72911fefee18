"""Standings: which contender leads over which range of sizes, who is tied with it, and of whom that is not known."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping, Sequence

import numpy as np

from ...notation.places import Place
from ...notation.sizes import plain
from ...results.pairs import LEADS, TIE, TIE_WITHIN, UNKNOWN, Ahead, Rival, Standing
from ..readings.arrays import Floats
from ..readings.series import Series
from .pair import PairComparison, beaten, pair_of

ROUNDING = 1e-6  # a crossing at 100.00001 is one at 100


def standings(
    place: Place,
    series: list[Series],
    comparisons: Mapping[tuple[str, str], PairComparison],
    failed: Collection[str] = (),
) -> list[Standing]:
    """Who leads where, by rising size.

    Args:
        place: the family, stage and metric.
        series: its ranked contenders.
        comparisons: of these, under (one, other).
        failed: contenders that came to grief, so that others may lead where these have no cost.
    """
    reach = {each.contender: each.sizes[each.tells] for each in series if each.tells.any()}
    # From where to where nobody beats whom; and whether nothing is known of a size before it.
    groups: list[tuple[float, float, list[str], bool]] = []
    is_gap = False
    for size, is_known in _shared(reach, comparisons).items():
        is_gap = is_gap or not is_known
        if not is_known:
            continue
        # Beyond the last size of a contender that nobody had beaten, nobody can be said to lead.
        if groups and any(reach[name][-1] < size and name not in failed for name in groups[-1][2]):
            break
        unbeaten = _unbeaten(size, reach, comparisons)
        if groups and groups[-1][2] == unbeaten and not is_gap:
            groups[-1] = (groups[-1][0], size, unbeaten, groups[-1][3])
        else:
            groups.append((size, size, unbeaten, is_gap))
        is_gap = False
    family, stage, metric = place
    made: list[Standing] = []
    before: list[str] = []
    is_whole = all(float(size).is_integer() for sizes in reach.values() for size in sizes)
    for start, end, names, follows_gap in groups:
        leader = min(names, key=lambda name: _mean_cost(name, start, end, series))
        border = _border(before, leader, float(made[-1].end), start, comparisons) if made and not follows_gap else None
        if border is not None:
            # The range before keeps the size that it was seen at, even where the border lies on it.
            low = made[-1].start
            start = max(math.ceil(border - ROUNDING * abs(border)), math.floor(low) + 1) if is_whole else border
            until = max(start - 1, low) if is_whole else max(math.nextafter(border, -math.inf), float(low))
            if not beaten(comparisons, float(until)) & {*before}:  # else a third one leads in between
                made[-1].end = until
        made.append(_standing(family, stage, metric, start, end, leader, names, comparisons))
        before = names
    return made


def _shared(reach: Mapping[str, Floats], comparisons: Mapping[tuple[str, str], PairComparison]) -> dict[float, bool]:
    """The sizes, and at which of them something is known of everybody whose sizes reach so far.

    A size that only some were measured at says nothing of the others, but for what holds between two of their sizes.
    """
    met = {name for pair in comparisons for name in pair} if len(reach) > 1 else {*reach}
    own = {name: sizes for name, sizes in reach.items() if name in met}
    if not own:
        return {}
    first = max(float(sizes[0]) for sizes in own.values())

    def is_known(size: float) -> bool:
        present = {name for name, sizes in own.items() if size <= sizes[-1]}
        pairs = (each for names, each in comparisons.items() if {*names} <= present)
        return bool(present) and all(each.zone(size) is not None for each in pairs)

    every = {float(size) for sizes in own.values() for size in sizes if size >= first}
    return {size: is_known(size) for size in sorted(every)}


def _standing(
    family: str,
    stage: str | None,
    metric: str,
    start: float,
    end: float,
    cheapest: str,
    names: Sequence[str],
    comparisons: Mapping[tuple[str, str], PairComparison],
) -> Standing:
    """One range of sizes: who is tied with the cheapest, and of whom it is not known."""
    tied, rivals, shares = list[str](), list[Rival](), list[float]()
    for name in names:
        if name == cheapest:
            continue
        pair = pair_of(comparisons, name, cheapest)
        share = pair.within(start, end) if pair is not None else math.inf
        if share <= TIE_WITHIN:
            tied.append(name)
            shares.append(share)
            continue
        low, high = pair.spans(start, end) if pair is not None else (0.0, math.inf)
        if pair is not None and pair.one == cheapest:
            low, high = 1 / high, 1 / low if low else math.inf
        rivals.append(Rival(name, low, None if math.isinf(high) else high))
    verdict = UNKNOWN if rivals else TIE if tied else LEADS
    leader = cheapest if verdict == LEADS else None
    over = _over(leader, start, end, comparisons) if leader else []
    ahead = over[0].factor if over and over[0].factor > 1 else None
    within = max(shares, default=None)
    ends = plain(start), plain(end)
    return Standing(family, metric, stage, *ends, verdict, leader, cheapest, tied, within, rivals, ahead, over)


def _over(leader: str, start: float, end: float, comparisons: Mapping[tuple[str, str], PairComparison]) -> list[Ahead]:
    """How many times as fast as each other one a leader is, the nearest first, where its lead over that is largest."""
    at: dict[float, list[Ahead]] = {}
    for pair, each in comparisons.items():
        if leader not in pair:
            continue
        other = pair[1] if pair[0] == leader else pair[0]
        for size, ratio, low, high in each.curve():
            if start <= size <= end:
                ends = (1 / ratio, 1 / high, 1 / low) if pair[0] == leader else (ratio, low, high)
                at.setdefault(size, []).append(Ahead(other, plain(size), *ends))
    rows = [sorted(row, key=lambda ahead: ahead.factor) for row in at.values()]
    return max(rows, key=lambda row: row[0].factor, default=[])


def _unbeaten(
    size: float, reach: Mapping[str, Floats], comparisons: Mapping[tuple[str, str], PairComparison]
) -> list[str]:
    """The contenders whose sizes reach over this one, and that no other one clearly beats there."""
    present = [name for name, sizes in reach.items() if sizes[0] <= size <= sizes[-1]]
    lost = beaten({names: each for names, each in comparisons.items() if {*names} <= {*present}}, size)
    return [name for name in present if name not in lost] or present


def _mean_cost(name: str, start: float, end: float, series: list[Series]) -> float:
    """The mean logarithm of a contender's cost over a range of sizes, as if it had been measured at all of them."""
    own = next(each for each in series if each.contender == name)
    sizes = sorted({float(size) for each in series for size in each.sizes if start <= size <= end})
    return float(np.interp(sizes, own.sizes, np.log(np.maximum(own.typical, 1e-12))).mean())


def _border(
    before: Sequence[str], after: str, low: float, high: float, comparisons: Mapping[tuple[str, str], PairComparison]
) -> float | None:
    """Where a leader has overtaken all that were unbeaten, between two measured sizes; None where it has not."""
    pairs = (pair_of(comparisons, name, after) for name in before)
    found = [
        crossing.size
        for compared in pairs
        for crossing in (compared.crossings if compared else ())
        if low <= crossing.size <= high and crossing.after == after and not crossing.is_bracket
    ]
    return max(found, default=None)
