"""What is asked of everyone who hands in, and what each part of it is worth."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from ...errors import StudyError, there

PARTS = ("right", "order", "time", "steps", "input", "silent")
TIMES = 2.0  # the reference's time or steps that are still worth their marks, where nothing is said


OPEN_RULES = ("ask", "give")


@dataclass(frozen=True, slots=True)
class Asked:
    """What is asked of everyone who hands in.

    Attributes:
        function: that each must have; a class where there are `operations`, its methods.
        reference: the contender that is right; the baseline where none is named.
        marks: what each part is worth, with how many times the reference's it may be.
        open_marks: what becomes of marks of which the measurements do not tell: "ask" or "give".
        imports: the modules that may be imported; None for all.
        operations: the methods of a class, of which an instance is a list of calls.
    """

    function: str
    reference: str = ""
    marks: dict[str, tuple[float, float]] = field(default_factory=dict)
    open_marks: str = "ask"
    imports: tuple[str, ...] | None = None
    operations: tuple[str, ...] = ()


def read_open(given: str) -> str:
    """What becomes of marks that are open.

    Raises:
        StudyError: where it is neither "ask" nor "give".
    """
    if given not in OPEN_RULES:
        raise StudyError(f"open={given!r}: {there([*OPEN_RULES])}")
    return given


def read_marks(given: Mapping[str, Any]) -> dict[str, tuple[float, float]]:
    """Marks by part, each with how many times the reference's it may be.

    >>> read_marks({"right": 5, "time": (2, 1.5)})
    {'right': (5.0, 2.0), 'time': (2.0, 1.5)}

    Raises:
        StudyError: where a part is unknown, or a mark is not a number of 0 or more.
    """
    made = {}
    for part, value in given.items():
        if part not in PARTS:
            raise StudyError(f"marks={{'{part}': …}}: {there(list(PARTS))}")
        worth, times = value if isinstance(value, tuple) and len(value) == 2 else (value, TIMES)
        if not all(type(each) in (int, float) and each >= 0 for each in (worth, times)):
            raise StudyError(f"marks={{'{part}': {value!r}}}: write a number, or for time and steps (2, 1.5)")
        made[part] = float(worth), float(times)
    return made
