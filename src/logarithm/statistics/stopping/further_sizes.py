"""Further sizes that would narrow down crossovers that are not yet known well."""

from __future__ import annotations

from collections.abc import Iterable

from ...notation.metrics import TIMED
from ...notation.sizes import Number, plain
from ...results.questions import CROSSOVER, OPEN, Question
from ..comparison.crossover import Axis
from ..comparison.pairs import PairComparisons
from ..readings.series import Series

AROUND_CROSSING = (0.0, -0.14, 0.14)  # in the logarithm of the size, or as a share of the axis
NEAR = 0.06  # in the same: a size this near to one that was measured tells nothing new


def sizes_between(
    asked: Iterable[Question], series: list[Series], comparisons: PairComparisons
) -> dict[tuple[str, str], list[Number]]:
    """Further sizes for (contender, family), on either side of each crossover that is open.

    On an axis of whole values only whole ones are added.
    """
    whole = all(float(size).is_integer() for each in series for size in each.sizes)
    wanted: dict[tuple[str, str], list[Number]] = {}
    for each in asked:
        if each.kind != CROSSOVER or each.state != OPEN or each.size is None or each.place[2] not in TIMED:
            continue
        before, after = each.contenders
        pairs = comparisons[each.place]
        compared = pairs[before, after] if (before, after) in pairs else pairs[after, before]
        known = [float(size) for size in compared.sizes]
        axis = Axis.of(compared.sizes)
        for around in AROUND_CROSSING:
            at = axis.size(axis.position(each.size) + around * (1.0 if axis.is_log else known[-1] - known[0]))
            size = round(at) if whole else at
            if known[0] < size < known[-1] and all(abs(axis.apart(other, size)) > NEAR for other in known):
                known.append(size)
                for name in each.contenders:
                    wanted.setdefault((name, each.place[0]), []).append(plain(size))
    return wanted
