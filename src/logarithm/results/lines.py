"""Where work is done: lines of a contender's code, and compiled operations that steps do not show."""

from __future__ import annotations

from ..notation.places import Keyed
from ..notation.sizes import Number
from .base import Part


class NativeFinding(Part, Keyed):
    """Compiled operations that steps do not show: how often each was called at `size`.

    `grows` names those whose cost grows with the size although they are one step each.
    """

    contender: str
    family: str
    stage: str | None
    size: Number
    calls: dict[str, int]
    grows: list[str]
    metric: str = "steps"


class OperationFinding(Part):
    """A known operation on a line: its text, the kind of work done in it, how much at the largest size, its growth."""

    text: str
    kind: str
    amount: int
    order: str | None
    exact: str | None


class LineFinding(Part, Keyed):
    """A line of a contender's code: how often it runs, and its share of all work, at the largest size counted.

    `order` and `exact` say how the number of runs grows; `known` is the operation on it in which most work is done, of
    those that grow fastest. Where another one takes longer the larger n is, `operation` is its text, `spent` its share
    of the time of all, and `each` its [size, seconds] twice. `culprit` is the line that the growth comes from.
    """

    contender: str
    family: str
    stage: str | None
    file: str
    line: int
    text: str
    size: Number
    runs: int
    share: float
    order: str | None
    exact: str | None
    known: OperationFinding | None = None
    operation: str = ""
    spent: float = 0.0
    each: list[list[float]] = []
    culprit: bool = False
    metric: str = "steps"
