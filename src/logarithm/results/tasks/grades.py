"""What was seen of a class: a row for each submission."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, ClassVar

from ..base import Frames, Part, Result, presenter
from ..lines import LineFinding

if TYPE_CHECKING:
    import pandas as pd

CORRECT, INCORRECT, FAILS, BROKEN, UNSEEN = "correct", "incorrect", "fails", "broken", "not assessed"
FORBIDDEN = "not allowed"
MEETS, EXCEEDS, OPEN = "meets", "exceeds", "open"


class Grade(Part):
    """One submission.

    Attributes:
        name, file: what it is called.
        verdict: correct, incorrect, fails (raises, never ends …), broken (does not load), not allowed
            (breaks a rule), or not assessed.
        detail: why, in a sentence; empty where it is correct.
        orders: the order of its steps on each family, "" where it is open.
        requirement: whether that is within what is asked: meets, exceeds, open; "" where nothing is asked.
        exceeds: the families on which it is not.
        time, steps: how many times those of the reference, on the family on which that is most; None where they are not
            known. The time is that at `size`, on the family `time_on`.
        low, high: of the time, with 99 %; `steps_low`, `steps_high`: of the steps, at the largest sizes.
        traps: what else is worth telling.
        lines: where its steps are, by line.
        steps_at, reference_at: its work by family, as [size, count], and the reference's.
        require: the order that is asked for; "" where nothing is.
        marks: how many; None where nobody gives any.
        most: how many there are to be had.
        open_parts: the parts of the marks of which the measurements do not tell.
        cases: the fixed cases by name, "" where the answer is right, else what was answered.
        wrong_on: the families on which an answer is wrong, or there is none.
        trap_kinds: the kinds of traps that were found.
        function: that was asked for.
        late: how late it came, in the words of the table of names.
        person: or group, of whom it is.
    """

    name: str
    file: str
    verdict: str
    detail: str = ""
    orders: dict[str, str] = {}
    requirement: str = ""
    exceeds: list[str] = []
    time: float | None = None
    low: float | None = None
    high: float | None = None
    steps: float | None = None
    steps_low: float | None = None
    steps_high: float | None = None
    time_on: str = ""
    size: float | None = None
    traps: list[str] = []
    lines: list[LineFinding] = []
    steps_at: dict[str, list[list[float]]] = {}
    reference_at: dict[str, list[list[float]]] = {}
    require: str = ""
    marks: float | None = None
    open_parts: list[str] = []
    most: float = 0.0
    cases: dict[str, str] = {}
    wrong_on: list[str] = []
    trap_kinds: list[str] = []
    function: str = ""
    late: str = ""
    person: str = ""


class Class(Result):
    """What a class handed in. `weaknesses` are sentences on what the instructor should look at."""

    _frames: ClassVar[Frames] = {"rows": Grade}

    study: str
    question: str
    logbook: str
    rows: list[Grade]
    weaknesses: list[str]

    @property
    def families(self) -> list[str]:
        """The families on which steps were counted."""
        return list(dict.fromkeys(family for row in self.rows for family in row.orders))

    @property
    def functions(self) -> list[str]:
        """The functions that were asked for."""
        return list(dict.fromkeys(row.function for row in self.rows))

    def totals(self) -> dict[str, tuple[float, float]]:
        """Of each person the marks for all functions, and how many there are to be had."""
        made: dict[str, tuple[float, float]] = {}
        for row in self.rows:
            given, most = made.get(row.person, (0.0, 0.0))
            made[row.person] = given + (row.marks or 0.0), most + row.most
        return made

    def to_frame(self, part: str | None = None) -> pd.DataFrame:
        """The class as a table: the columns of its CSV with their values, and what else is known of each submission.

        Raises:
            LogarithmError: where there is no such part.
        """
        frame = super().to_frame(part).drop(columns=["orders", "steps_at", "reference_at", "lines"])
        frame = frame.rename(columns={"name": "submission", "requirement": "required order"})
        for at, family in enumerate(self.families):
            frame.insert(4 + at, family, [row.orders.get(family, "") for row in self.rows])
        return frame

    def pages(self, folder: str | Path) -> Path:
        """Write a page for each submission, to hand back. Returns the folder."""
        presenter().write_pages(self, Path(folder))
        return Path(folder)


class SelfCheck(Class):
    """What was seen of one's own file before it is handed in; `weaknesses` says what was not looked at."""
