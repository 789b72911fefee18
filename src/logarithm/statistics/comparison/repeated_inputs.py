"""What repeated inputs would have said: how much cheaper they are, and where that would have put the crossovers.

A processor learns a short input that is repeated, and then each call on it costs less than on an input that comes
once. Beside the trials on fresh inputs there are some on a repeated one; the two of a heat are compared.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...notation.places import Who
from ...notation.sizes import plain
from ...results.pairs import CrossoverFinding
from ...results.side_findings import RepeatedFinding
from ..readings.arrays import Floats, median, median_of
from ..readings.series import Series
from .crossover import Axis

BIAS_TOLD = 1.15  # from this ratio on it is worth a word
TRIALS_LEAST = 3
AGREEING, MAJORITY = 3, 0.5  # so many processes, and more than this share of them
MOVED = 0.1  # a crossover that moves by less than this share is where it was


@dataclass(frozen=True, slots=True)
class Bias:
    """The logarithm of fresh over repeated cost of one contender, at rising sizes, both of shape (k,).

    A size is `sure` where three processes, or the sizes on either side, agree that it is worth a word.
    """

    sizes: Floats
    ratios: Floats
    sure: NDArray[np.bool_]

    def at(self, sizes: Floats) -> Floats:
        """The same at other sizes: between those measured by a straight line over log size, nothing beyond them."""
        axis = Axis.of(sizes)
        own = np.array([axis.position(float(size)) for size in self.sizes])
        return np.asarray(np.interp(axis.positions, own, self.ratios, right=0.0), dtype=np.float64)


def bias_of(every: list[Series]) -> dict[Who, Bias]:
    """How much each contender gains by repeated inputs, where that was measured.

    Args:
        every: all series, those on repeated inputs included.
    """
    fresh = {each.who: each for each in every if each.metric == "time"}
    made: dict[Who, Bias] = {}
    for each in every:
        who = each.who
        if each.metric != "repeated" or who not in fresh:
            continue
        rows = _paired(each, fresh[who])
        # One size has few such trials: its neighbouring sizes have learnt about as much.
        sizes, ratios, sure = [], [], []
        for at, (size, own) in enumerate(rows):
            near = [ratio for _, some in rows[max(0, at - 1) : at + 2] for ratio, _ in some]
            if len(near) >= TRIALS_LEAST:
                sizes.append(size)
                ratios.append(median_of(near))
                agreeing = [ratio > np.log(BIAS_TOLD) for ratio in _by_process(own)]
                sure.append(sum(agreeing) >= AGREEING and np.mean(agreeing) > MAJORITY)
        if sizes:
            biased = np.array(ratios) > np.log(BIAS_TOLD)
            beside = [
                bool(biased[max(0, at - 1) : at + 2].all()) and 0 < at < len(sizes) - 1 for at in range(len(sizes))
            ]
            made[who] = Bias(np.array(sizes), np.array(ratios), np.array(sure) | np.array(beside))
    return made


def _by_process(own: list[tuple[float, int]]) -> list[float]:
    """The median of the ratios of each process."""
    processes = dict.fromkeys(process for _, process in own)
    return [median_of([ratio for ratio, each in own if each == process]) for process in processes]


def _paired(repeated: Series, fresh: Series) -> list[tuple[float, list[tuple[float, int]]]]:
    """At each size, the logarithm of fresh over repeated in each heat, and its process.

    Where a heat has no fresh trial, over the typical fresh cost.
    """
    column = {int(heat): at for at, heat in enumerate(fresh.heats)}
    row = {float(size): at for at, size in enumerate(fresh.sizes)}
    typical = median(fresh.costs)
    made = []
    for at, size in enumerate(repeated.sizes):
        if float(size) not in row:
            continue
        own = row[float(size)]
        found = []
        for heat, process, cost in zip(repeated.heats, repeated.processes, repeated.costs[at], strict=True):
            if not np.isfinite(cost):
                continue
            beside = fresh.costs[own, column[int(heat)]] if int(heat) in column else np.nan
            ratio = float(np.log((beside if np.isfinite(beside) else typical[own]) / cost))
            found.append((ratio, int(process)))
        made.append((float(size), found))
    return made


def findings_of(known: dict[Who, Bias]) -> list[RepeatedFinding]:
    """What is worth telling of it: where a contender gains most, and up to which size it gains."""
    told = []
    for (contender, family, stage), each in known.items():
        best = int(np.argmax(np.where(each.sure, each.ratios, -np.inf)))
        if each.sure[best] and np.exp(each.ratios[best]) >= BIAS_TOLD:
            learned = each.sizes[each.sure & (each.ratios >= np.log(BIAS_TOLD))]
            ratio = float(np.exp(each.ratios[best]))
            told.append(RepeatedFinding(contender, family, stage, plain(each.sizes[best]), ratio, plain(learned.max())))
    return told


def moved(crossover: CrossoverFinding, series: list[Series], known: dict[Who, Bias]) -> float | None:
    """Where a crossover would be found on repeated inputs; None where that is where it is, or cannot be told."""
    names = [(name, crossover.family, crossover.stage) for name in (crossover.before, crossover.after)]
    found = {each.who: each for each in series if each.metric == crossover.metric}
    if crossover.metric != "time" or not any(who in known for who in names) or any(who not in found for who in names):
        return None
    one, other = (found[who] for who in names)
    sizes = np.intersect1d(one.sizes, other.sizes)
    costs = [np.log(each.typical[np.isin(each.sizes, sizes)]) for each in (one, other)]
    learned = [
        known[who].at(sizes) if who in known and known[who].sure.any() else np.zeros(len(sizes)) for who in names
    ]
    # Below zero where the first one leads.
    curve = (costs[0] - learned[0]) - (costs[1] - learned[1])
    axis = Axis.of(sizes)
    places = [
        axis.size(float(np.interp(0.0, curve[at : at + 2], axis.positions[at : at + 2])))
        for at in range(len(sizes) - 1)
        if curve[at] < 0 <= curve[at + 1]
    ]
    if not places:
        return float(sizes[0]) if len(sizes) and (curve > 0).all() else None
    nearest = min(places, key=lambda place: abs(axis.apart(crossover.size, place)))
    # Within its interval a crossover is where it is.
    is_inside = crossover.low <= nearest <= crossover.high or abs(axis.apart(crossover.size, nearest)) <= MOVED
    return None if is_inside else nearest
