"""What a study asks of a class: functions to hand in, and fixed cases."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from ...errors import StudyError
from ...notation import orders
from ..options import Options
from ..parts import NO_ANSWER, Case, Contender, Source
from .handed_in import folder_of, handed_in, shown_name
from .marks import Asked, read_marks, read_open


def elsewhere(*_: Any) -> None:
    """Stand for code that is not run in this process: programs in other languages, and what was handed in."""
    raise StudyError("this contender is run in a process of its own only")


class Exercises:
    """The part of a study that asks for submissions.

    Attributes:
        contenders: of the study; each submission becomes one.
        asked: by function, what is asked of everyone.
        cases: the fixed ones.
        left_out: files that are none of anyone, each with why.
        folder: from which patterns of files go.
    """

    contenders: list[Contender]
    asked: dict[str, Asked]
    cases: list[Case]
    left_out: tuple[str, ...]
    folder: Path

    def submissions(
        self,
        pattern: str,
        *,
        function: str,
        reference: str = "",
        operations: Sequence[str] = (),
        require: str | None = None,
        families: Sequence[str] | None = None,
        marks: Mapping[str, Any] | None = None,
        open: str = "ask",
        imports: Sequence[str] | None = None,
        names: str | Path | None = None,
    ) -> None:
        """Add a contender for each file that was handed in. None of them is run in this process.

        Of files with several functions, each is asked for by a call of its own, with a `reference` of its own.

        Args:
            pattern: the files, such as "handed-in/*.py", from the study's folder on, or from the current one in a
                notebook. Files of C, JavaScript and Java (.c, .js, .java) are built and run where the machine can; time
                alone tells their order.
            function: the function that each must have, or a class with `operations`.
            reference: the contender whose answers are right; the baseline if none is named.
            operations: the methods of a class. An instance is then a list of calls, such as
                [("add", 3), ("next",)], that are made on one new object; the answer is the list of their answers.
            require: the order that its steps may not exceed, such as "n log n".
            families: the families they are judged on, if not all.
            marks: what each part is worth: {"right": 5, "order": 3, "time": (2, 1.5)}. "right" is shared by the
                families, and cases have their own; "order" is given where steps grow as asked; "time" and "steps" where
                they are at most so many times the reference's, or twice; "input" for leaving the input as it is, and
                "silent" for printing nothing.
            open: what becomes of marks of which the measurements do not tell: "ask" leaves them to you, "give" gives
                them.
            imports: the modules that Python may import, such as ["math", "heapq"]; all if nothing is said.
            names: a CSV table of who handed in which file: file, name (of a person or a group) and, where there, late.
                Of two files under one name the one further down counts.

        Raises:
            StudyError: where nothing was handed in, a name is taken, or the marks cannot be read.
        """
        if function in self.asked:
            raise StudyError(f"submissions(function={function!r}) is said twice: one pattern may name several folders")
        allowed = None if imports is None else tuple(imports)
        worth = read_marks(marks or {})
        self.asked[function] = Asked(function, reference, worth, read_open(open), allowed, tuple(operations))
        found, left = handed_in(pattern, self.folder, None if names is None else self.folder / names)
        self.left_out = tuple(dict.fromkeys((*self.left_out, *left)))
        order = None if require is None else str(orders.parse(require))
        if len(self.asked) == 2:  # the first was named by its file alone
            self.contenders = [
                each if each.source is None else replace(each, name=f"{each.name}: {each.source.function}")
                for each in self.contenders
            ]
        for file, called, late in found:
            name = called if len(self.asked) == 1 else f"{called}: {function}"
            if any(other.name == name for other in self.contenders):
                raise StudyError(f"the file '{shown_name(file.name)}' is named as a contender is: rename one")
            self.contenders.append(
                Contender(
                    name=name,
                    code=elsewhere,
                    options=Options(families=None if families is None else tuple(families)),
                    source=Source(
                        str(file), function, str(folder_of(pattern, self.folder)), tuple(operations), late, called
                    ),
                    require=order,
                    doc=shown_name(file.name),
                )
            )

    def case(
        self,
        name: str,
        instance: Any,
        *,
        answer: Any = NO_ANSWER,
        marks: float = 1.0,
        shown: bool = False,
        function: str = "",
    ) -> None:
        """Add a fixed case that every submission is asked: study.case("nothing at all", [], answer=0, marks=1).

        Args:
            name: what it is called in tables and pages.
            instance: the input.
            answer: the right answer; that of the reference where none is given.
            marks: what a right answer is worth, beside the marks of the families.
            shown: whether the hand-out shows it; else students meet it when they are assessed.
            function: which one it is for, where several are asked for.

        Raises:
            StudyError: where the name is taken, or marks are no number of 0 or more.
        """
        if any(each.name == name for each in self.cases):
            raise StudyError(f"two cases are named '{name}': rename one")
        if type(marks) not in (int, float) or marks < 0:
            raise StudyError(f"case '{name}': marks={marks!r} is not a number of 0 or more")
        self.cases.append(Case(name, instance, answer, float(marks), shown, function))
