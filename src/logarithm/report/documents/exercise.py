"""What students read of an exercise, and of their own look at what they have."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from ...errors import counted, named
from ...notation import words
from ...notation.encoding import decoded
from ...notation.orders import pretty
from ...protocol import answers
from ...results.tasks.exercise import Exercise, Task
from ...results.tasks.grades import SelfCheck
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
    several = len(found.tasks) > 1
    parts = [section for task in found.tasks for section in _sections(task, several)]
    endings = named([f"yourname{each}" for each in found.endings]).replace(" and ", " or ")
    rules = [
        f"One file with your name, such as {endings}.",
        "A call may take 2 seconds for small inputs, and 1 GiB of memory. It runs without a network.",
    ]
    check = f"Before you hand in: logarithm check yourname{found.endings[0]} --exercise exercise.json"
    hand_in = Section("hand-in", "What to hand in", [*rules])
    return Document(
        words.name(found.name),
        found.question,
        "",
        sections_of(hand_in, *parts, Section("check", "Check it yourself", [check])),
    )


def _sections(task: Task, several: bool) -> Iterator[Section]:
    """What is said of one function; its name stands in the titles where there are several."""
    of = f": {task.function}" if several else ""
    rules: list[Line] = [f"The function {task.function}, of one input."]
    if task.operations:
        methods = named(list(task.operations), 20)
        rules = [f"The class {task.function}, made without arguments, with the methods {methods}."]
        rules.append("An input is a list of calls on one new object; the answer is the list of what they return.")
    if task.imports is not None:
        rules.append(f"It may import {named(list(task.imports), 20) or 'nothing'}.")
    yield Section(f"function-{task.function}", f"What to write{of}", rules)
    cases = Table(("case", "input", "answer", "marks"))
    for each in task.cases:
        shown = answers.shown(each.answer, 60)
        cases.rows.append((each.name, repr(decoded(each.instance))[:120], shown, f"{each.marks:g}"))
    yield Section(f"cases-{task.function}", f"Examples{of}", [], [cases])
    families = [f"{words.name(name)}: {doc}" if doc else words.name(name) for name, doc in task.families.items()]
    yield Section(f"inputs-{task.function}", f"Kinds of input{of}", [*families])
    yield Section(f"marks-{task.function}", f"What counts{of}", list(_marks(task)))


def _marks(found: Task) -> Iterator[str]:
    for part, (worth, times) in found.marks.items():
        said = PARTS[part].format(order=pretty(found.require) or "it likes", times=f"{times:g}")
        yield f"{worth:g} {'mark' if worth == 1 else 'marks'}: {said}"
    shown = sum(each.marks for each in found.cases)
    if shown:
        yield f"{shown:g} {'mark' if shown == 1 else 'marks'}: the examples above."
    if found.hidden:
        yield f"And {counted(found.hidden, 'further case')} that you do not see."


def own_check(found: SelfCheck) -> Document:
    """What was seen of one's own file."""
    made = [submission(row, found) for row in found.rows]
    if len(made) > 1:
        for row, each in zip(found.rows, made, strict=True):
            each.sections[0] = replace(each.sections[0], title=row.function)
    sections = [section for each in made for section in each.sections]
    return Document(made[0].title, made[0].subtitle, made[0].facts, [*sections, told(found.weaknesses)])
