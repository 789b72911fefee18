"""What a class handed in: which files, under which names. Nothing in them is read here.

This module needs nothing but the standard library, because a worker process imports it beside the code under study.
"""

from __future__ import annotations

import ast
import csv
import re
import unicodedata
from collections import Counter
from collections.abc import Sequence
from pathlib import Path

from ...errors import StudyError, named

UNSEEN = "\u115f\u1160\u3164\uffa0\u2800\u034f\u180e"  # letters and marks that are blank
TWINS = str.maketrans(
    "аеорсухіјѕһԁԛԝвкмнтАВЕКМНОРСТУХІЈЅΑΒΕΖΗΙΚΜΝΟΡΤΥΧαοντυρ0l1|",
    "aeopcyxijshdqwbkmhtABEKMHOPCTYXIJSABEZHIKMNOPTYXaovtupoiii",
)
"""Letters of other alphabets, and figures, that look like Latin ones."""


def handed_in(pattern: str, folder: Path, table: Path | None = None) -> tuple[list[tuple[Path, str, str]], list[str]]:
    """The files that count, each with a name and how late it came; and beside them what is left out, with why.

    Args:
        pattern: such as "handed-in/*.py", from the folder on.
        folder: of the study.
        table: of names, see `read_names`; None where files are called as they are.

    Raises:
        StudyError: where there is no file, or the table cannot be read.
    """
    files, left = found_files(pattern, folder)
    told = {} if table is None else read_names(table)
    last = {name: file for file, (name, _) in told.items()}
    found = []
    for file, called in zip(files, names_of(files, folder), strict=True):
        name, late = told.get(file.name, (called, ""))
        if last.get(name, file.name) != file.name:
            left.append(f"{shown_name(file.name)}: {shown_name(last[name])} was handed in later")
        else:
            found.append((file, name, late))
    return found, left


def found_files(pattern: str, folder: Path) -> tuple[list[Path], list[str]]:
    """The files that are named like a pattern, and beside them what is not, each with why.

    Args:
        pattern: such as "handed-in/*.py", from the folder on.
        folder: of the study.

    Raises:
        StudyError: where there is none.
    """
    root = Path(Path(pattern).anchor) if Path(pattern).is_absolute() else folder
    files = sorted(root.glob(str(Path(pattern).relative_to(root)) if root != folder else pattern))
    if not files:
        raise StudyError(f"no file is named like '{pattern}' in {folder}: nothing was handed in")
    ending = Path(pattern).suffix
    beside = {each for parent in {file.parent for file in files} for each in parent.iterdir()} - {*files}
    left = []
    for each in sorted(beside):
        if each.name.startswith((".", "__")):
            continue
        why = "it is a folder" if each.is_dir() else f"its name does not end in {ending}"
        left.append(f"{shown_name(each.name)}: {why}")
    return files, left


def folder_of(pattern: str, folder: Path) -> Path:
    """The folder that a pattern begins with, in which everything that was handed in must lie.

    >>> folder_of("handed-in/*/best.py", Path("course")).as_posix()
    'course/handed-in'
    """
    parts = Path(pattern).parts
    fixed = next((at for at, part in enumerate(parts) if set(part) & {*"*?["}), len(parts) - 1)
    return folder.joinpath(*parts[:fixed])


def names_of(files: Sequence[Path], folder: Path) -> list[str]:
    r"""A name for each file, in one safe form, each another one.

    >>> names_of([Path("in/anna.py"), Path("in/bo\u202e.py"), Path("in/bo\u200b.py")], Path("in"))
    ['anna', 'bo�', 'bo� (2)']
    """
    stems = Counter(file.stem for file in files)
    made, seen = [], Counter[str]()
    for file in files:
        whole = file.relative_to(folder) if file.is_relative_to(folder) else file
        name = shown_name(file.stem if stems[file.stem] == 1 else str(whole.with_suffix("")))
        seen[name] += 1
        made.append(name if seen[name] == 1 else f"{name} ({seen[name]})")
    return made


