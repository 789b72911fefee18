"""A straight line through the costs at two or three sizes: what is fixed, and what each item adds; no order follows."""

from __future__ import annotations

import numpy as np

from ...notation.metrics import TIMED
from ...results.base import Interval
from ...results.findings import Straight
from ..readings.arrays import Floats, median_of
from ..readings.quantiles import student_quantile
from ..readings.series import Series
from ..uncertainty.level import level_of

SIZES = (2, 3)
BENT, BENT_SURE = 0.1, 3.0  # relative, and in standard errors: further off, three costs lie on no line


def straight(series: Series) -> Straight | None:
    """The line through the costs of a series; None where there are other sizes, or they lie on none.

    Costs are weighed by their errors: generalized least squares (Draper and Smith, Applied Regression Analysis, 1998,
    9.2).
    """
    told = series.tells
    sizes, costs = series.sizes[told], series.typical[told]
    if len(sizes) not in SIZES or (costs <= 0).any():
        return None
    errors, freedom = _errors(series, costs)
    design = np.stack([np.ones(len(sizes)), sizes], axis=1)
    inverse = np.linalg.inv(design.T @ (design / errors[:, None] ** 2))
    line = inverse @ (design.T @ (costs / errors**2))
    off = np.abs(design @ line - costs)
    if (off > BENT * costs).any() and (off > BENT_SURE * errors).any():
        return None
    reach = float(student_quantile(freedom, 0.975)) * np.sqrt(np.diag(inverse))
    fixed, each = (
        Interval(max(float(value), 0.0), max(float(value - most), 0.0), float(value + most))
        for value, most in zip(line, reach, strict=True)
    )
    return Straight(fixed, each) if fixed.high >= 0 and each.high > 0 else None


def _errors(series: Series, costs: Floats) -> tuple[Floats, float]:
    """The standard error of each cost, and the degrees of freedom."""
    if series.is_exact or series.metric not in TIMED:
        return np.maximum(costs * 1e-6, 1e-12), 100.0
    told = series.tells
    level = level_of(np.log(series.costs[told]), series.processes, series.is_ours)
    return costs * np.maximum(level.error, 1e-4), max(median_of(level.own_freedom), 2.0)
