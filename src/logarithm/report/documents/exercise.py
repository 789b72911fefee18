"""What students read of an exercise, and of their own look at what they have."""

from __future__ import annotations

from collections.abc import Iterator

from ...errors import counted, named
from ...notation import words
from ...notation.encoding import decoded
from ...notation.orders import pretty
from ...protocol import answers
from ...results.exercise import Exercise
from ...results.grades import SelfCheck
from ..document import Document, Line, Section, Table, sections_of, told
from .grades import submission

PARTS = {
    "right": "Right. Every answer is checked, on small and large inputs that nobody knows before.",
    "order": "Order. The work may grow as {order}, and not faster.",
    "time": "Time. At most {times} times that of the reference solution.",
    "steps": "Steps. At most {times} times those of the reference solution.",
    "input": "Leave the input as it is.",
    "silent": "Print nothing.",
}


def exercise(found: Exercise) -> Document:
    """The page that students get."""
    given = f"One file with your name, such as yourname.py, that defines the function {found.function}, of one input."
    rules: list[Line] = [given]
    if found.imports is not None:
        rules.append(f"It may import {named(list(found.imports), 20) or 'nothing'}.")
    rules.append("A call may take 2 seconds for small inputs, and 1 GiB of memory. It runs without a network.")
    cases = Table(("case", "input", "answer", "marks"))
    for each in found.cases:
        shown = answers.shown(each.answer, 60)
        cases.rows.append((each.name, repr(decoded(each.instance))[:120], shown, f"{each.marks:g}"))
    check = "Before you hand in: logarithm check yourname.py --exercise exercise.json"
    families = [f"{words.name(name)}: {doc}" if doc else words.name(name) for name, doc in found.families.items()]
    return Document(
        words.name(found.name),
        found.question,
        "",
        sections_of(
            Section("hand-in", "What to hand in", rules),
            Section("cases", "Examples", [], [cases]),
            Section("inputs", "Kinds of input", [*families]),
            Section("marks", "What counts", list(_marks(found))),
            Section("check", "Check it yourself", [check]),
        ),
    )


def _marks(found: Exercise) -> Iterator[str]:
    for part, (worth, times) in found.marks.items():
        said = PARTS[part].format(order=pretty(found.require) or "it likes", times=f"{times:g}")
        yield f"{worth:g} {'mark' if worth == 1 else 'marks'}: {said}"
    shown = sum(each.marks for each in found.cases)
    if shown:
        yield f"{shown:g} marks: the examples above."
    if found.hidden:
        yield f"And {counted(found.hidden, 'further case')} that you do not see."


def own_check(found: SelfCheck) -> Document:
    """What was seen of one's own file."""
    made = submission(found.rows[0], found)
    return Document(made.title, made.subtitle, made.facts, [*made.sections, told(found.weaknesses)])
