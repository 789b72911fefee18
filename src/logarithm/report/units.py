"""Numbers for people: one unit a column, so that they can be compared by eye."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from ..notation.metrics import metric_of
from ..notation.numbers import number, whole
from ..notation.orders import pretty

TIME = ((1.0, "s"), (1e-3, "ms"), (1e-6, "µs"), (1e-9, "ns"))
MEMORY = ((2.0**30, "GiB"), (2.0**20, "MiB"), (2.0**10, "KiB"), (1.0, "B"))
UNITS = {"time": TIME, "memory": MEMORY, "count": ((1.0, ""),)}
NOTHING = "–"  # stands in a cell where there is nothing to say


@dataclass(frozen=True, slots=True)
class Unit:
    """A unit of `size` in seconds, bytes or counts."""

    size: float
    name: str

    def show(self, value: float, digits: int = 3) -> str:
        """A value in this unit, with its name where it has one."""
        return f"{number(value / self.size, digits)} {self.name}".rstrip()


def unit_for(values: Iterable[float], metric: str = "time") -> Unit:
    """The unit in which most of the values read well: that of their geometric middle.

    >>> unit_for([2e-6, 3e-3, 4e-3]).name
    'ms'
    """
    logs = sorted(math.log(abs(value)) for value in values if value and math.isfinite(value))
    choices = UNITS[metric_of(metric).unit]
    if not logs:
        return Unit(*choices[0])
    middle = math.exp(logs[len(logs) // 2])
    for size, name in choices:
        if middle >= size:
            return Unit(size, name)
    return Unit(*choices[-1])


def unit_between(values: Sequence[float], metric: str = "time") -> Unit:
    """The largest unit in which the smallest of some values that stand side by side still has a digit before it fades.

    >>> unit_between([7e-7, 2e-2]).name
    'µs'
    """
    there = [abs(value) for value in values if value and math.isfinite(value)]
    return unit_for([min(there) * 10] if there else [], metric)


def amount(value: float | None, unit: Unit) -> str:
    """A value in a unit for a table: whole counts as they are, a dash where there is none."""
    if value is None:
        return NOTHING
    is_count = not unit.name and float(value).is_integer()
    return whole(value) if is_count else number(value / unit.size)


def formula(text: str) -> str:
    """An order or an exact formula as people write it.

    >>> formula("n*(n-1)/2"), formula("3*n + ceil(log2(n+1))"), formula("n^2 log n")
    ('n(n−1)/2', '3n + ⌈log₂(n+1)⌉', 'n² log n')
    """
    text = re.sub(r"ceil\(((?:[^()]|\([^()]*\))*)\)", r"⌈\1⌉", text)
    text = re.sub(r"floor\(((?:[^()]|\([^()]*\))*)\)", r"⌊\1⌋", text)
    text = text.replace("log2(n)", "log₂ n").replace("log2", "log₂").replace("sqrt(n)", "√n")
    return pretty(re.sub(r"(?<=\d)\*(?=\d)", "·", text).replace("*", "")).replace("-", "−")


def evenly(count: int, most: int) -> list[int]:
    """Indices of at most so many of `count` things, evenly along them, both ends among them.

    >>> evenly(9, 3), evenly(2, 3)
    ([0, 4, 8], [0, 1])
    """
    if count <= most:
        return list(range(count))
    return [round(index * (count - 1) / (most - 1)) for index in range(most)]
