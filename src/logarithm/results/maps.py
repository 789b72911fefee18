"""Findings on a map of two sizes: who leads at each place, the boundary between two leaders, costs all over it."""

from __future__ import annotations

from ..notation.metrics import TIMED
from ..notation.places import Placed
from ..notation.sizes import Number
from .base import Interval, Part


class Constant(Part):
    """The number in a boundary's law with its 95 % interval.

    `bound` is what the law says with it: "n / {}"; where that is but the number, it `is_size`.
    """

    bound: str
    value: Interval
    is_size: bool = False


class Boundary(Part, Placed):
    """Where the lead changes on a map: `before` leads below it, `after` above.

    `curve` has a row for each place on it, by the names of both sizes, with `low` and `high` of the size that is
    `along` which the lead changes. `law` says in words where it lies, None where it is near no power; `constant` is the
    number in it. `matters` is whether both are ahead of all others at one place of it at least.
    """

    family: str
    metric: str
    stage: str | None
    before: str
    after: str
    law: str | None
    curve: list[dict[str, float]]
    basis: str
    along: str
    constant: Constant | None = None
    matters: bool = True


class Lead(Part, Placed):
    """Who leads at one measured place of a map, of sizes `first` and `second`.

    `verdict` is "leads", "tie" or "not known"; `factor` is the cost of the `next` one over that of the leader.
    """

    family: str
    metric: str
    stage: str | None
    first: Number
    second: Number
    leader: str
    verdict: str
    next: str | None
    factor: Interval | None
    rounds: int
    costs: dict[str, float]


class MapFinding(Part, Placed):
    """A map on a grid of both sizes, from the smallest to the largest that was measured.

    `leader` has the number of a contender for each place, by first size and then by second, -1 where nobody measured;
    `sure` is how many times as far ahead of every other one it is as it must be to be known to lead; `tied` whether it
    is a tie; `factor` how many times as much the next one costs. `costs` are those of each contender, by its number,
    None where it was not measured.
    """

    family: str
    metric: str
    stage: str | None
    names: list[str]
    first: list[float]
    second: list[float]
    contenders: list[str]
    leader: list[list[int]]
    sure: list[list[float | None]]
    tied: list[list[bool]]
    factor: list[list[float | None]]
    costs: list[list[list[float | None]]]
    is_size: bool = True

    @property
    def is_time(self) -> bool:
        """Whether costs are seconds."""
        return self.metric in TIMED
