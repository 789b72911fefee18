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


def student_quantile(freedom: ArrayLike, share: float) -> Floats:
    """What a variable of Student's t distribution is below with a probability, to five digits.

    By Hill's expansion (Algorithm 396, Communications of the ACM 13, 1970, 619-620). Up to two degrees of freedom,
    which it does not reach, between those of one and two, to two digits.

    Args:
        freedom: degrees of freedom, at least 1, of any shape.
        share: the probability, from 0.5 up to 1.

    Returns:
        of the shape of `freedom`.

    >>> student_quantile([1, 4, 30], 0.975).round(3).tolist()
    [12.706, 2.776, 2.042]
    """
    if share <= 0.5:
        return np.zeros_like(freedom, dtype=np.float64)
    # A look asks for some hundred of them: between the lines of a table each takes a twentieth of the time.
    return np.asarray(np.exp(np.interp(1 / np.asarray(freedom), INVERSES, _table(share))), dtype=np.float64)


INVERSES = np.linspace(1e-9, 1.0, 4097)


@lru_cache(maxsize=256)
def _table(share: float) -> Floats:
    """Logarithms of the quantiles at so many inverses of degrees of freedom."""
    freedom = 1 / INVERSES
    one, two = math.tan(math.pi * (share - 0.5)), (2 * share - 1) * math.sqrt(0.5 / (share * (1 - share)))
    few = two * (one / two) ** (2 / np.minimum(freedom, 2.0) - 1)
    return np.asarray(np.log(np.where(freedom < 2, few, _expanded(np.maximum(freedom, 2.0), share))), dtype=np.float64)


def _expanded(n: Floats, share: float) -> Floats:
    """Hill's expansion, from two degrees of freedom on."""
    both_tails = 2 * (1 - share)
    a = 1 / (n - 0.5)
    b = 48 / a**2
    c = ((20700 * a / b - 98) * a - 16) * a + 96.36
    d = ((94.5 / (b + c) - 3) / b + 1) * np.sqrt(a * math.pi / 2) * n
    tail = (d * both_tails) ** (2 / n)
    x = normal_quantile(both_tails / 2)
    c += np.where(n < 5, 0.3 * (n - 4.5) * (x + 0.6), 0.0)
    c = (((0.05 * d * x - 5) * x - 7) * x - 2) * x + b + c
    y = x * x
    root = (((((0.4 * y + 6.3) * y + 36) * y + 94.5) / c - y - 3) / b + 1) * x
    near = np.expm1(np.minimum(a * root * root, 700.0))
    far = 1 / (((n + 6) / (n * tail) - 0.089 * d - 0.822) * (n + 2) * 3) + 0.5 / (n + 4)
    far = (far * tail - 1) * (n + 1) / (n + 2) + 1 / tail
    return np.asarray(np.sqrt(n * np.where(tail > 0.05 + a, near, far)), dtype=np.float64)
