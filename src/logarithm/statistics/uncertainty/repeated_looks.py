"""Looking again and again: why a run may stop as soon as everything is settled.

Who looks at twins after every process, and stops at the first leader, will find one sooner or later. So a lead ends the
measuring only where it is beyond doubt, by a bound that twins pass hardly ever, however often one looks; the verdict
itself, whenever the end comes, is held against the plain bound, as if there had been one look (Haybittle, British
Journal of Radiology 44, 1971, 793-797; Peto et al., British Journal of Cancer 34, 1976, 585-612). A lead that is seen
without being beyond doubt never ends it: it is measured on, and may be lost again. Intervals end it by their width
alone, whatever they hold (Chow and Robbins, Annals of Mathematical Statistics 36, 1965, 457-462).
"""

from __future__ import annotations

LEAD_ERROR, SIZES_A_CHANCE = 0.006, 3.0  # how rarely twins may get a leader; neighbours that are one chance
DOUBTLESS = 0.0006  # the same for all looks together at which a run may end


def lead_share(sizes: int, error: float = LEAD_ERROR) -> float:
    """How surely a lead must be one at each side of each size, so that over all of them twins rarely get a leader.

    The error is spent in equal parts on the chances there are: the spread between processes, which all sizes share, and
    the sizes themselves, of which neighbours tell the same (Bonferroni; Dunn, Journal of the American Statistical
    Association 56, 1961, 52-64).

    Args:
        sizes: how many are looked at.
        error: how rarely twins may get a leader.
    """
    return 1 - error / 2 / (1 + sizes / SIZES_A_CHANCE)
