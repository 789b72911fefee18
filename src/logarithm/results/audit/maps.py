"""What is said of a map: boundaries and leads, held against the costs at its places."""

from __future__ import annotations

from collections.abc import Iterator

from ..maps import Boundary, Lead
from ..pairs import LEADS
from .numbers import ROUNDING, Numbers, ordered


def boundary(row: Boundary, numbers: Numbers) -> Iterator[str]:
    """A: each interval holds its place. D: both of its contenders are cheaper than the other somewhere."""
    if not all(ordered(point["low"], point[row.along], point["high"]) for point in row.curve):
        yield "A: its interval does not hold it"
    if row.constant is not None and not ordered(
        row.constant.value.low, row.constant.value.value, row.constant.value.high
    ):
        yield "A: the interval of its law does not hold it"
    places = [each.costs for each in numbers.findings.leads if each.place == row.place]
    both = [costs for costs in places if row.before in costs and row.after in costs]
    ahead = {min((row.before, row.after), key=lambda name: costs[name]) for costs in both}
    if ahead != {row.before, row.after}:
        yield "D: one of them is ahead everywhere"


def lead(row: Lead, _: Numbers) -> Iterator[str]:
    """A: its interval holds its factor. D: whoever leads is cheaper than the next one."""
    if row.factor is None:
        return
    if not ordered(row.factor.low, row.factor.value, row.factor.high):
        yield "A: its interval does not hold it"
    if row.verdict == LEADS and row.factor.low < 1 - ROUNDING:
        yield "D: the next one may be cheaper"
