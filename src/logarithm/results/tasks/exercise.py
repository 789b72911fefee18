"""What students get of an exercise, as plain values: neither the reference, nor its answers to what is not shown."""

from __future__ import annotations

from typing import Any

import msgspec

from ...notation.sizes import Number

FORMAT, VERSION = "logarithm-exercise", 2


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


class Task(msgspec.Struct):
    """One function that is to be written.

    Attributes:
        function: its name; that of a class where there are `operations`, its methods.
        require: the order that is asked for; empty for none.
        imports: the modules that may be imported; None for all.
        marks: what each part is worth, with how many times the reference's it may be.
        families: by name, what they are.
        cases: those that are shown; `hidden` is the number of the others.
        samples: instances of the families.
    """

    function: str
    operations: list[str]
    require: str
    imports: list[str] | None
    marks: dict[str, tuple[float, float]]
    families: dict[str, str]
    cases: list[ShownCase]
    hidden: int
    samples: list[Sample]


class Exercise(msgspec.Struct):
    """What students get.

    Attributes:
        name, question: what is asked.
        endings: of the files that are handed in.
        within, unordered: how answers must agree; `refereed` where a function says whether one is right.
        tasks: the functions that are to be written.
    """

    name: str
    question: str
    endings: list[str]
    within: float
    unordered: bool
    refereed: bool
    tasks: list[Task]
    format: str = FORMAT
    version: int = VERSION