def shown_name(name: str) -> str:
    r"""A name as it may be shown anywhere: nothing in it turns, hides or breaks text.

    >>> shown_name("Do\u0308rte\n\u202ex"), shown_name("=1+2"), shown_name("\u2800")
    ('Dörte��x', '=1+2', '�')
    """
    made = unicodedata.normalize("NFC", name)
    hidden = ("C", "Zl", "Zp")
    kept = (
        "\ufffd" if unicodedata.category(each).startswith(hidden) or each in UNSEEN else " " if each.isspace() else each
        for each in made
    )
    return re.sub(" +", " ", "".join(kept)).strip() or "\ufffd"


def as_people_sort(name: str) -> tuple[str, str]:
    """The place of a name in a list that people read: letters with marks beside those without, whatever their case.

    >>> sorted(["Dörte", "anna", "Zoe", "dora"], key=as_people_sort)
    ['anna', 'dora', 'Dörte', 'Zoe']
    """
    bare = "".join(each for each in unicodedata.normalize("NFKD", name) if not unicodedata.combining(each))
    return re.sub(r"\d+", lambda found: found[0].zfill(12), bare.casefold()), name


def read_names(path: Path) -> dict[str, tuple[str, str]]:
    """Who handed in which file, and how late: a CSV table with the columns file, name and, where there, late.

    Of two files under one name, the one further down counts.

    Raises:
        StudyError: where it cannot be read, or has no such columns.
    """
    try:
        rows = list(csv.DictReader(path.read_text(encoding="utf-8-sig").splitlines()))
    except (OSError, UnicodeDecodeError, csv.Error) as error:
        raise StudyError(f"{path}: the names cannot be read: {error}") from None
    if not rows or not {"file", "name"} <= set(rows[0]):
        raise StudyError(f"{path}: a table of names has the columns file, name and, where there, late")
    return {row["file"].strip(): (shown_name(row["name"] or ""), (row.get("late") or "").strip()) for row in rows}


def look_alike(names: Sequence[str]) -> list[list[str]]:
    """Names that a reader may take for one another.

    >>> look_alike(["anna", "bo", "аnna"])
    [['anna', 'аnna']]
    """
    groups: dict[str, list[str]] = {}
    for name in names:
        plain = unicodedata.normalize("NFKC", name).translate(TWINS).casefold().replace("\ufffd", "").replace(" ", "")
        groups.setdefault(plain.translate(TWINS), []).append(name)
    return [group for group in groups.values() if len(group) > 1]


def imported(text: str) -> list[tuple[str, int]]:
    r"""The modules that a text imports, by its syntax tree, with their lines; none where it cannot be read.

    >>> imported("import os.path\nfrom math import pi")
    [('os.path', 1), ('math', 2)]
    """
    try:
        tree = ast.parse(text)
    except (SyntaxError, ValueError, RecursionError, MemoryError):
        return []
    found = []
    for node in ast.walk(tree):
        if isinstance(node, ast.Import):
            found += [(each.name, node.lineno) for each in node.names]
        elif isinstance(node, ast.ImportFrom):
            found.append((node.module or ".", node.lineno))
        elif isinstance(node, ast.Name) and node.id in ("__import__", "exec", "eval", "compile"):
            found.append((node.id, node.lineno))
    return found


def rule_broken(found: Sequence[tuple[str, int]], allowed: Sequence[str] | None) -> str:
    """What is imported and not allowed, in a sentence; empty where nothing is. None allows everything.

    >>> rule_broken([("os.path", 1)], ["math"])
    'uses os.path (line 1), which is not allowed: it may import math'
    """
    if allowed is None:
        return ""
    may = named([*allowed]) or "nothing"
    for name, line in found:
        if name.split(".")[0] not in allowed:
            return f"uses {name} (line {line}), which is not allowed: it may import {may}"
    return ""
