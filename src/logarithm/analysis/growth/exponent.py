"""The free exponent: how steeply a cost rises at the upper end of the sizes, whatever its order is called."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.special import stdtrit

from ..arrays import Floats

SIZES_LEAST = 4
DRIFT, DRIFT_LENGTH = 0.2, 2.0  # how far costs stray from their law, and over which distance in log n
OWN = 0.03  # how far each size strays by itself
FREEDOM = 4.0  # how unsure these are: degrees of freedom


@dataclass(frozen=True, slots=True)
class Exponent:
    """The free exponent at the upper end of the sizes, with its 95 % interval."""

    value: float
    low: float
    high: float


def tail_exponent(x: Floats, y: Floats, error: Floats) -> Exponent:
    """The slope over the upper half of the sizes (on the logarithmic scale), with a 95 % interval.

    By generalised least squares under the covariance that growth is fitted with; where the points scatter more than
    it says, by as much as they do.

    Args:
        x, y: sizes and typical costs, shape (m,).
        error: the relative standard error of each, shape (m,).
    """
    top = min(int(np.searchsorted(x, math.sqrt(float(x[0] * x[-1])))), len(x) - SIZES_LEAST)
    log_x, log_y = np.log(x[top:]), np.log(y[top:])
    design = np.stack([np.ones_like(log_x), log_x - log_x.mean()], axis=1)
    # A drift over so few sizes shows in the scatter, but for its own slope, which is small.
    apart = np.abs(log_x[:, None] - log_x[None, :])
    own_error = error[top:]
    inverse = np.linalg.inv(np.diag(own_error**2 + OWN**2 / 4) + (DRIFT / 4) ** 2 * np.exp(-apart / DRIFT_LENGTH))
    spread = np.linalg.inv(design.T @ inverse @ design)
    solution = spread @ design.T @ inverse @ log_y
    residual = log_y - design @ solution
    free = len(log_x) - 2
    scale = max(1.0, float(residual @ inverse @ residual) / free)
    slope = float(solution[1])
    reach = float(stdtrit(free + FREEDOM, 0.975)) * math.sqrt(float(spread[1, 1]) * scale)
    return Exponent(slope, slope - reach, slope + reach)
