"""The course: each week's contenders agree, its cases are right, its example answers, and its commands are there."""

from __future__ import annotations

import inspect
import random
import re
from pathlib import Path
from typing import Any

import pytest

from logarithm import Study
from logarithm.drafts import HERE, course
from logarithm.notation.sizes import fixed
from logarithm.study.files.loading import functions_of, load
from logarithm.study.parts import Contender
from logarithm.worker.timing.operations import answers

WEEKS = sorted(each for each in (HERE / "course").iterdir() if each.is_dir() and each.name[0].isdigit())


def instance_of(study: Study, name: str, size: int) -> Any:
    """An instance of a small size; of two sizes with the smallest second one."""
    code = study.the_family(name).code
    sizes = (size,) if study.second is None else (size, study.second.values[0])
    return code(*sizes, random.Random(5))


def answer(contender: Contender, instance: Any) -> Any:
    if contender.options.operations:
        return answers(contender, instance)
    return contender.code(instance)


@pytest.mark.parametrize("week", WEEKS, ids=lambda week: week.name)
def test_a_week_holds_together(week: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(week)
    study = load(week / "study.py")
    study.check()
    for family in study.families:
        for size in (fixed(study.sizes) or (8,))[:3]:
            made = [answer(each, instance_of(study, family.name, int(size))) for each in study.contenders]
            assert all(each == made[0] for each in made), (family.name, size)
    exercise = load(week / "exercise.py")
    exercise.check()
    asked = next(each for each in exercise.contenders if each.source is not None)
    reference = exercise.contenders[0].code
    assert asked.source is not None and asked.require is not None
    (own,) = functions_of(Path(asked.source.file), [asked.source.function])
    for case in exercise.cases:
        assert reference(case.instance) == case.answer == own(case.instance), case.name
    for family in exercise.families:
        for size in (1, 2, 5, 8, 16):
            instance = family.code(size, random.Random(size))
            assert reference(instance) == own(instance), (family.name, size)
    assert {each.is_shown for each in exercise.cases} == {True, False}
    told = (week / "lecture.md").read_text(encoding="utf-8")
    assert "--lines" not in told or "--metric steps" in told
    for command in re.findall(r"^    logarithm (.*)$", told, re.MULTILINE):
        for word in command.split():
            if re.fullmatch(r"[A-Za-z]\w+", word) and f"study.py {word}" in command:
                assert word in {each.name for each in study.contenders}, command


def test_there_are_twelve_weeks_with_a_page_each() -> None:
    texts = course()
    assert len(WEEKS) == 12 and len(texts) == 48
    assert all(inspect.cleandoc(text) for text in texts.values())
    assert {path.partition("/")[0] for path in texts} == {each.name for each in WEEKS}
