"""Two contenders of a map in depth: each boundary between them, and the ratio of their costs at each measured place."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING

from ...errors import LogarithmError
from ...notation.sizes import plain
from ...results.base import Interval
from ...results.tasks.depth import MapPair, PairsInDepth, PlaceRatio

if TYPE_CHECKING:
    from ..analysis import Analysis


def map_pairs(analysis: Analysis, contenders: Sequence[str] = (), families: Sequence[str] = ()) -> PairsInDepth:
    """Two contenders in depth; see `statistics.depth.pairs_in_depth`.

    Raises:
        LogarithmError: where no two have enough trials at the same places.
    """
    about, found, path = analysis.about, analysis.map, analysis.logbook.path
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
            f"{path} has too few trials to compare two contenders: measure longer, with --resume or a larger --budget"
        )
    return PairsInDepth(str(path), about.names[0], [], made, about.names)
