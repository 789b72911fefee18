"""Rising lists of sizes, as people write them."""

from __future__ import annotations

import itertools
import math
import re
from collections.abc import Iterator, Sequence
from fractions import Fraction

from ..errors import StudyError, one_line

Number = int | float
"""A size, or another value that is varied."""

STEPS_MOST, LENGTH_MOST, RANGE_MOST = 1000, 20_000, 200
_NUMBER = r"[+-]?(?:[0-9][0-9_]*\.?[0-9]*|\.[0-9]+)(?:[eE][+-]?[0-9]+)?"
_RANGE = re.compile(rf"({_NUMBER})\s*\.\.\s*({_NUMBER})(?:\s*([*+])\s*({_NUMBER}))?")
_OPEN = re.compile(rf"({_NUMBER})\s*\.\.")
_HOW = "write for example 8..4096, 8..4096 *2, 100..1000 +100, 8.. (without end) or 10, 100, 1000"


def parse(text: str | Number | Sequence[Number]) -> tuple[Number, ...]:
    """The rising sizes that `text` stands for.

    `8..4096` rises by about √2, rounded to distinct whole numbers; `8..4096 *2` by a factor; `100..1000 +100`
    by a step; `10, 100, 1000` is a list. Both ends are included. `8..` rises by about √2 without end.

    >>> parse("8..32")
    (8, 11, 16, 23, 32)
    >>> parse("100..1000 +300")
    (100, 400, 700, 1000)
    >>> parse("64..")
    (64, inf)

    Raises:
        StudyError: where the text is no list of sizes, falls, or has more than 1000 steps.

    """
    if isinstance(text, (int, float)):
        return _rising([text], str(text))
    if not isinstance(text, str):
        return _rising([_plain(value) for value in text], repr(text))
    if len(text) > LENGTH_MOST:
        raise StudyError(f"'{one_line(text, 60)}' is too long for a list of sizes: {_HOW}")
    found = _RANGE.fullmatch(text.strip()[:RANGE_MOST])
    endless_from = _OPEN.fullmatch(text.strip()[:RANGE_MOST])
    if endless_from:
        values = [_positive(_number(endless_from[1]), text), math.inf]
    elif found:
        low, high = _number(found[1]), _number(found[2])
        values = list(_range(low, high, found[3], _number(found[4]) if found[4] else None, text))
    else:
        parts = [part.strip() for part in text.split(",")]
        if not all(len(part) < 400 and re.fullmatch(_NUMBER, part) for part in parts):
            raise StudyError(f"'{text}' is not a list of sizes: {_HOW}")
        values = [_number(part) for part in parts]
    return _rising(values, text)


def fixed(sizes: Sequence[Number] | None) -> tuple[Number, ...] | None:
    """The sizes where they are fixed; None where they go on without end, or nobody has said any.

    >>> fixed((8, 16)), fixed((8, math.inf)), fixed(None)
    ((8, 16), None, None)
    """
    return tuple(sizes) if sizes and sizes[-1] != math.inf else None


def placed(text: str) -> dict[str, float]:
    """Sizes as a place is written: by their names, or one without a name.

    >>> placed("1e6"), placed("n=1e6,k=100")
    ({'': 1000000.0}, {'n': 1000000.0, 'k': 100.0})

    Raises:
        StudyError: where it is no place.
    """
    made: dict[str, float] = {}
    for part in text.split(","):
        name, equals, value = part.rpartition("=")
        try:
            size = float(value)
        except ValueError:
            size = math.nan
        if not math.isfinite(size) or (equals and not name.strip()) or name.strip() in made:
            raise StudyError(f"'{one_line(text, 60)}' is not a size: write for example 1e6, k=64 or n=1e6,k=64")
        made[name.strip()] = size
    return made


def plain(size: float) -> Number:
    """A whole size as a whole number.

    >>> plain(8.0), plain(0.5)
    (8, 0.5)
    """
    return int(size) if float(size).is_integer() else float(size)


def endless(start: int = 8) -> Iterator[int]:
    """Sizes without end: `start`, then about √2 times the one before, without end.

    >>> list(itertools.islice(endless(), 5))
    [8, 11, 16, 23, 32]
    """
    last = 0
    for step in itertools.count():
        value = round(start * math.sqrt(2) ** step)
        if value > last:
            last = value
            yield value


def _range(low: Number, high: Number, sign: str | None, by: Number | None, text: str) -> Iterator[Number]:
    if high < low:
        raise StudyError(f"the list of sizes '{text}' falls: put the smaller end first")
    if by is not None and by <= (1 if sign == "*" else 0):
        raise StudyError(f"the list of sizes '{text}' does not rise: the number after {sign} is too small")
    if sign == "+":
        # Exact fractions, so that 0..1 +0.1 ends at 1.
        step, value, end = Fraction(str(by)), Fraction(str(low)), Fraction(str(high))
        if (end - value) / step >= STEPS_MOST:
            raise StudyError(f"the list of sizes '{text}' has more than {STEPS_MOST} steps: take a larger step")
        while value <= end:
            yield int(value) if value.denominator == 1 else float(value)
            value += step
        return
    _positive(low, text)
    factor = float(by) if by is not None else math.sqrt(2)
    if math.log(high / low) / math.log(factor) >= STEPS_MOST:
        raise StudyError(f"the list of sizes '{text}' has more than {STEPS_MOST} steps: take a larger factor")
    whole = isinstance(low, int) and isinstance(high, int)
    previous: Number | None = None
    for step_number in itertools.count():
        exact = low * factor**step_number
        if exact > high * (1 + 1e-9):
            break
        size: Number = round(exact) if whole else exact
        if size != previous:
            yield size
            previous = size
    # A last step that falls just short of the end would leave two sizes too close to tell apart.
    if previous != high:
        yield high


def _positive(low: Number, text: str) -> Number:
    if low <= 0:
        raise StudyError(
            f"the list of sizes '{text}' rises by a factor and so cannot begin at {low}: begin at 1, or use +"
        )
    return low


def _rising(values: list[Number], text: str) -> tuple[Number, ...]:
    if not values:
        raise StudyError(f"an empty list of sizes: {_HOW}")
    if any(later <= earlier for earlier, later in itertools.pairwise(values)):
        raise StudyError(f"the sizes '{text}' do not rise: put them in rising order, each once")
    if len(values) > STEPS_MOST:
        raise StudyError(f"the list of sizes '{text}' has more than {STEPS_MOST} steps: take fewer")
    return tuple(values)


def _number(text: str) -> Number:
    try:
        value = float(text)
    except ValueError:
        raise StudyError(f"'{text}' is not a size: {_HOW}") from None
    if not math.isfinite(value):
        raise StudyError(f"'{text}' is too large for a size")
    return int(value) if value.is_integer() and abs(value) < 2**53 else value


def _plain(value: object) -> Number:
    if isinstance(value, bool) or not isinstance(value, (int, float)) or not math.isfinite(value):
        raise StudyError(f"{value!r} is not a size: {_HOW}")
    return value
