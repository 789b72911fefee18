"""What code says: a fingerprint that changes where it, or what it calls, was edited, and nowhere else."""

from __future__ import annotations

from pathlib import Path

import pytest

from logarithm.study.files.fingerprints import fingerprint_of, fingerprint_of_program
from logarithm.study.files.loading import functions_of

CODE = """
import math
import helm

DEPTH = 3


def sound(tide):
    return tide + DEPTH


def plumb(tide):
    \"\"\"Sound it.\"\"\"
    return [sound(each) for each in tide]


def drift(tide):
    return helm.turn(tide)


far = lambda tide: len(tide)
"""


def prints(folder: Path, code: str) -> dict[str, str]:
    file = folder / f"harbour{len(list(folder.glob('*.py')))}.py"
    (folder / "helm.py").exists() or (folder / "helm.py").write_text("def turn(tide): return tide\n")
    file.write_text(code)
    names = ["plumb", "drift", "far"]
    return dict(zip(names, map(fingerprint_of, functions_of(file, names)), strict=True))


@pytest.mark.parametrize(
    ("before", "after", "changed"),
    [
        ("[sound(each) for", "[sound(each)  for", set()),
        ('"""Sound it."""', '"""Sound it twice."""  # a word', set()),
        ("sound(each) for", "sound(each) + 0 for", {"plumb"}),
        ("tide + DEPTH", "tide - DEPTH", {"plumb"}),
        ("DEPTH = 3", "DEPTH = 4", {"plumb"}),
        ("helm.turn(tide)", "helm.turn(tide) or tide", {"drift"}),
        ("len(tide)", "len(tide) + 1", {"far"}),
    ],
)
def test_a_fingerprint_changes_where_what_is_run_changes(
    tmp_path: Path, before: str, after: str, changed: set[str]
) -> None:
    first, second = prints(tmp_path, CODE), prints(tmp_path, CODE.replace(before, after))
    assert all(first.values())
    assert {name for name in first if first[name] != second[name]} == changed


def test_a_file_that_is_imported_from_beside_counts(tmp_path: Path) -> None:
    first = prints(tmp_path, CODE)
    (tmp_path / "helm.py").write_text("def turn(tide): return tide[:]\n")
    second = prints(tmp_path, CODE)
    assert {name for name in first if first[name] != second[name]} == {"drift"}


def test_a_program_is_its_command_and_its_files(tmp_path: Path) -> None:
    (tmp_path / "sweep.c").write_text("int main(void) { return 0; }\n")
    first = fingerprint_of_program(["./sweep"], ["cc", "sweep.c"], tmp_path)
    assert fingerprint_of_program(["./sweep"], ["cc", "sweep.c"], tmp_path) == first
    assert fingerprint_of_program(["./sweep", "-v"], ["cc", "sweep.c"], tmp_path) != first
    (tmp_path / "sweep.c").write_text("int main(void) { return 1; }\n")
    assert fingerprint_of_program(["./sweep"], ["cc", "sweep.c"], tmp_path) != first
    assert fingerprint_of(len) == ""
