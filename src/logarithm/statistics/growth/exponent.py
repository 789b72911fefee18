"""The free exponent: how steeply a cost rises at the upper end of the sizes, whatever its order is called."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from ...notation.orders import Order
from ..readings.arrays import Floats
from ..readings.quantiles import student_quantile
from .catalogue import log_values

SIZES_LEAST = 4
DRIFT, DRIFT_LENGTH = 0.2, 2.0  # how far costs stray from their law, and over which distance in log n
SIZE_MISFIT = 0.03  # how far each size misfit by itself
ROUNDING = 0.02  # two slopes that differ by no more are one
Law = Callable[[Floats], Floats]
FREEDOM = 4.0  # how unsure these are: degrees of freedom


@dataclass(frozen=True, slots=True)
class Exponent:
    """The free exponent at the upper end of the sizes, each with its 95 % interval.

    Attributes:
        value, low, high: the slope as it was measured: how costs really rose over these sizes.
        law_low, law_high: what the slope of the law behind it may be, if costs drift as caches make them.
    """

    value: float
    low: float
    high: float
    law_low: float
    law_high: float

    def drifting(self, below: float, above: float) -> Exponent:
        """The same where the slope of the law may lie so far below or above the one that was measured."""
        return replace(
            self, law_low=min(self.law_low, self.value - below), law_high=max(self.law_high, self.value + above)
        )

    def allows(self, law: Law, x: Floats) -> bool:
        """Whether a law rises over the upper sizes as costs do, as far as their drift allows.

        Args:
            law: gives the costs at sizes.
            x: the sizes that were measured, shape (m,).
        """
        return self.law_low - ROUNDING <= slope_of(law, x) <= self.law_high + ROUNDING


def upper(x: Floats) -> int:
    """The index from which on sizes are upper ones: the half of them on the logarithmic scale, but some at least."""
    middle = int(np.searchsorted(x, math.sqrt(float(x[0] * x[-1]))))
    return max(min(middle, len(x) - SIZES_LEAST), 0)


def slope_of(law: Law, x: Floats) -> float:
    """The slope of log cost over log size of a law, over the upper ones of some sizes."""
    at = x[upper(x) :]
    with np.errstate(over="ignore", divide="ignore", invalid="ignore"):
        logs = np.log(law(at))
    if not np.isfinite(logs).all():
        return math.inf
    log_x = np.log(at)
    log_x -= log_x.mean()
    return float(log_x @ logs / max(float(log_x @ log_x), 1e-300))


def slope_of_order(order: Order, x: Floats) -> float:
    """The same of an order alone, without lower terms."""
    return slope_of(lambda sizes: np.exp(log_values(order, sizes) - order.log_value(float(x[-1]))), x)


def tail_exponent(x: Floats, y: Floats, error: Floats) -> Exponent:
    """The slope over the upper half of the sizes (on the logarithmic scale), with two 95 % intervals.

    The slope as measured is that of the line nearest to the points, and as unsure as the points themselves and their
    scatter about it. The slope of the law is unsure by the drift as well, which may be as steep as its height over the
    length of these sizes.

    Args:
        x, y: sizes and typical costs, shape (m,).
        error: the relative standard error of each, shape (m,).
    """
    slope, measured, unsure = _slope(x[upper(x) :], y[upper(x) :], error[upper(x) :])
    return Exponent(slope, slope - measured, slope + measured, slope - unsure, slope + unsure)


def _slope(x: Floats, y: Floats, error: Floats) -> tuple[float, float, float]:
    """The slope of some costs, how far the measured one may be off, and how far that of the law."""
    log_x, log_y = np.log(x), np.log(y)
    design = np.stack([np.ones_like(log_x), log_x - log_x.mean()], axis=1)
    noise = error**2 + SIZE_MISFIT**2 / 9
    apart = np.abs(log_x[:, None] - log_x[None, :])
    # A smooth bend is no noise, but the line through it hangs on where the sizes lie.
    bend = (DRIFT / 4) ** 2 * np.exp(-apart / DRIFT_LENGTH)
    slope, measured = _line(design, log_y, np.diag(noise) + bend / 4)
    _, unsure = _line(design, log_y, np.diag(noise) + DRIFT**2 * np.exp(-apart / DRIFT_LENGTH))
    return slope, measured, unsure


def _line(design: Floats, y: Floats, covariance: Floats) -> tuple[float, float]:
    """The slope by generalised least squares, and how far the true one lies from it at most."""
    inverse = np.linalg.inv(covariance)
    spread = np.linalg.inv(design.T @ inverse @ design)
    solution = spread @ design.T @ inverse @ y
    residual = y - design @ solution
    free = len(y) - 2
    scale = max(1.0, float(residual @ inverse @ residual) / free)
    reach = float(student_quantile(free + FREEDOM, 0.975)) * math.sqrt(float(spread[1, 1]) * scale)
    return float(solution[1]), reach
