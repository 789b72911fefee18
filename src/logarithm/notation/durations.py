"""Spans of time and amounts of memory as people write them: "500ms", "1.5m", "2GiB"."""

from __future__ import annotations

import math
import re

from ..errors import StudyError

SECONDS = {"ns": 1e-9, "us": 1e-6, "µs": 1e-6, "ms": 1e-3, "s": 1.0, "m": 60.0, "min": 60.0, "h": 3600.0}

LENGTH_MOST = 60  # characters, which are enough for any
_PATTERN = re.compile(r"\s*([0-9]*\.?[0-9]+(?:e[+-]?[0-9]+)?)\s*([a-zµ]*)\s*", re.IGNORECASE)


def seconds(text: str | float) -> float:
    """The seconds that `text` stands for; a bare number is seconds.

    >>> seconds("250ms"), seconds("2m"), seconds(3)
    (0.25, 120.0, 3.0)

    Raises:
        StudyError: where it is no positive span of time.

    """
    found = _PATTERN.fullmatch(str(text)[:LENGTH_MOST])
    unit = found[2].lower() or "s" if found else ""
    if not found or unit not in SECONDS:
        raise StudyError(f"'{text}' is not a span of time: write for example 500ms, 2s or 1m")
    value = float(found[1]) * SECONDS[unit]
    if not 0 < value < math.inf:
        raise StudyError(f"'{text}' is not a span of time to work with: it must be more than 0")
    return value


BYTES = {"b": 1, "kb": 10**3, "mb": 10**6, "gb": 10**9, "kib": 2**10, "mib": 2**20, "gib": 2**30}


def capacity(text: str) -> float:
    """The bytes that `text` stands for.

    >>> capacity("2GiB")
    2147483648.0

    Raises:
        StudyError: where it is not an amount of memory.
    """
    found = _PATTERN.fullmatch(text[:LENGTH_MOST])
    if not found or found[2].lower() not in BYTES or not 0 < float(found[1]) < math.inf:
        raise StudyError(f"'{text}' is not an amount of memory: write for example 500MB or 2GiB")
    return float(found[1]) * BYTES[found[2].lower()]
