"""Start-up told apart from the work: what a command would cost if it were kept running."""

from __future__ import annotations

from dataclasses import replace
from itertools import product

import numpy as np

from ...logbook.memory import Logbook
from ...results.side_findings import StartUp
from ..readings.series import Series
from .pair import compare_pair

LEFT = 0.02  # of the whole cost: what is left after the start is taken off is not known more finely than this


def startups(logbook: Logbook, series: list[Series]) -> list[StartUp]:
    """For each command and each contender that starts at once: from which size on the command leads.

    Args:
        logbook: whose contenders carry the seconds of their start.
        series: of all contenders.
    """
    seconds = {each.name: each.startup for each in logbook.contenders if each.startup}
    times = [each for each in series if each.metric == "time"]
    found = []
    for one, other in product(times, times):
        start = seconds.get(one.contender)
        if start is None or other.contender in seconds or (one.family, one.stage) != (other.family, other.stage):
            continue
        kept = replace(one, costs=np.maximum(one.costs - start, LEFT * one.costs))
        found.append(StartUp(one.contender, start, one.family, other.contender, _from(one, other), _from(kept, other)))
    return found


def _from(one: Series, other: Series) -> float | None:
    """The size from which on `one` leads over `other`, to the end of the sizes; None where it does not."""
    found = compare_pair(one, other)
    if found is None or not found.zones or found.zones[-1].sign >= 0:
        return None
    last = [crossing for crossing in found.crossings if crossing.after == one.contender]
    return last[-1].size if last else found.zones[0].start
