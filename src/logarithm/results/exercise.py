"""What students get of an exercise, as plain values: neither the reference, nor its answers to what is not shown."""

from __future__ import annotations

from typing import Any

import msgspec

from ..notation.sizes import Number

FORMAT, VERSION = "logarithm-exercise", 1


class ShownCase(msgspec.Struct):
    """A case that students see: its input and right answer, written down."""

    name: str
    instance: Any
    answer: Any
    marks: float


class Sample(msgspec.Struct):
    """An instance of a family, on which work is counted."""

    family: str
    size: Number
    instance: Any


class Exercise(msgspec.Struct):
    """What students get.

    Attributes:
        name, question, function: what is asked, and the function that is to be written.
        require: the order that is asked for; empty for none.
        imports: the modules that may be imported; None for all.
        within, unordered: how answers must agree; `refereed` where a function says whether one is right.
        marks: what each part is worth, with how many times the reference's it may be.
        families: by name, what they are.
        cases: those that are shown; `hidden` is the number of the others.
        samples: instances of the families.
    """

    name: str
    question: str
    function: str
    require: str
    imports: list[str] | None
    within: float
    unordered: bool
    refereed: bool
    marks: dict[str, tuple[float, float]]
    families: dict[str, str]
    cases: list[ShownCase]
    hidden: int
    samples: list[Sample]
    format: str = FORMAT
    version: int = VERSION
