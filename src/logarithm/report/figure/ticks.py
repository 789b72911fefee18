"""Ticks: at least three an axis, at round values, each with its unit and none looking like its neighbour."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Any

from ...notation import numbers
from ...notation.metrics import metric_of
from .. import units

LEAST, MOST = 3, 8
PARTS = (
    (1.0, 3.0),
    (1.0, 2.0, 5.0),
    (1.0, 1.5, 2.0, 3.0, 5.0, 7.0),
    tuple(1 + part / 10 for part in range(90)),
)
"""Within each power of ten, from coarse to fine."""
DIGITS = range(3, 10)

Written = Callable[[float, int], str]
"""A value with so many digits, as it is written at an axis."""


def log_ticks(low: float, high: float, base: int = 10) -> list[float]:
    """Round values between two ends of a logarithmic axis: powers, or parts of them where there are too few.

    >>> log_ticks(1, 1000), log_ticks(8, 60), log_ticks(1, 40, base=2)
    ([1.0, 10.0, 100.0, 1000.0], [10.0, 20.0, 50.0], [1.0, 2.0, 4.0, 8.0, 16.0, 32.0])
    """
    if not 0 < low < high:
        return [low] if low > 0 else []
    reach = math.log(high / low, base)
    coarsest = max(1, math.ceil(reach / (MOST - 2)))
    powers = range(math.floor(math.log(low, base)) - 1, math.ceil(math.log(high, base)) + 2)
    choices = [[float(base) ** power for power in powers if power % each == 0] for each in range(1, coarsest + 1)]
    if base == 10:
        choices += [[part * 10.0**power for power in powers for part in parts] for parts in PARTS]
    rounding = 1e-9 * high
    for values in choices:
        inside = [value for value in values if low - rounding <= value <= high + rounding]
        if LEAST <= len(inside) <= MOST:
            return inside
    return linear_ticks(low, high)


def linear_ticks(low: float, high: float, whole: bool = False) -> list[float]:
    """Round values at equal steps.

    >>> linear_ticks(0, 4, whole=True), linear_ticks(8.1, 8.3)
    ([0.0, 1.0, 2.0, 3.0, 4.0], [8.1, 8.15, 8.2, 8.25, 8.3])
    """
    from matplotlib.ticker import MaxNLocator

    found = MaxNLocator(nbins=6, steps=[1, 2, 2.5, 5, 10], integer=whole, min_n_ticks=LEAST).tick_values(low, high)
    rounding = 1e-9 * (high - low)
    return [float(f"{value:.12g}") for value in found if low - rounding <= value <= high + rounding]


def set_ticks(
    axis: Any, written: Written, base: int = 10, whole: bool = False, within: tuple[float, float] | None = None
) -> None:
    """Give an axis such ticks, whatever part of it is shown.

    Args:
        axis: of Matplotlib; its scale is looked at when it is drawn.
        written: writes a value.
        base: of the round values of a logarithmic axis.
        whole: whether there is nothing between whole numbers.
        within: the part of the axis that has ticks, if not all.
    """
    from matplotlib.ticker import Formatter, Locator, NullLocator

    class Round(Locator):
        """Where ticks stand."""

        def __call__(self) -> Any:
            low, high = sorted(axis.get_view_interval())
            return self.tick_values(low, high)

        def tick_values(self, vmin: float, vmax: float) -> Any:
            low, high = (max(vmin, within[0]), min(vmax, within[1])) if within else (vmin, vmax)
            return log_ticks(low, high, base) if axis.get_scale() == "log" else linear_ticks(low, high, whole)

    class Distinct(Formatter):
        """As many digits as tell neighbours apart."""

        digits = DIGITS[0]

        def set_locs(self, locs: Any) -> None:
            there = {float(each) for each in locs}
            fine = (each for each in DIGITS if len({written(value, each) for value in there}) == len(there))
            self.digits = next(fine, DIGITS[-1])

        def __call__(self, value: float, pos: int | None = None) -> str:  # noqa: ARG002
            return written(value, self.digits)

    axis.set_major_locator(Round())
    axis.set_major_formatter(Distinct())
    axis.set_minor_locator(NullLocator())


def of_cost(metric: str) -> Written:
    """Writes costs: "10 µs"."""

    def written(value: float, digits: int) -> str:
        if value == 0:
            return "0"
        unit = units.unit_for([abs(value) * 1.0001], metric)
        return f"{_amount(value / unit.size, digits)} {unit.name}".rstrip()

    return written


def of_size(value: float, digits: int) -> str:
    """Writes sizes as people do."""
    return numbers.size(float(f"{value:.{digits + 3}g}"))


def of_ratio(value: float, digits: int) -> str:
    """Writes ratios: "100 ×"."""
    if 0 < value < 0.001:
        return f"1/{_amount(1 / value, digits)} ×"
    return f"{_amount(value, digits)} ×"


def base_of(metric: str) -> int:
    """The base of round values: memory has powers of two."""
    return 2 if metric_of(metric).unit == "memory" else 10


def _amount(value: float, digits: int) -> str:
    """A number without an exponent."""
    rounded = float(f"{value:.{digits}g}")
    if abs(rounded) >= 1000:
        return numbers.whole(rounded)
    return (
        f"{rounded:.{max(0, digits - 1 - math.floor(math.log10(abs(rounded) or 1)))}f}".rstrip("0").rstrip(".")
        if (not float(rounded).is_integer())
        else f"{rounded:.0f}"
    )


def bounds(values: Sequence[float]) -> tuple[float, float]:
    """The ends of an axis that holds values; some room where there is one only."""
    low, high = min(values), max(values)
    if low < high:
        return low, high
    return (low / 2, high * 2) if low > 0 else (low - 1, high + 1)
