"""Which further sizes would narrow down the crossovers of a logbook that is still being written."""

from __future__ import annotations

import math

from ..logbook.reading import Logbook
from .analyse import series_of
from .comparing.crossover import Crossing
from .comparing.pairs import duels_of
from .findings import Number, plain

NARROW = 0.05  # an interval this narrow is good enough
AROUND = (1.0, 0.9, 1.11)  # of the crossing
NEAR = 0.03  # a size this near to one that was measured tells nothing new


def sizes_wanted(logbook: Logbook) -> dict[tuple[str, str], list[Number]]:
    """Further sizes for (contender, family), on either side of each crossover that is not yet known well.

    A crossover is known well when its interval is narrower than 5 % or holds a single whole number. On an axis
    other than size, only whole values between whole values are added.
    """
    series, _ = series_of(logbook)
    whole = all(float(size).is_integer() for each in series for size in each.sizes)
    wanted: dict[tuple[str, str], list[Number]] = {}
    for (family, _, _), duels in duels_of(series, {}).items():
        for duel in duels.values():
            for crossing in duel.crossings:
                if is_narrow(crossing, whole):
                    continue
                known = [float(size) for size in duel.sizes]
                for factor in AROUND:
                    size = round(crossing.size * factor) if whole else crossing.size * factor
                    if known[0] < size < known[-1] and all(abs(size / other - 1) > NEAR for other in known):
                        known.append(size)
                        for name in (duel.one, duel.other):
                            wanted.setdefault((name, family), []).append(plain(size))
    return wanted


def is_narrow(crossing: Crossing, whole: bool) -> bool:
    """Whether nothing is to be gained by knowing a crossing more exactly."""
    single = whole and math.floor(crossing.high) - math.ceil(crossing.low) < 1
    return single or crossing.high < (1 + NARROW) * crossing.low
