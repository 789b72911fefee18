"""A study whose functions were defined in a notebook's cells, or typed in, written down as a file of its own.

Workers are other processes, so they need the code as a file. What the functions use of their notebook goes along: other
functions and classes by their text, modules by their names, plain values as they are.
"""

from __future__ import annotations

import ast
import inspect
import linecache
import math
import symtable
import textwrap
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, fields
from pathlib import Path
from types import ModuleType
from typing import Any

from ...errors import StudyError, one_line
from ..options import Options
from ..parts import NO_ANSWER, Case, Contender, Family
from ..study import Study

PLAIN = (type(None), bool, int, float, complex, str, bytes)
VALUE_MOST = 100_000  # characters of a value that goes along


def file_of(study: Study) -> Path | None:
    """The Python file that all functions of a study stand in; None where they stand in several, or in none."""
    found = {_home(code) for code in _codes(study)} - {_home(_library)}
    paths = {Path(each) for each in found}
    if len(paths) == 1 and (path := paths.pop()).is_file() and path.suffix == ".py" and _defines(path):
        return path
    return None


def _defines(path: Path) -> bool:
    """Whether a file makes a study, so that it can be loaded as one."""
    return "Study(" in path.read_text(encoding="utf-8", errors="replace")


def written_down(study: Study) -> str:
    """The text of a file that defines the same study.

    Raises:
        StudyError: where a function has no text, or uses what cannot be written down.
    """
    text = _Text()
    families = [_family(each, text) for each in study.families]
    contenders = [_contender(each, text) for each in study.contenders]
    judge = text.name_of(study.judge) if study.judge is not None else "None"
    return "\n".join(
        [
            '"""Written by Logarithm from what was defined in a notebook."""',
            "import sys",
            f"sys.path.append({str(Path.cwd())!r})",
            "from logarithm import Study",
            "from logarithm.study.exercise.marks import Asked",
            "from logarithm.study.options import Claim, Options",
            "from logarithm.study.parts import Agreement, Contender, Family, Source",
            "from logarithm.study.second import Second",
            "from logarithm.study.exercise.exercises import elsewhere",
            *text.modules,
            *text.values,
            "",
            # First of all: methods may be marked as operations of it.
            f"study = Study({study.name!r}, {study.question!r})",
            *text.functions,
            f"study.axis, study.sizes = {study.axis!r}, {study.sizes!r}".replace("inf)", "float('inf'))"),
            *([] if study.second is None else [f"study.second = {study.second!r}"]),
            *([] if study.allowed is None else [f"study.allowed = {text.name_of(study.allowed)}"]),
            *(f"study.families.append({each})" for each in families),
            *(f"study.contenders.append({each})" for each in contenders),
            f"study.asked = {study.asked!r}",
            *(_case(each) for each in study.cases),
            f"study.ladder, study.mixes = {study.ladder!r}, {study.mixes!r}",
            f"study.agreement, study.judge, study.counted = {study.agreement!r}, {judge}, {study.counted!r}",
            "",
        ]
    )


def _case(case: Case) -> str:
    answer = "" if case.answer is NO_ANSWER else f", answer={case.answer!r}"
    told = f"marks={case.marks!r}, shown={case.is_shown!r}, function={case.function!r}"
    return f"study.case({case.name!r}, {case.instance!r}{answer}, {told})"


def _library() -> None:
    """Stands for code of this package."""


def _home(code: Any) -> str:
    code = inspect.unwrap(getattr(code, "func", code))
    try:
        file = inspect.getfile(code)
    except (TypeError, OSError):
        return ""
    own = Path(__file__).resolve().parents[1]
    return __file__ if Path(file).is_relative_to(own) and "demos" not in Path(file).parts else file


def _codes(study: Study) -> Iterator[Any]:
    yield from (each.code for each in study.families)
    yield from (each.code for each in study.contenders if each.program is None and each.source is None)


