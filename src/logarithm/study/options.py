"""What may be said of a contender beside its code: one type, whether it is said in Python, in TOML or on a line."""

from __future__ import annotations

import itertools
import random
import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, TypedDict

from ..errors import StudyError, guess, named
from ..notation import formulas, laws, orders, sizes
from ..notation.durations import seconds
from ..notation.laws import Names
from ..notation.sizes import Number

Levels = Mapping[str, Sequence[Any]]


class Words(TypedDict, total=False):
    """The options as users write them."""

    claim: str | Mapping[str, str] | None
    baseline: bool
    yardstick: bool
    drain: bool | None
    finish: Callable[[Any], Any] | None
    keep_gc: bool
    ceiling: str | float | None
    families: Sequence[str] | None
    sizes: str | Number | Sequence[Number] | None
    levels: Levels | None
    interpreter: str
    fails_from: str | Number | None
    operations: Sequence[str]
    grow: str


class FamilyWords(TypedDict, total=False):
    """The options of a family as users write them."""

    name: str | None
    levels: Levels | None
    format: str
    keeps: Callable[[Any], bool] | None
    change: Callable[[Any, random.Random], Any] | None


@dataclass(frozen=True, slots=True)
class Claim:
    """What the author expects: an order or, for counts, an exact formula.

    `where` names a family, a stage or a metric, or is None for everywhere. A claim `in_two` sizes is a law in both.
    """

    order: str
    where: str | None = None
    in_two: bool = False


@dataclass(frozen=True, slots=True)
class Options:
    """The options of a contender, read and checked.

    Attributes:
        claims: the orders its author expects.
        baseline: the others are compared with this one.
        yardstick: shown for comparison, not ranked.
        drain: False: time the promise alone where one is returned; None or True: drive it to its end.
        finish: called with the answer inside the timing, to wait for work that ends elsewhere.
        keep_gc: leave the garbage collector on inside the timing.
        ceiling: seconds that one call of it may take; None for the run's.
        families: those it is measured on; None for all.
        sizes: its own; None for the study's.
        levels: values of its named parameters; each makes a variant.
        interpreter: another Python to run it under; empty for this one.
        fails_from: the size from which on it is expected to fail; None where it should work at all sizes.
        operations: the methods of a class that are timed beside `build`, in place of `use`.
        grow: the one of them that brings an object from nothing to what an instance holds; empty for none.
    """

    claims: tuple[Claim, ...] = ()
    baseline: bool = False
    yardstick: bool = False
    drain: bool | None = None
    finish: Callable[[Any], Any] | None = None
    keep_gc: bool = False
    ceiling: float | None = None
    families: tuple[str, ...] | None = None
    sizes: tuple[Number, ...] | None = None
    levels: Levels = field(default_factory=dict)
    interpreter: str = ""
    fails_from: Number | None = None
    operations: tuple[str, ...] = ()
    grow: str = ""

    @classmethod
    def read(
        cls,
        words: Mapping[str, Any],
        allowed: Sequence[str] = tuple(Words.__annotations__),
        names: Names | None = None,
    ) -> Options:
        """The options that are written in `words`; `names` are those of both sizes, where there are two.

        Raises:
            StudyError: where one is not `allowed`, or cannot be used.
        """
        for word in words:
            if word not in allowed:
                known = named(list(allowed), 20)
                raise StudyError(f"a contender has no option '{word}': there are {known}{guess(word, allowed)}")
        given: dict[str, Any] = {key: value for key, value in words.items() if value is not None}
        if "claim" in given:
            given["claims"] = _claims(given.pop("claim"), names)
        if "ceiling" in given:
            given["ceiling"] = seconds(given["ceiling"])
        if "fails_from" in given:
            given["fails_from"] = _failing(given["fails_from"])
        for key in ("families", "operations"):
            if key in given:
                given[key] = tuple(given[key])
        if "sizes" in given:
            given["sizes"] = sizes.parse(given["sizes"])
        return cls(**given)


def variants(called: str, levels: Levels | None) -> list[tuple[str, dict[str, Any]]]:
    """A name and the values for each combination of levels; the plain name where there are none.

    >>> variants("grid", {"cell": [1, 4]})
    [('grid[cell=1]', {'cell': 1}), ('grid[cell=4]', {'cell': 4})]
    """
    if not levels:
        return [(called, {})]
    for key, choices in levels.items():
        if isinstance(choices, str) or not isinstance(choices, Sequence) or not choices:
            raise StudyError(f"the levels of '{key}' must be a list of values: levels={{\"{key}\": [1, 4]}}")
    combinations = itertools.product(*levels.values())
    made = [dict(zip(levels, values, strict=True)) for values in combinations]
    return [(f"{called}[{','.join(f'{key}={value}' for key, value in each.items())}]", each) for each in made]


def _failing(text: str | Number) -> Number:
    """The size from which on a failure is expected: 1000, or "n > 1000"."""
    found = re.fullmatch(r"\s*(?:\w+\s*(>=?|≥)\s*)?([0-9.eE+]+)\s*", str(text))
    try:
        size = sizes.plain(float(found[2])) if found else None
    except ValueError:
        size = None
    if found is None or size is None:
        raise StudyError(f'fails_from={text!r} is not a size: write fails_from="n > 1000"')
    return size + 1 if found[1] == ">" and isinstance(size, int) else size


def _claims(claim: str | Mapping[str, str], names: Names | None) -> tuple[Claim, ...]:
    if isinstance(claim, str):
        return (_claimed(claim, None, names),)
    if not isinstance(claim, Mapping) or not all(isinstance(each, str) for each in claim.values()):
        raise StudyError(f'claim={claim!r} is not a claim: write an order, "n log n", or one for each family')
    return tuple(_claimed(each, where, names) for where, each in claim.items())


def _claimed(text: str, where: str | None, names: Names | None) -> Claim:
    """An order as it is spelled, or an exact formula or a law in two sizes as it stands."""
    try:
        return Claim(str(orders.parse(text)), where)
    except StudyError as error:
        try:
            return Claim(formulas.parse(text).text, where)
        except StudyError:
            if names is None:
                raise error from None
            laws.parse(text, names)
            return Claim(text.strip(), where, in_two=True)
