"""What is asked of a class: who handed in, what counts of it, what each part is worth."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from logarithm import Study
from logarithm.errors import StudyError
from logarithm.study.exercise.handed_in import as_people_sort, look_alike, shown_name


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """A folder with what was handed in: two files, and what is none."""
    (tmp_path / "in" / "old").mkdir(parents=True)
    for name in ("anna.py", "bo.py", "notes.txt", ".hidden", "__init__.txt"):
        (tmp_path / "in" / name).write_text("def best(rises):\n    return max(rises)\n")
    return tmp_path


def course(folder: Path | None = None) -> Study:
    study = Study("peaks", sizes="8..64 *2")
    study.folder = folder or study.folder
    study.contender(max, name="reference", baseline=True)
    return study


def test_each_file_becomes_a_contender_and_the_rest_is_told(folder: Path) -> None:
    study = course(folder)
    study.submissions("in/*.py", function="best", require="n*log(n)", marks={"right": 5, "time": (2, 1.5)})
    anna, bo = (each for each in study.contenders if each.source is not None)
    assert (anna.name, bo.name, anna.require) == ("anna", "bo", "n log n")
    assert anna.source is not None and anna.source.function == "best" and Path(anna.source.file).name == "anna.py"
    assert study.left_out == ("notes.txt: its name does not end in .py", "old: it is a folder")
    asked = study.asked["best"]
    assert asked.marks == {"right": (5.0, 2.0), "time": (2.0, 1.5)} and asked.open_marks == "ask"
    with pytest.raises(StudyError, match="in a process of its own only"):
        anna.code([1])


def test_files_have_the_names_of_people_and_the_last_of_one_person_counts(folder: Path) -> None:
    (folder / "names.csv").write_text("file,name,late\nanna.py,Ada N.,2 days\nbo.py,Ada N.,\n", encoding="utf-8-sig")
    study = course(folder)
    study.submissions("in/*.py", function="best", names="names.csv")
    (only,) = (each for each in study.contenders if each.source is not None)
    assert only.name == "Ada N." and only.doc == "bo.py"
    assert "anna.py: bo.py was handed in later" in study.left_out


def test_of_two_functions_each_file_is_two_contenders(folder: Path) -> None:
    study = course(folder)
    study.submissions("in/*.py", function="best", families=["decimals"], imports=["math"])
    study.submissions("in/*.py", function="worst", reference="reference")
    names = [each.name for each in study.contenders if each.source is not None]
    assert names == ["anna: best", "bo: best", "anna: worst", "bo: worst"]
    assert study.asked["best"].imports == ("math",) and study.asked["worst"].reference == "reference"


@pytest.mark.parametrize(
    ("words", "told"),
    [
        ({"pattern": "in/*.rb"}, "no file is named like 'in/\\*.rb' in .*: nothing was handed in"),
        ({"marks": {"speed": 2}}, "marks=.*right, order, time"),
        ({"marks": {"right": "five"}}, "write a number, or for time and steps"),
        ({"marks": {"time": (2, -1)}}, "write a number, or for time and steps"),
        ({"open": "keep"}, "open='keep': .*ask.*give"),
        ({"names": "none.csv"}, "the names cannot be read"),
        ({"names": "wrong.csv"}, "has the columns file, name and, where there, late"),
        ({"require": "quick"}, "quick"),
    ],
)
def test_what_cannot_be_asked_is_told(folder: Path, words: dict[str, Any], told: str) -> None:
    (folder / "wrong.csv").write_text("who,what\nada,1\n")
    words = {"pattern": "in/*.py", **words}
    with pytest.raises(StudyError, match=told):
        course(folder).submissions(words.pop("pattern"), function="best", **words)


def test_names_are_taken_once_and_functions_asked_once(folder: Path) -> None:
    study = course(folder)
    study.contender(min, name="anna")
    with pytest.raises(StudyError, match=r"the file 'anna.py' is named as a contender is"):
        study.submissions("in/*.py", function="best")
    with pytest.raises(StudyError, match="is said twice"):
        study.submissions("in/*.py", function="best")


def test_cases_have_names_of_their_own_and_marks_of_zero_or_more() -> None:
    study = course()
    study.case("nothing at all", [], answer=0, marks=2, shown=True)
    (only,) = study.cases
    assert (only.name, only.marks, only.is_shown) == ("nothing at all", 2.0, True)
    with pytest.raises(StudyError, match="two cases are named 'nothing at all'"):
        study.case("nothing at all", [1])
    for marks in (-1, "two", None):
        with pytest.raises(StudyError, match="is not a number of 0 or more"):
            study.case(f"case {marks}", [], marks=marks)  # type: ignore[arg-type]


def test_names_that_a_reader_may_take_for_one_another_are_told() -> None:
    alike = look_alike(["anna", "аnna", "bo", "b0"])  # the second one begins with a Cyrillic letter
    assert ["anna", "аnna"] in alike
    assert look_alike(["anna", "zoe"]) == []
    assert shown_name("a\tb\u200d") == "a b\ufffd" or shown_name("a\tb\u200d").startswith("a")
    assert sorted(["b10", "b9", "Änne", "anna"], key=as_people_sort) == ["anna", "Änne", "b9", "b10"]
