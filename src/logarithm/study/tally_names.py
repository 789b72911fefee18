"""The names under which a study's code tallies, read from its text, so that a misspelt metric is refused at once."""

from __future__ import annotations

import ast
from collections.abc import Iterable
from pathlib import Path

from ..errors import StudyError, guess, there
from ..notation.metrics import ASKED, METRICS
from .study import Study


def tally_names(file: Path) -> tuple[list[str], bool]:
    """The names in calls of `tally` in a Python file and the modules beside it that it imports.

    Returns:
        the names, and whether these are all: not where a name is computed, or a file cannot be read.
    """
    names: dict[str, None] = {}
    are_all = True
    waiting, seen = [file], {file}
    while waiting:
        try:
            tree = ast.parse(waiting.pop().read_text(encoding="utf-8"))
        except (OSError, ValueError, SyntaxError):
            are_all = False
            continue
        called = {"tally"}
        for node in ast.walk(tree):
            if isinstance(node, ast.ImportFrom):
                called |= {each.asname for each in node.names if each.name == "tally" and each.asname}
            for module in _imported(node):
                beside = file.parent / f"{module}.py"
                if beside not in seen and beside.exists():
                    seen.add(beside)
                    waiting.append(beside)
        for node in ast.walk(tree):
            if not isinstance(node, ast.Call) or _name(node.func) not in called or not node.args:
                continue
            first = node.args[0]
            if isinstance(first, ast.Constant) and isinstance(first.value, str):
                names[first.value] = None
            else:
                are_all = False
    return list(names), are_all


def check_metrics(study: Study, metrics: Iterable[str]) -> None:
    """Raise a StudyError for a metric that nothing counts, with the names there are."""
    asked = [metric for metric in metrics if metric not in METRICS or not METRICS[metric].ranked]
    if not asked:
        return
    file = study.file
    names, are_all = tally_names(file) if file is not None and file.suffix == ".py" else ([], False)
    handed_in = any(contender.source is not None for contender in study.contenders)
    for metric in asked:
        if metric in names or not are_all or handed_in:
            continue
        known = [*ASKED, *names]
        raise StudyError(f"nothing counts '{metric}': {there(known, 40)}{guess(metric, known)}")


def _imported(node: ast.AST) -> list[str]:
    if isinstance(node, ast.Import):
        return [each.name.split(".")[0] for each in node.names]
    if isinstance(node, ast.ImportFrom) and node.module and node.level < 2:
        return [node.module.split(".")[0]]
    return []


def _name(called: ast.expr) -> str:
    return called.id if isinstance(called, ast.Name) else getattr(called, "attr", "")
