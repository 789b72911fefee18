"""What changed between revisions that were measured side by side: the ratio of now to then, in the same heats."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from ..logbook.memory import Logbook
from ..notation.places import Place
from ..notation.sizes import plain
from ..results.base import Interval
from ..results.findings import GrowthFinding
from ..results.revisions import FASTER, NOW, SAME, SLOWER, UNKNOWN, FactorAt, Moved, RevisionChange
from .comparison.pair import PairComparison, pair_of
from .comparison.pairs import PairComparisons


def changes_of(logbook: Logbook, comparisons: PairComparisons, growth: Sequence[GrowthFinding]) -> list[RevisionChange]:
    """What changed from each revision to today's code, or to the next revision, contender by contender.

    Args:
        logbook: in which contenders at revisions stand beside today's.
        comparisons: of all pairs.
        growth: how each cost grows.
    """
    orders = {each.key: each.order for each in growth}
    labels = {record.name: record.revision for record in logbook.contenders}
    made = []
    for record in logbook.contenders:
        if not record.beside:
            continue
        later = labels.get(record.beside, NOW) or NOW
        for place, pairs in comparisons.items():
            compared = pair_of(pairs, record.beside, record.name)
            if compared is None:
                continue
            family, stage, metric = place
            before, now = ((name, family, stage, metric) for name in (record.name, record.beside))
            made.append(
                RevisionChange(
                    contender=record.of,
                    family=family,
                    stage=stage,
                    metric=metric,
                    before=record.revision,
                    after=later,
                    verdict=_verdict(compared, record.beside),
                    sizes=[*_factors(compared, record.beside)],
                    turns=[Interval(each.size, each.low, each.high) for each in compared.crossings],
                    order_before=orders.get(before),
                    order_now=orders.get(now),
                )
            )
    return made


def _verdict(compared: PairComparison, now: str) -> str:
    """What to say of a pair, from the zones that tell; where they differ, the last one that does."""
    ours = -1 if compared.one == now else 1
    signs = [zone.sign * ours for zone in compared.zones if zone.sign]
    if signs:
        return FASTER if signs[-1] > 0 else SLOWER
    return SAME if compared.zones and all(zone.is_tie for zone in compared.zones) else UNKNOWN


def _factors(compared: PairComparison, now: str) -> Iterator[FactorAt]:
    """The cost now over the cost then, at the sizes that tell, as leads are judged."""
    turned = compared.one != now
    for size, ratio, low, high in compared.curve():
        three = (1 / ratio, 1 / high, 1 / low) if turned else (ratio, low, high)
        yield FactorAt(plain(size), *three, is_clear=bool(compared.sign(size)))


def moved_between(logbook: Logbook, comparisons: PairComparisons) -> list[Moved]:
    """The crossovers of two contenders as they were at a revision, and as they are now."""
    made: list[Moved] = []
    revisions: dict[str, dict[str, str]] = {}
    for record in logbook.contenders:
        if record.of:
            revisions.setdefault(record.revision, {})[record.of] = record.name
    for names in revisions.values():
        for place, pairs in comparisons.items():
            for (one, other), compared in pairs.items():
                if one in names.values() or other in names.values():
                    continue
                earlier = names.get(one, one), names.get(other, other)
                if earlier == (one, other):
                    continue
                then = pair_of(pairs, *earlier)
                if then is not None:
                    made += _moved(place, compared, then, {earlier[0]: one, earlier[1]: other})
    return made


def _moved(place: Place, compared: PairComparison, then: PairComparison, names: dict[str, str]) -> Iterator[Moved]:
    family, stage, metric = place
    for now in compared.crossings:
        same = [each for each in then.crossings if names.get(each.before) == now.before]
        if not same:
            continue
        was = min(same, key=lambda each: abs(np.log(each.size / now.size)))
        is_real = was.high < now.low or now.high < was.low
        ends = Interval(was.size, was.low, was.high), Interval(now.size, now.low, now.high)
        yield Moved(family, stage, metric, now.before, now.after, *ends, bool(is_real))
