"""Exact numbers compared: counts that repeat have no error, so who has fewer leads, and a border is a whole number."""

from __future__ import annotations

import math
from itertools import groupby, pairwise

import numpy as np

from ..readings.arrays import Floats
from .crossover import Axis, Crossing, Law


def borders(names: tuple[str, str], sizes: Floats, ratio: Floats, law: Law | None) -> list[Crossing]:
    """Where the lead changes.

    Args:
        names: whose counts are above and below in the ratios.
        sizes: whole numbers, rising, shape (m,).
        ratio: the logarithm of the ratio of the counts, shape (m,); 0 where they are equal.
        law: the same from formulas that give every count; None where there are none.

    Returns:
        crossings. Where there is a law, at the first whole number at which the other one has fewer, else somewhere
        between two of the sizes, on a straight line of the ratio over their positions.
    """
    clear, axis = np.flatnonzero(ratio), Axis.of(sizes)
    found = []
    for left, right in pairwise(clear):
        if ratio[left] * ratio[right] > 0:
            continue
        low, high = float(sizes[left]), float(sizes[right])
        before, after = names if ratio[left] < 0 else names[::-1]
        at = None if law is None else _first(law, int(low), int(high), float(np.sign(ratio[right])))
        if at is not None:
            found.append(Crossing(before, after, at, at, at))
            continue
        share = abs(ratio[left]) / (abs(ratio[left]) + abs(ratio[right]))
        place = axis.position(low) + float(share) * (axis.position(high) - axis.position(low))
        found.append(Crossing(before, after, axis.size(place), low, high))
    return found


def _first(law: Law, low: int, high: int, sign: float) -> float | None:
    """The first whole number from which on the sign is the given one, found by halving; None where there is none."""
    if np.sign(law(np.array([float(high)]))[0]) != sign or np.sign(law(np.array([float(low)]))[0]) == sign:
        return None
    while high - low > 1:
        middle = (low + high) // 2
        if np.sign(law(np.array([float(middle)]))[0]) == sign:
            high = middle
        else:
            low = middle
    return float(high)


def ranges(sizes: Floats, ratio: Floats, crossings: list[Crossing]) -> list[tuple[float, float, int]]:
    """Ranges of sizes over which one leads (-1, 1) or both are equal (0): start, end, sign; they cover all sizes."""
    made: list[tuple[float, float, int]] = []
    signs = np.sign(ratio).astype(int)
    for sign, group in groupby(range(len(sizes)), key=lambda at: int(signs[at])):
        rows = list(group)
        start, end = float(sizes[rows[0]]), float(sizes[rows[-1]])
        if made and made[-1][2] * sign < 0:
            at = next((each.size for each in crossings if made[-1][1] < each.size <= start), start)
            made[-1] = made[-1][0], math.nextafter(at, -math.inf), made[-1][2]
            start = at
        made.append((start, end, sign))
    return made
