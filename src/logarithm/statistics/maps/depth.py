"""Two contenders of a map in depth: each boundary between them, and the ratio of their costs at each measured place."""

from __future__ import annotations

import math
from collections.abc import Sequence

from ...errors import LogarithmError
from ...logbook.memory import Logbook
from ...notation.sizes import plain
from ...results.base import Interval
from ...results.tasks.depth import MapPair, PairsInDepth, PlaceRatio
from ..described import asked_of, every_series
from .analyse import mapped


def map_pairs(logbook: Logbook, contenders: Sequence[str] = (), families: Sequence[str] = ()) -> PairsInDepth:
    """Two contenders in depth; see `statistics.depth.pairs_in_depth`.

    Raises:
        LogarithmError: where no two have enough trials at the same places.
    """
    about = asked_of(logbook)
    found = mapped(logbook, every_series(logbook)[0], about.yardsticks)
    asked = set(contenders)
    made = []
    for place, pair in found.pairs:
        names = {pair.one, pair.other}
        if (families and place[0] not in families) or (
            asked and not (names <= asked if len(asked) > 1 else names & asked)
        ):
            continue
        own = pair.at(pair.first, pair.second)
        ratios = [
            PlaceRatio(
                plain(float(n)), plain(float(k)), Interval(*(math.exp(each) for each in (mean, mean - off, mean + off)))
            )
            for n, k, mean, off in zip(pair.first, pair.second, own.mean, own.reach(), strict=True)
        ]
        edges = [each for each in found.boundaries if each.place == place and {each.before, each.after} == names]
        made.append(MapPair(*place, pair.one, pair.other, edges, ratios))
    if not made:
        raise LogarithmError(
            f"{logbook.path} has too few trials to compare two contenders: "
            "measure longer, with --resume or a larger --budget"
        )
    return PairsInDepth(str(logbook.path), about.names[0], [], made, about.names)
