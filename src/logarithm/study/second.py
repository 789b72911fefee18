"""A second number beside the size: another size, or what else is varied. Each value makes a slice of a family.

This module needs nothing but the standard library, because a worker process imports it beside the code under
study.
"""

from __future__ import annotations

import inspect
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from ..errors import StudyError
from ..notation import sizes
from ..notation.places import slice_name
from ..notation.sizes import Number
from .parts import Family

Sizes = str | Number | Sequence[Number]
ALONE = 2  # what a family of one size takes: that and its chance
TWO = 'a study has two sizes at most, {"n": "64..65536 *4", "k": "1..4096 *4"}: fix one more with levels'


@dataclass(frozen=True, slots=True)
class Second:
    """The second number that a study varies.

    Attributes:
        name: what it is called; families have a parameter of this name after the size.
        values: rising.
        is_size: whether costs are expected to grow with it, so that laws are named in it.
        first: what the first size is called.
    """

    name: str
    values: tuple[Number, ...]
    is_size: bool = True
    first: str = "n"

    def slices(self, family: Family, values: Sequence[Number] | None = None) -> list[Family]:
        """A family at each of some values, or of all."""
        at, of_both = self.values if values is None else values, _takes_both(family)
        return [
            replace(
                family,
                name=slice_name(family.name, self.name, value),
                whole=family.name,
                second=value,
                of_both=of_both,
            )
            for value in at
        ]

    def slice_of(self, families: Sequence[Family], name: str) -> Family | None:
        """The slice of this name, at any value; None where there is none."""
        for family in families:
            begin, end = f"{family.name}[{self.name}=", "]"
            if name.startswith(begin) and name.endswith(end):
                try:
                    value = sizes.plain(float(name[len(begin) : -1]))
                except ValueError:
                    continue
                return self.slices(family, [value])[0]
        return None


def _takes_both(family: Family) -> bool:
    """Whether a family's code takes both sizes before its chance, and not the first alone, as ready-made ones do."""
    try:
        own = inspect.signature(family.code).parameters.values()
    except (TypeError, ValueError):
        return True
    placed = [each for each in own if each.kind in (each.POSITIONAL_ONLY, each.POSITIONAL_OR_KEYWORD)]
    return any(each.kind is each.VAR_POSITIONAL for each in own) or len(placed) - len(family.values) != ALONE


def read_sizes(
    given: Sizes | Mapping[str, Sizes] | None, varies: Mapping[str, Sizes] | None = None
) -> tuple[tuple[Number, ...] | None, Second | None]:
    """The sizes of a study as they are written, and the second number where there is one.

    >>> read_sizes({"n": "8..32 *2", "k": "1..4 *2"})
    ((8, 16, 32), Second(name='k', values=(1, 2, 4), is_size=True, first='n'))

    Raises:
        StudyError: where they cannot be read, or are more than two.
    """
    named = dict(given) if isinstance(given, Mapping) else {} if given is None else {"n": given}
    if not all(isinstance(name, str) and name.isidentifier() for name in (*named, *(varies or {}))):
        raise StudyError('the names of sizes are those of parameters: sizes={"n": "8..4096", "k": "1..64"}')
    if len(named) + len(varies or {}) > 2:
        raise StudyError(TWO)
    if given is not None and not named:
        raise StudyError('no size is named: sizes={"n": "8..4096", "k": "1..64"}')
    rows = list(named.items())
    first = sizes.parse(rows[0][1]) if rows else None
    if not varies and len(rows) < 2:
        return first, None
    name, values = rows[1] if len(rows) == 2 else next(iter((varies or {}).items()))
    read = sizes.parse(values)
    if sizes.fixed(read) is None:
        raise StudyError(f"{name} has no end: give it one, such as {name} = 1..4096")
    return first, Second(name, read, len(rows) == 2, rows[0][0] if rows else "n")


def check_where(code: Callable[..., Any], first: Sequence[Number] | None, second: Second) -> None:
    """Raise a StudyError where a condition on both sizes raises, or leaves nothing to measure."""
    for value in second.values:
        for size in sizes.fixed(first) or (max(second.values), 8, 64, 4096):
            try:
                if code(size, value):
                    return
            except Exception as error:
                at = f"{second.first} = {size}, {second.name} = {value}"
                raise StudyError(f"where raises at {at}: {type(error).__name__}: {error}") from None
    raise StudyError(f"where leaves no point of {second.first} and {second.name} to measure: correct it, or the sizes")
