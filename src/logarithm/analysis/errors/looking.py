"""Looking again and again: how much of the error each look may spend.

Who looks at twins after every heat, and stops at the first leader, will find one sooner or later. So the error that a
verdict may have is spent over the looks, by how much of the budget is used at each: hardly any at the first ones,
most of it at the end (Lan and DeMets, Biometrika 70, 1983, 659-663, with the function that is like the bounds of
O'Brien and Fleming, Biometrics 35, 1979, 549-556). Looks share what they see, so adding up their errors is on the
safe side. A single look at the end spends all.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from scipy.special import ndtr, ndtri

LEAD_ERROR, ALIKE = 0.006, 3.0  # twins may get a leader so rarely, over all sizes; so many neighbours are one chance
ONCE = (1.0,)


def spent(error: float, share: float) -> float:
    """How much of an error is spent when so large a share of the budget is used, 0 < share ≤ 1.

    >>> round(spent(0.05, 1.0), 9), spent(0.05, 0.5) < 0.01
    (0.05, True)
    """
    return float(2 * ndtr(ndtri(error / 2) / math.sqrt(share)))


def at_last(error: float, looks: Sequence[float] = ONCE) -> float:
    """The error that the last of some looks may have.

    Args:
        error: that of all looks together.
        looks: the share of the budget that was used at each look, rising, the last one being now.
    """
    before = spent(error, looks[-2]) if len(looks) > 1 else 0.0
    return spent(error, looks[-1]) - before


def lead_share(sizes: int, looks: Sequence[float] = ONCE) -> float:
    """How surely a lead must be one at each side of each size, so that over all of them twins rarely get a leader.

    The error is spent in equal parts on the chances there are: the luck of lives, which all sizes share, and the sizes
    themselves, of which neighbours tell the same (Bonferroni; Dunn, Journal of the American Statistical Association 56,
    1961, 52-64).

    Args:
        sizes: how many are looked at.
        looks: see `at_last`.
    """
    return 1 - at_last(LEAD_ERROR, looks) / 2 / (1 + sizes / ALIKE)
