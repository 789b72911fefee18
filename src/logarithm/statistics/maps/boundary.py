"""Boundaries on a map: where the lead changes between two contenders, with a band, and in words where that can be."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...notation.laws import Names
from ...notation.numbers import crossing, number, rounded
from ...notation.places import Place
from ...results.base import Interval
from ...results.maps import Boundary, Constant
from ...results.pairs import MEASURED
from ..readings.arrays import Floats, median_of
from .grids.grid import Grid
from .pair import PairOnMap

POINTS_LEAST = 3  # of a curve
STRAIGHT, NEAR = 0.15, 0.12  # a power this near to 0 or 1 is that; and how far a curve may lie from its law
ANYWHERE = 0.15  # how far it may lie from it at any point, in the logarithm, beyond what is not known of that point
ROWS_SHOWN = 13
POWER_MOST = 2.0  # a steeper one is no law that anybody would trust
STEEP = 0.4  # of the lines across the other size, so many at least must meet a boundary along the second


@dataclass(frozen=True, slots=True)
class Point:
    """A place on a boundary: the size across, and that along which the lead changes, with its 95 % interval."""

    across: float
    at: float
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class Curve:
    """A boundary as a curve; below it `sign` is -1 where the first of the pair leads, else 1."""

    sign: int
    points: tuple[Point, ...]
    is_along_second: bool


def curves(pair: PairOnMap, grid: Grid, inside: NDArray[np.bool_]) -> list[Curve]:
    """Where the lead changes between two contenders; nothing where not both of them surely lead somewhere.

    Args:
        pair: the two compared.
        grid: of the map.
        inside: where both were measured, shape (g, h).
    """
    own = pair.at(pair.first, pair.second)
    clear = np.where(np.abs(own.mean) > own.reach(pair.share), np.sign(own.mean), 0)
    if not ((clear > 0).any() and (clear < 0).any()):
        return []
    found = pair.at(*grid.places)
    shape = len(grid.first), len(grid.second)
    mean, reach = found.mean.reshape(shape), found.reach().reshape(shape)
    along = [
        _grouped(_crossings(grid.first, grid.second, mean, reach, inside), is_along_second=True),
        _grouped(_crossings(grid.second, grid.first, mean.T, reach.T, inside.T), is_along_second=False),
    ]
    # Taken along the first size only where it stands so steeply that it is hardly a function of that.
    many = [sum(len(curve.points) for curve in each) for each in along]
    return along[0] if many[0] >= STEEP * many[1] else along[1]


def _crossings(
    across: Floats, along: Floats, mean: Floats, reach: Floats, inside: NDArray[np.bool_]
) -> Iterator[tuple[int, int, Point]]:
    """On each line across, each change of sign, as (sign below, how many such there were below, the point)."""
    logs = np.log(along) if along[0] > 0 else along
    back = np.exp if along[0] > 0 else (lambda value: value)
    for line, size in enumerate(across):
        here = np.flatnonzero(inside[line])
        if len(here) < 2:
            continue
        x, y, r = logs[here], mean[line, here], reach[line, here]
        seen = {-1: 0, 1: 0}
        for at in np.flatnonzero(np.sign(y[:-1]) * np.sign(y[1:]) < 0):
            sign = int(np.sign(y[at]))
            share = y[at] / (y[at] - y[at + 1])
            place, unsure = x[at] + (x[at + 1] - x[at]) * share, -(r[at] + (r[at + 1] - r[at]) * share)
            low = _edge([place, *x[at::-1]], [unsure, *(sign * y - r)[at::-1]])
            high = _edge([place, *x[at + 1 :]], [unsure, *(-sign * y - r)[at + 1 :]])
            yield sign, seen[sign], Point(float(size), *(float(back(each)) for each in (place, low, high)))
            seen[sign] += 1


def _edge(x: Sequence[float], sure: Sequence[float]) -> float:
    """Where, from a crossing on, it becomes sure who leads; the last place where it never does."""
    at = next((at for at, each in enumerate(sure) if each > 0), None)
    if at is None:
        return float(x[-1])
    share = sure[at - 1] / (sure[at - 1] - sure[at])
    return float(x[at - 1] + share * (x[at] - x[at - 1]))


def _grouped(crossings: Iterator[tuple[int, int, Point]], is_along_second: bool) -> list[Curve]:
    rows: dict[tuple[int, int], list[Point]] = {}
    for sign, rank, point in crossings:
        rows.setdefault((sign, rank), []).append(point)
    return [
        Curve(sign, tuple(points), is_along_second) for (sign, _), points in rows.items() if len(points) >= POINTS_LEAST
    ]


def boundary(place: Place, pair: PairOnMap, curve: Curve, names: Names, matters: bool) -> Boundary:
    """A curve as a finding, with the law that it follows where there is one."""
    across, along = names if curve.is_along_second else names[::-1]
    constant, law = _law(curve.points, names, curve.is_along_second)
    shown = [
        curve.points[round(at)] for at in np.linspace(0, len(curve.points) - 1, min(len(curve.points), ROWS_SHOWN))
    ]
    before, after = (pair.one, pair.other) if curve.sign < 0 else (pair.other, pair.one)
    family, stage, metric = place
    return Boundary(
        family=family,
        metric=metric,
        stage=stage,
        before=before,
        after=after,
        law=law,
        curve=[
            {across: rounded(p.across), along: rounded(p.at), "low": rounded(p.low), "high": rounded(p.high)}
            for p in shown
        ],
        basis=MEASURED,
        along=along,
        constant=constant,
        matters=matters,
    )


def _law(points: Sequence[Point], names: Names, is_along_second: bool) -> tuple[Constant | None, str | None]:
    """The power that a curve follows, as (its constant, its words)."""
    if min(min(point.across, point.low) for point in points) <= 0:
        return None, None
    x, y, low, high = (np.log([getattr(p, name) for p in points]) for name in ("across", "at", "low", "high"))
    weights = 1 / np.maximum((high - low) / 4, 0.02)
    one, other = names
    slope = float(np.polyfit(x, y, 1, w=weights)[0]) if np.ptp(x) > 0 else 0.0
    snapped = next((power for power in (0.0, 1.0) if abs(slope - power) < STRAIGHT), None)
    power = snapped if snapped is not None else slope
    middle = float(np.average(y - power * x, weights=weights**2))
    off = y - power * x - middle
    typically = float(np.sqrt(np.average(off**2, weights=weights**2)))
    at_most = float((np.abs(off) - (high - low) / 2).max())
    if typically > max(NEAR, median_of(high - low) / 2) or at_most > ANYWHERE:
        return None, None
    ends = [float(np.average(end - power * x, weights=weights**2)) for end in (low, high)]
    value = Interval(*map(math.exp, (middle, *ends)))
    along, rest = (other, one) if is_along_second else (one, other)
    if power == 0.0:
        return _said(along, Constant(f"{{}}, whatever {rest}", value, is_size=True))
    if not is_along_second:
        return None, None  # such a line stands so steeply that it is no power that anybody would say
    if power != 1.0:
        if abs(power) > POWER_MOST:
            return None, None
        return _said(along, Constant(f"{{}} · {one}^{power:.2f}", value))
    if value.value >= 1:
        return _said(along, Constant(f"{{}} {one}", value))
    return _said(along, Constant(f"{one} / {{}}", Interval(1 / value.value, 1 / value.high, 1 / value.low)))


def _said(along: str, constant: Constant) -> tuple[Constant, str]:
    """A constant with the law in words."""
    at = constant.value.value
    return constant, f"{along} = {constant.bound.format(crossing(at) if constant.is_size else number(at, 2))}"
