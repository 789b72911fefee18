"""Mixes of operations, priced from what each operation costs by itself, beside what the mix took."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

import numpy as np

from ..notation.places import Place
from ..notation.sizes import plain
from ..results.base import Interval
from ..results.mixes import MixFinding
from .arrays import Floats
from .series import Series, shared_sizes
from .uncertainty.level import level_of

Mixes = Mapping[str, Mapping[str, float]]


def mixes_of(mixes: Mixes, series: list[Series]) -> Iterator[MixFinding]:
    """Each mix of each contender, at each size that tells of it and of all its operations.

    What is uncertain of one operation may be so of the others, in the same heats: ends are added up.

    Args:
        mixes: how often each operation is called, by the name of the mix.
        series: the costs of operations and mixes.
    """
    timed: dict[tuple[str, Place], Series] = {(each.contender, each.place): each for each in series}
    for (contender, (family, stage, metric)), mix in timed.items():
        weights = mixes.get(stage or "")
        if weights is None or metric != "time":
            continue
        parts = {name: timed.get((contender, (family, name, metric))) for name in weights}
        own = {name: part for name, part in parts.items() if part is not None}
        if len(own) < len(weights):
            continue
        told = shared_sizes(each.sizes[each.tells] for each in [mix, *own.values()])
        prices = {name: _ends(part) for name, part in own.items()}
        for size in sorted(told):
            rows = [(weights[name], prices[name][size]) for name in own]
            many = sum(weight for weight, _ in rows)
            value, low, high = (sum(weight * ends[at] for weight, ends in rows) / many for at in range(3))
            measured = float(mix.typical[mix.sizes == size][0])
            yield MixFinding(contender, family, stage or "", plain(size), Interval(value, low, high), measured)


def _ends(series: Series) -> dict[float, tuple[float, float, float]]:
    """The typical cost at each size, with the ends of its interval."""
    logs: Floats = np.log(np.maximum(series.costs, 1e-300))
    reach = level_of(logs, series.processes, series.is_ours).reach()
    rows = zip(series.sizes, series.typical, reach, strict=True)
    return {float(n): (float(c), float(c * np.exp(-r)), float(c * np.exp(r))) for n, c, r in rows}
