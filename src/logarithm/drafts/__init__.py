"""Starters: studies that teach, workers in several languages, a log of calls, and a course of twelve weeks."""

from __future__ import annotations

import re
from pathlib import Path

from ..errors import LogarithmError, named, there

HERE = Path(__file__).parent
STUDIES = {
    "compare": "study.py",
    "cases": "study_cases.py",
    "stages": "study_stages.py",
    "counts": "study_counts.py",
    "worker": "worker.py",
    "class": "study_class.py",
    "two-sizes": "study_two_sizes.py",
    "operations": "study_operations.py",
}
DRAFTED_BESIDE = {"class": {"for-students.md": "students.md", "handed-in/example.py": "handed-in/example.py"}}
"""What is written beside a draft, by its path there, with the draft's own file."""
OTHERS = {
    ".toml": "study.toml",
    **{".c": "worker.c", ".js": "worker.js", ".java": "worker.java", ".rs": "worker.rs"},
    ".csv": "calls.csv",
}


def course() -> dict[str, str]:
    """The texts of a course of twelve weeks, by their paths from its folder on."""
    root = HERE / "course"
    files = sorted(each for each in root.rglob("*") if each.suffix in (".py", ".md"))
    return {each.relative_to(root).as_posix(): each.read_text(encoding="utf-8") for each in files}


def beside(about: str) -> dict[str, str]:
    """The texts of further files that belong to a draft, by their paths from its folder on."""
    return {path: (HERE / name).read_text(encoding="utf-8") for path, name in DRAFTED_BESIDE.get(about, {}).items()}


def draft_of(file: Path, about: str = "compare") -> str:
    """The text of a starter for a file, by its ending, and for Python by what it is about.

    Raises:
        LogarithmError: where there is none.
    """
    if file.suffix == ".py":
        if about not in STUDIES:
            raise LogarithmError(f"no draft is about '{about}': {there(list(STUDIES))}")
        text = (HERE / STUDIES[about]).read_text(encoding="utf-8")
    elif file.suffix in OTHERS:
        text = (HERE / OTHERS[file.suffix]).read_text(encoding="utf-8")
    else:
        endings = named([".py", *OTHERS])
        raise LogarithmError(f"{file}: the ending of the name says what to write: {endings}")
    python = "harbour.py:highest"
    if file.suffix == ".toml":
        # Without a file of the reader's own, the starter runs on Python's own.
        python = "builtins:max"
    named_class = re.sub(r"\W", "_", file.stem)
    return text.replace("{name}", file.name).replace("{class}", named_class).replace("{python}", python)
