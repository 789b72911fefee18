"""Numbers as they are written for people: few digits, no exponents, no-break spaces between thousands."""

from __future__ import annotations

import math

SMALL_CHANGE = 1.1  # a ratio nearer to one than this is said in per cent


def number(value: float, digits: int = 3) -> str:
    r"""A number with so many significant digits, in plain notation, with no-break spaces between thousands.

    >>> number(0.0123456), number(1234567), number(2.0), number(99.96)
    ('0.0123', '1\xa0230\xa0000', '2.00', '100')
    """
    if value == 0 or not math.isfinite(value):
        return "0" if value == 0 else str(value)
    short = rounded(value, digits)
    magnitude = math.floor(math.log10(abs(short)))
    return whole(short) if magnitude >= digits - 1 else f"{short:.{digits - 1 - magnitude}f}"


def rounded(value: float, digits: int = 4) -> float:
    """A number of so many significant digits."""
    return float(f"{value:.{digits}g}")


def whole(value: float) -> str:
    """A whole number with no-break spaces between thousands, from five digits on."""
    text = f"{round(value):,}"
    return text.replace(",", "\u00a0") if abs(value) >= 10_000 else text.replace(",", "")


def size(value: float) -> str:
    """A size: whole as it is, others with four digits."""
    return whole(value) if float(value).is_integer() else f"{value:.4g}"


def crossing(value: float) -> str:
    """The size of a crossover: whole from ten on, two digits below."""
    return whole(value) if value >= 10 else f"{value:.2g}"


def times(ratio: float) -> str:
    """A ratio as people say it: "61 ×", "1.4 ×", "0.0040 ×"."""
    return f"{number(ratio, 2)} ×"


def changed(ratio: float) -> str:
    """A cost over what it was before, as people say it: per cent below a tenth, else times.

    >>> changed(1.042), changed(2.41), changed(0.07), changed(0.95)
    ('4.2 % slower', '2.4 × slower', '14 × as fast', '5.3 % faster')
    """
    if ratio <= 0 or not math.isfinite(ratio):
        return "not known"
    if SMALL_CHANGE > ratio > 1 / SMALL_CHANGE:
        share = 100 * (max(ratio, 1 / ratio) - 1)
        return f"{number(share, 2)} % {'slower' if ratio >= 1 else 'faster'}"
    return f"{number(ratio, 2)} × slower" if ratio > 1 else f"{number(1 / ratio, 2)} × as fast"


def span(seconds: float) -> str:
    """How long something took: "28 s", "4 min 10 s"."""
    if seconds < 90:
        return f"{seconds:.0f} s" if seconds >= 1 else f"{seconds:.1f} s"
    return f"{int(seconds // 60)} min {int(seconds % 60)} s"
