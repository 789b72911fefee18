"""Quantiles and logarithms of factorials, without the quarter of a second that loading a library of them takes."""

from __future__ import annotations

import math
from functools import lru_cache
from statistics import NormalDist

import numpy as np
from numpy.typing import ArrayLike

from .arrays import Floats

log_factorial = np.vectorize(lambda many: math.lgamma(many + 1), otypes=[np.float64])
"""The natural logarithm of n!, also between whole numbers, of numbers of any shape."""


def normal_quantile(share: float) -> float:
    """What a standard normal variable is below with a probability.

    >>> round(normal_quantile(0.975), 6)
    1.959964
    """
    return NormalDist().inv_cdf(share)


def student_quantile(freedom: ArrayLike, share: ArrayLike) -> Floats:
    """What a variable of Student's t distribution is below with a probability, to five digits.

    By Hill's expansion (Algorithm 396, Communications of the ACM 13, 1970, 619-620). Below two degrees of freedom,
    which it does not reach, between those of one and two, to two digits.

    Args:
        freedom: degrees of freedom, at least 1.
        share: the probability, from 0.5 up to 1.

    Returns:
        as many as both have, of one shape.

    >>> student_quantile([1, 4, 30], 0.975).round(3).tolist()
    [12.706, 2.776, 2.042]
    """
    both = np.broadcast_arrays(np.asarray(freedom, dtype=np.float64), np.asarray(share, dtype=np.float64))
    made = [_student(round(n, 6), p) for n, p in zip(both[0].flat, both[1].flat, strict=True)]
    return np.array(made).reshape(both[0].shape)


@lru_cache(maxsize=4096)
def _student(n: float, share: float) -> float:
    if share <= 0.5:
        return 0.0
    if n < 2:
        one, two = math.tan(math.pi * (share - 0.5)), (2 * share - 1) * math.sqrt(0.5 / (share * (1 - share)))
        return float(two * (one / two) ** (2 / n - 1))
    both_tails = 2 * (1 - share)
    a = 1 / (n - 0.5)
    b = 48 / a**2
    c = ((20700 * a / b - 98) * a - 16) * a + 96.36
    d = ((94.5 / (b + c) - 3) / b + 1) * math.sqrt(a * math.pi / 2) * n
    y = (d * both_tails) ** (2 / n)
    if y > 0.05 + a:
        x = NormalDist().inv_cdf(both_tails / 2)
        y = x * x
        c += 0.3 * (n - 4.5) * (x + 0.6) if n < 5 else 0.0
        c = (((0.05 * d * x - 5) * x - 7) * x - 2) * x + b + c
        y = (((((0.4 * y + 6.3) * y + 36) * y + 94.5) / c - y - 3) / b + 1) * x
        y = math.expm1(a * y * y)
    else:
        y = ((1 / (((n + 6) / (n * y) - 0.089 * d - 0.822) * (n + 2) * 3) + 0.5 / (n + 4)) * y - 1) * (n + 1) / (
            n + 2
        ) + 1 / y
    return math.sqrt(n * y)
