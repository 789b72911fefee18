"""What repeated inputs would have said: how much cheaper they are, and where that would have put the crossovers.

A processor learns a short input that is repeated, and then each call on it costs less than on an input that comes
once. Beside the trials on fresh inputs there are some on a repeated one; the two of a heat are compared.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...notation.places import Who
from ...notation.sizes import plain
from ...results.findings import RepeatedFinding
from ...results.pairs import CrossoverFinding
from ..arrays import Floats, median
from ..series import Series

BIAS_TOLD = 1.15  # from this ratio on it is worth a word
TRIALS_LEAST = 3
MOVED = 0.1  # a crossover that moves by less than this share is where it was


@dataclass(frozen=True, slots=True)
class Bias:
    """The logarithm of fresh over repeated cost of one contender, at rising sizes, both of shape (k,)."""

    sizes: Floats
    ratios: Floats

    def at(self, sizes: Floats) -> Floats:
        """The same at other sizes: between those measured by a straight line over log size, nothing beyond them."""
        return np.asarray(np.interp(np.log(sizes), np.log(self.sizes), self.ratios, right=0.0), dtype=np.float64)


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
        sizes, ratios = [], []
        for at in range(len(rows)):
            near = [ratio for _, some in rows[max(0, at - 1) : at + 2] for ratio in some]
            if len(near) >= TRIALS_LEAST:
                sizes.append(rows[at][0])
                ratios.append(float(np.median(near)))
        if sizes:
            made[who] = Bias(np.array(sizes), np.array(ratios))
    return made


def _paired(repeated: Series, fresh: Series) -> list[tuple[float, list[float]]]:
    """At each size, the logarithm of fresh over repeated in each heat; over the typical fresh cost where need be."""
    column = {int(heat): at for at, heat in enumerate(fresh.heats)}
    row = {float(size): at for at, size in enumerate(fresh.sizes)}
    typical = median(fresh.costs)
    made = []
    for at, size in enumerate(repeated.sizes):
        if float(size) not in row:
            continue
        own = row[float(size)]
        found = []
        for heat, cost in zip(repeated.heats, repeated.costs[at], strict=True):
            if not np.isfinite(cost):
                continue
            beside = fresh.costs[own, column[int(heat)]] if int(heat) in column else np.nan
            found.append(float(np.log((beside if np.isfinite(beside) else typical[own]) / cost)))
        made.append((float(size), found))
    return made


def findings_of(known: dict[Who, Bias]) -> list[RepeatedFinding]:
    """What is worth telling of it: where a contender gains most, and up to which size it gains."""
    told = []
    for (contender, family, stage), each in known.items():
        best = int(np.argmax(each.ratios))
        if np.exp(each.ratios[best]) >= BIAS_TOLD:
            learned = each.sizes[each.ratios >= np.log(BIAS_TOLD)]
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
    learned = [known[who].at(sizes) if who in known else np.zeros(len(sizes)) for who in names]
    # Below zero where the first one leads.
    curve = (costs[0] - learned[0]) - (costs[1] - learned[1])
    places = [
        float(np.exp(np.interp(0.0, curve[at : at + 2], np.log(sizes[at : at + 2]))))
        for at in range(len(sizes) - 1)
        if curve[at] < 0 <= curve[at + 1]
    ]
    if not places:
        return float(sizes[0]) if len(sizes) and (curve > 0).all() else None
    nearest = min(places, key=lambda place: abs(np.log(place / crossover.size)))
    high = np.inf if crossover.high is None else crossover.high
    # Within its interval a crossover is where it is.
    is_inside = crossover.low <= nearest <= high or abs(np.log(nearest / crossover.size)) <= MOVED
    return None if is_inside else nearest
