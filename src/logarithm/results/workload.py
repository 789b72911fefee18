"""What the calls of a real program cost in all, contender by contender."""

from __future__ import annotations

from ..notation.sizes import Number
from .base import Part


class WorkloadTotal(Part):
    """What all calls of a workload cost with one contender, in seconds, with 95 %.

    `forecast_share` is the share of it at sizes beyond those measured; `top_share` what the largest tenth of the calls
    cost, as a share. Where there is no `total`, `why` says so in a word of `results.forecast`, or is empty where it was
    not measured on that family; `at` is the size that has no cost.
    """

    contender: str
    calls: int
    total: float | None
    low: float | None
    high: float | None
    forecast_share: float = 0.0
    top_share: float = 0.0
    at: Number | None = None
    why: str = ""


class SizeClass(Part, rename={"start": "from", "end": "to"}):
    """Calls of sizes `start` to `end`: how many, and who costs least over them; `total` is what that costs in all."""

    start: Number
    end: Number
    calls: int
    best: str
    total: float


class Hybrid(Part):
    """Taking `before` below size `at` and `after` from there on costs `total` seconds in all."""

    before: str
    after: str
    at: Number
    total: float


class Weighing(Part):
    """What follows from the totals of a workload.

    Attributes:
        source: where the calls come from.
        best: the cheapest one, with those that may be as cheap.
        classes: by size, who is best over a part of the calls.
        hybrid: of two contenders, where that costs less than the best one alone; None where none does.
        sizes: the calls, as [size, how many].
        accumulated: by contender, what the calls cost up to each size, as [size, seconds]; of some of the sizes.
    """

    source: str
    best: list[str]
    classes: list[SizeClass]
    hybrid: Hybrid | None
    sizes: list[list[float]]
    accumulated: dict[str, list[list[float]]]
