"""Studies typed into a notebook: written down as a file, or refused with a word on what cannot go along."""

from __future__ import annotations

import linecache
import random
import sys
import types
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from logarithm import Study
from logarithm.errors import StudyError
from logarithm.study.files.cells import file_of, written_down
from logarithm.study.files.loading import load

BEGINS = """
import math
import statistics as numbers
from collections import Counter
from logarithm import Study, families
study = Study("levels", "Which level is the highest?", sizes="8..64 *2")
"""
CELL = """
LIMIT = 3.5
KNOWN = {"ebb": [1, 2], "flood": (3, None)}

class Gauge:
    def __init__(self, levels):
        self.levels = levels
    def highest(self):
        return max(self.levels) + math.floor(LIMIT) - 3

def helper(levels):
    return Gauge(levels).highest()

@study.family
def rising(n, rng):
    return [at + rng.random() for at in range(n)]

study.family(families.decimals)

@study.contender(claim="n", baseline=True)
def by_gauge(levels):
    "Ask a gauge."
    return helper(levels)

@study.contender(claim={"rising": "n"}, ceiling="2s", levels={"step": [1, 2]})
def by_steps(levels, step):
    assert KNOWN["ebb"] and Counter(levels)
    return max(max(levels[at::step]) for at in range(step)) + numbers.mean([0, 0])

study.contender(max, name="built in")
study.agree(within=1e-9)
study.case("one alone", [4], answer=4, marks=2)
"""


@pytest.fixture
def typed(monkeypatch: pytest.MonkeyPatch) -> Callable[[str], dict[str, Any]]:
    """Run text as cells are run: it has lines, and no file."""

    def run(text: str) -> dict[str, Any]:
        name = f"<cell {len(text)}>"
        linecache.cache[name] = (len(text), None, text.splitlines(keepends=True), name)
        module = types.ModuleType("__main__")
        monkeypatch.setitem(sys.modules, "__main__", module)
        exec(compile(text, name, "exec"), vars(module))  # the test's own text
        return vars(module)

    return run


def test_a_study_of_cells_is_the_same_study_in_a_file(typed: Callable[[str], dict[str, Any]], tmp_path: Path) -> None:
    study: Study = typed(BEGINS + CELL)["study"]
    assert file_of(study) is None
    (tmp_path / "cells.py").write_text(written_down(study))
    again = load(str(tmp_path / "cells.py"))
    assert (again.name, again.question, again.sizes) == (study.name, study.question, study.sizes)
    assert [each.name for each in again.contenders] == [each.name for each in study.contenders]
    assert [each.options for each in again.contenders] == [each.options for each in study.contenders]
    assert [each.doc for each in again.contenders] == [each.doc for each in study.contenders]
    assert [(each.name, each.answer, each.marks) for each in again.cases] == [("one alone", 4, 2.0)]
    for family in study.families:
        instance = family.instance(16, 3)
        assert again.the_family(family.name).instance(16, 3) == instance
        for contender in study.contenders:
            other = again.the_contender(contender.name)
            assert other.code(instance, **dict(other.values)) == contender.code(instance, **dict(contender.values))
    assert again.agreement == study.agreement and (tmp_path / "cells.py").read_text().count("class Gauge") == 1


@pytest.mark.parametrize(
    ("cell", "told"),
    [
        ("study.contender(lambda levels: max(levels), name='short')", "is not a function with a name|no text"),
        ("held = open('/dev/null')\ndef kept(levels): return held\nstudy.contender(kept)", "'held' is a TextIOWrapper"),
        ("endless = math.inf\ndef kept(levels): return endless\nstudy.contender(kept)", "'endless' is a float"),
        ("big = 'x' * 200_000\ndef kept(levels): return big\nstudy.contender(kept)", "'big' is a str, which cannot go"),
        ("study.program('c', command=['true'])", "'c' is a program: write the study in a file"),
    ],
)
def test_what_cannot_go_along_is_told(typed: Callable[[str], dict[str, Any]], cell: str, told: str) -> None:
    with pytest.raises(StudyError, match=told):
        written_down(typed(BEGINS + cell)["study"])


def test_two_things_of_one_name_are_told(typed: Callable[[str], dict[str, Any]]) -> None:
    cell = """
def made():
    def scan(levels): return max(levels)
    return scan
study.contender(made(), name="one")
study.contender(made(), name="other")
"""
    with pytest.raises(StudyError, match="two things are called 'scan'"):
        written_down(typed(BEGINS + cell)["study"])


def test_functions_of_one_file_need_no_copy(tmp_path: Path) -> None:
    (tmp_path / "tides.py").write_text(BEGINS + CELL)
    study = load(str(tmp_path / "tides.py"))
    study.contenders = [each for each in study.contenders if each.name != "built in"]
    assert file_of(study) == tmp_path / "tides.py"
    assert study.the_family("rising").code(2, random.Random(1)) == study.the_family("rising").code(2, random.Random(1))