@dataclass(slots=True)
class _Text:
    """What a file needs beside the study itself: lines that import, set and define."""

    modules: list[str] = field(default_factory=list)
    values: list[str] = field(default_factory=list)
    functions: list[str] = field(default_factory=list)
    known: dict[str, Any] = field(default_factory=dict)

    def name_of(self, code: Callable[..., Any]) -> str:
        """Let a function or class go along. Returns the name it has in the file."""
        module = getattr(code, "__module__", "") or ""
        name = getattr(code, "__name__", "")
        if module not in ("", "__main__") and getattr(code, "__qualname__", "") == name and not _is_typed(code):
            if module == "builtins":
                return name
            other = f"{module}_{name}".replace(".", "_")
            if other not in self.known:
                self.known[other] = code
                self.modules.append(f"from {module} import {name} as {other}")
            return other
        source = _source_of(code)
        if not source:
            raise StudyError(
                f"'{name or code!r}' has no text that can be read: define it with def, in a cell or in a file"
            )
        if name in self.known:
            if self.known[name] is not code:
                raise StudyError(f"two things are called '{name}': give one of them another name")
            return name
        self.known[name] = code
        tree = ast.parse(source).body[0]
        if not isinstance(tree, (ast.FunctionDef, ast.AsyncFunctionDef, ast.ClassDef)):
            raise StudyError(f"'{name}' is not a function with a name: define it with def")
        plain = "\n".join(source.splitlines()[tree.lineno - 1 :])
        at = len(self.functions)
        self._bring(code, tree)
        self.functions.insert(max(at, len(self.functions)), plain + "\n")
        return name

    def _bring(self, code: Any, tree: ast.AST) -> None:
        """What a function uses of the module that it was defined in."""
        around = getattr(code, "__globals__", None)
        if around is None:
            methods = [each for each in vars(code).values() if hasattr(each, "__globals__")]
            around = methods[0].__globals__ if methods else {}
        inside = inspect.getclosurevars(code).nonlocals if inspect.isfunction(code) else {}
        used = set(_names_from_outside(symtable.symtable(ast.unparse(tree), "cell", "exec")))
        for name in sorted(used & {*around, *inside}):
            self._take(name, inside.get(name, around.get(name)))

    def _take(self, name: str, value: Any) -> None:
        if self.known.get(name) is value and name in self.known:
            return
        if isinstance(value, ModuleType):
            self.known[name] = value
            self.modules.append(f"import {value.__name__} as {name}")
        elif inspect.isfunction(value) or inspect.isclass(value) or inspect.isbuiltin(value):
            if getattr(value, "__module__", None) in ("__main__", None) or _is_typed(value):
                self.name_of(value)
            else:
                self.known[name] = value
                self.modules.append(f"from {value.__module__} import {value.__qualname__} as {name}")
        elif not isinstance(value, Study):
            self.known[name] = value
            self.values.append(f"{name} = {_plain(name, value)}")


def _source_of(code: Any) -> str:
    """The text of a function or class; of a class of a cell, which Python does not find, by one of its methods."""
    try:
        return textwrap.dedent(inspect.getsource(code))
    except (OSError, TypeError):
        if not inspect.isclass(code):
            return ""
    inside = next((each.__code__ for each in vars(code).values() if inspect.isfunction(each)), None)
    if inside is None:
        return ""
    lines = linecache.getlines(inside.co_filename)
    for node in ast.walk(ast.parse("".join(lines))):
        if isinstance(node, ast.ClassDef) and node.lineno <= inside.co_firstlineno <= (node.end_lineno or 0):
            return textwrap.dedent("".join(lines[node.lineno - 1 : node.end_lineno]))
    return ""


def _names_from_outside(table: symtable.SymbolTable) -> Iterator[str]:
    """The names in a text that are not made in it: a name that is local to a function is none of them."""
    is_top = table.get_type() == "module"
    for symbol in table.get_symbols():
        if symbol.is_referenced() and (is_top or symbol.is_global()):
            yield symbol.get_name()
    for inside in table.get_children():
        yield from _names_from_outside(inside)


def _is_typed(value: Any) -> bool:
    """Whether something was defined in a cell: its file is none."""
    if inspect.isbuiltin(value):
        return False
    try:
        return not Path(inspect.getfile(value)).is_file()
    except (TypeError, OSError):
        return False


def _plain(name: str, value: Any) -> str:
    """A value as Python writes it, where that gives the same value again."""
    text = repr(value) if _is_plain(value) else ""
    if not text or len(text) > VALUE_MOST:
        raise StudyError(
            f"'{name}' is a {type(value).__name__}, which cannot go along to the workers: make it in the function, or "
            "write the study in a file"
        )
    return text


def _is_plain(value: Any) -> bool:
    if isinstance(value, float):
        return math.isfinite(value)
    if type(value) in PLAIN:
        return True
    if type(value) in (list, tuple, set, frozenset):
        return all(map(_is_plain, value))
    return type(value) is dict and all(_is_plain(key) and _is_plain(each) for key, each in value.items())


def _family(each: Family, text: _Text) -> str:
    checks = [text.name_of(part) if part is not None else "None" for part in (each.keeps, each.change)]
    values = _plain(each.name, dict(each.values))
    return (
        f"Family({each.name!r}, {text.name_of(each.code)}, {values}, {each.doc!r}, {each.form!r}, "
        f"{checks[0]}, {checks[1]})"
    )


def _contender(each: Contender, text: _Text) -> str:
    if each.program is not None:
        raise StudyError(f"'{each.name}' is a program: write the study in a file")
    if each.expression is not None:
        raise StudyError(f"'{each.name}' is an expression: write the study in a file")
    told = []
    for option in fields(Options):
        value = getattr(each.options, option.name)
        if callable(value):
            told.append(f"{option.name}={text.name_of(value)}")
        elif value != option.default:
            told.append(f"{option.name}={one_line(repr(value), VALUE_MOST)}")
    values = _plain(each.name, dict(each.values))
    code = "elsewhere" if each.source is not None else text.name_of(each.code)
    told_of = f"{each.name!r}, {code}, {values}, Options({', '.join(told)}), {each.doc!r}"
    return f"Contender({told_of}, None, {each.source!r}, {each.require!r})"
