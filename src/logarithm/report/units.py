"""Numbers for people: one unit a column, so that they can be compared by eye."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from ..errors import named
from ..notation.orders import pretty

TIME = ((1.0, "s"), (1e-3, "ms"), (1e-6, "µs"), (1e-9, "ns"))
MEMORY = ((2.0**30, "GiB"), (2.0**20, "MiB"), (2.0**10, "KiB"), (1.0, "B"))
NOTHING = "–"  # stands in a cell where there is nothing to say
JOINING = frozenset(
    (
        *("all", "as", "at", "both", "for", "from", "in", "is", "it", "never", "no", "not", "of", "on", "only"),
        *("over", "than", "that", "the", "this", "to", "up", "where", "with"),
    )
)
JOINING_TWO = frozenset(("and", "or", "leads", "overtakes", "against"))  # join two names


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
    choices = TIME if metric in ("time", "cpu") else MEMORY if metric == "memory" else ((1.0, ""),)
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


def number(value: float, digits: int = 3) -> str:
    r"""A number with so many significant digits, in plain notation, with no-break spaces between thousands.

    >>> number(0.0123456), number(1234567), number(2.0), number(99.96)
    ('0.0123', '1\xa0230\xa0000', '2.00', '100')
    """
    if value == 0 or not math.isfinite(value):
        return "0" if value == 0 else str(value)
    rounded = float(f"{value:.{digits}g}")
    magnitude = math.floor(math.log10(abs(rounded)))
    return whole(rounded) if magnitude >= digits - 1 else f"{rounded:.{digits - 1 - magnitude}f}"


def amount(value: float | None, unit: Unit) -> str:
    """A value in a unit for a table: whole counts as they are, a dash where there is none."""
    if value is None:
        return NOTHING
    is_count = not unit.name and float(value).is_integer()
    return whole(value) if is_count else number(value / unit.size)


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


def formula(text: str) -> str:
    """An order or an exact formula as people write it.

    >>> formula("n*(n-1)/2"), formula("3*n + ceil(log2(n+1))"), formula("n^2 log n")
    ('n(n−1)/2', '3n + ⌈log₂(n+1)⌉', 'n² log n')
    """
    text = re.sub(r"ceil\(((?:[^()]|\([^()]*\))*)\)", r"⌈\1⌉", text)
    text = re.sub(r"floor\(((?:[^()]|\([^()]*\))*)\)", r"⌊\1⌋", text)
    text = text.replace("log2(n)", "log₂ n").replace("log2", "log₂").replace("sqrt(n)", "√n")
    return pretty(re.sub(r"(?<=\d)\*(?=\d)", "·", text).replace("*", "")).replace("-", "−")


def times(ratio: float) -> str:
    """A ratio as people say it: "61 ×", "1.4 ×", and "1/250 ×" where it is small."""
    return f"{number(ratio, 2)} ×" if ratio >= 0.01 or ratio <= 0 else f"1/{number(1 / ratio, 2)} ×"


def name(text: str) -> str:
    """A contender's or family's name for people: underscores are spaces, control characters are gone."""
    return "".join(letter if letter.isprintable() else "�" for letter in text).replace("_", " ")


def said(text: str) -> str:
    """A name within a sentence: in quotation marks where it reads like a part of the sentence.

    >>> said("sweep"), said("every_pair"), said("as_table"), said("scan_and_keep")
    ('sweep', 'every pair', "'as table'", "'scan and keep'")
    """
    plain = name(text)
    words = plain.lower().split(" ")
    return f"'{plain}'" if words[0] in JOINING or JOINING_TWO & set(words) else plain


def listed(names: Sequence[str], most: int = 8) -> str:
    """Names in a sentence, at most so many: "sweep, grid and every pair"."""
    return named([said(each) for each in names], most)


def span(seconds: float) -> str:
    """How long something took: "28 s", "4 min 10 s"."""
    if seconds < 90:
        return f"{seconds:.0f} s" if seconds >= 1 else f"{seconds:.1f} s"
    return f"{int(seconds // 60)} min {int(seconds % 60)} s"


def evenly(count: int, most: int) -> list[int]:
    """Indices of at most so many of `count` things, evenly along them, both ends among them.

    >>> evenly(9, 3), evenly(2, 3)
    ([0, 4, 8], [0, 1])
    """
    if count <= most:
        return list(range(count))
    return [round(index * (count - 1) / (most - 1)) for index in range(most)]
