"""What findings are made of: numbers with intervals, orders with weights, work with its price."""

from __future__ import annotations

import msgspec

Number = int | float


def plain(size: float) -> Number:
    """A whole size as a whole number: 8 and not 8.0."""
    return int(size) if float(size).is_integer() else float(size)


class Part(msgspec.Struct):
    """A part of the findings."""


class Plausible(Part):
    """An order that the data cannot rule out; what the weights of a series lack of 1 is for all others together."""

    order: str
    weight: float


class Interval(Part):
    """A value with its 95 % interval."""

    value: float
    low: float
    high: float


class WorkFinding(Part):
    """What a call does, counted, and what a unit of it costs.

    `order` with its `plausible` ones is that of the work alone, `exact` the formula that gives every count. `price` is
    the seconds of a unit at the smallest and the largest size, as [size, seconds], `least` where it is lowest, and
    `slope` how it rises at the upper half of the sizes. `says` is "work" where the order is that of the work, "hidden"
    where the price rises like a power of its own, "open" between the two.
    """

    order: str
    plausible: list[Plausible]
    exact: str | None
    price: list[list[float]]
    slope: Interval
    says: str
    least: list[float] = []
