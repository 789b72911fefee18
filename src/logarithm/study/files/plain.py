"""A study of plain code: functions of a file or a module, or expressions, over ready-made families or an own input."""

from __future__ import annotations

import ast
import copy
import importlib
import inspect
import json
import random
import tempfile
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from ...errors import StudyError, there
from .. import families
from ..second import Sizes
from ..study import Study
from ..workers import ENDINGS, workers_of
from .loading import FUNCTIONS, functions_of, has_study, load, module_of

INPUT = "input"  # what the family of an own input is called


@dataclass(frozen=True, slots=True)
class Plain:
    """What is asked of plain code.

    Attributes:
        file: in which the functions stand: Python, the name of a module, or C, C++ or JavaScript with functions of an
            array of numbers.
        functions: their names; the first one is the baseline.
        expressions: of what the setup gives, or of `x`, an instance.
        setup: a file whose functions of (n, rng) give values by their names.
        families: names of ready-made families.
        given: an input of one's own: a file, or a value as Python writes it.
        sizes: of the instances, by name; they grow by themselves where there are none. Of an own input so many items
            from its beginning are taken.
        within, unordered: how answers agree.
    """

    file: str = ""
    functions: Sequence[str] = ()
    expressions: Sequence[str] = ()
    setup: Path | None = None
    families: Sequence[str] = ("shuffled",)
    given: str | None = None
    sizes: Mapping[str, Sizes] = field(default_factory=dict)
    within: float = 1e-9
    unordered: bool = False


@contextmanager
def study_of(plain: Plain) -> Iterator[Study]:
    """The study of plain code, in a file that goes away at the end.

    Raises:
        StudyError: where a file, a function or a family is not there, or an input cannot be read.
    """
    is_foreign = Path(plain.file).suffix in ENDINGS
    if not is_foreign:
        code_of(plain.file, plain.functions)
    names = [*plain.functions, *plain.expressions]
    sizes: Any = dict(plain.sizes) or None
    if sizes is not None and list(sizes) == [""]:
        sizes = sizes[""]
    if plain.given is not None and sizes is None:
        whole = value_of(plain.given)
        sizes = [len(whole) if hasattr(whole, "__len__") else 1]
    lines = [
        "from logarithm import Study, families",
        "from logarithm.study.files.plain import Setup, code_of, made_of",
        f"setup = Setup.of({'' if plain.setup is None else str(plain.setup.resolve())!r})",
        f"study = Study({' against '.join(names)!r}, sizes={sizes!r})",
        f"study.agree(within={plain.within!r}, unordered={plain.unordered!r})",
    ]
    if plain.given is not None:
        lines.append(f"study.family(made_of({_absolute(plain.given)!r}), name={INPUT!r}, format='lines')")
    elif plain.setup is not None:
        lines.append(f"study.family(setup.family, name={plain.setup.stem!r})")
    else:
        for name in plain.families:
            families.ready(name)
            lines.append(f"study.family(families.ready({name!r}), format='lines')")
    file = plain.file if _is_module(plain.file) else str(Path(plain.file).resolve())
    for number, name in enumerate(() if is_foreign else plain.functions):
        code = f"code_of({file!r}, [{name!r}])[0]"
        lines.append(f"study.contender({code}, name={name!r}, baseline={number == 0})")
    for number, text in enumerate(plain.expressions):
        is_first = number == 0 and not plain.functions
        lines.append(f"study.expression({text!r}, {text!r}, space=setup.space, baseline={is_first})")
    with tempfile.TemporaryDirectory() as folder:
        if is_foreign:
            for number, each in enumerate(workers_of(Path(plain.file), plain.functions, Path(folder))):
                more = f"worker={list(each.arguments)!r}, build={list(each.build)!r}, baseline={number == 0}"
                lines.append(f"study.program({each.name!r}, {more})")
        path = Path(folder) / "race.py"
        path.write_text("\n".join(lines) + "\n", encoding="utf-8")
        made = load(path)
        made.is_kept = False
        yield made


@contextmanager
def asked_of(file: Path, functions: Sequence[str], plain: Plain) -> Iterator[Study]:
    """The study in a file, or one of its plain functions where it has none or an input of one's own is given.

    Args:
        file: of a study, or of functions.
        functions: their names.
        plain: what else is asked of them.

    Raises:
        StudyError: where it cannot be used.
    """
    if plain.given is None and has_study(file):
        yield load(file)
    else:
        with study_of(replace(plain, file=str(file), functions=functions)) as made:
            yield made


def code_of(file: str, names: Sequence[str]) -> list[Callable[..., Any]]:
    """The functions of these names in a Python file or a module.

    Raises:
        StudyError: where one is not there.
    """
    if not names:
        return []
    if not _is_module(file):
        return functions_of(file, [*names])
    try:
        module = importlib.import_module(file)
    except Exception as error:  # a module may raise anything
        raise StudyError(f"there is neither a file nor a module '{file}': {error}") from None
    for name in names:
        if not callable(getattr(module, name, None)):
            raise StudyError(f"the module {file} has no function '{name}': {there(_routines(vars(module)))}")
    return [getattr(module, name) for name in names]


def _routines(space: Mapping[str, Any]) -> list[str]:
    return [name for name, value in space.items() if inspect.isroutine(value) and not name.startswith("_")]


def _is_module(file: str) -> bool:
    return not Path(file).exists() and all(part.isidentifier() for part in file.split("."))


def value_of(given: str) -> Any:
    """An input: what a file holds, or a value as Python writes it.

    A file is read as JSON where it is that, else line by line: numbers where all are, several on a line as lists.

    Raises:
        StudyError: where it can be neither.
    """
    path = Path(given)
    try:
        is_file = path.is_file()
    except (OSError, ValueError):
        is_file = False
    if not is_file:
        try:
            return ast.literal_eval(given)
        except (ValueError, SyntaxError, RecursionError):
            raise StudyError(f"--input {given} is neither a file nor a value such as '[1, 4, 2]'") from None
    try:
        text = path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise StudyError(f"--input {given} cannot be read: {error}") from None
    try:
        return json.loads(text)
    except ValueError:
        return _lines_of(text)


def _lines_of(text: str) -> list[Any]:
    """The lines of a text: numbers, lists of numbers, or texts."""
    rows = text.splitlines()
    try:
        numbers = [[_number(each) for each in row.replace(",", " ").split()] for row in rows if row.strip()]
    except ValueError:
        return rows
    return [row[0] for row in numbers] if all(len(row) == 1 for row in numbers) else numbers


def _number(text: str) -> int | float:
    try:
        return int(text)
    except ValueError:
        return float(text)


def _absolute(given: str) -> str:
    path = Path(given)
    return str(path.resolve()) if len(given) < 4096 and "\n" not in given and path.is_file() else given


def made_of(given: str) -> Callable[[int, random.Random], Any]:
    """A family of one's own input: so many items from its beginning, the whole where it has no more or no items."""
    whole = value_of(given)

    def own(n: int, rng: random.Random) -> Any:  # noqa: ARG001 - there is one instance of a size
        if isinstance(whole, list | tuple | str) and n < len(whole):
            return copy.deepcopy(whole[:n])
        return copy.deepcopy(whole)

    return own


@dataclass(frozen=True, slots=True)
class Setup:
    """A file of what expressions use: functions of (n, rng) give the value of their name, all else stands as it is.

    Of two sizes, these are functions of both, (n, k, rng).
    """

    makers: Mapping[str, Callable[..., Any]] = field(default_factory=dict)
    space: Mapping[str, Any] = field(default_factory=dict)

    @classmethod
    def of(cls, file: str) -> Setup:
        """The setup in a file; nothing where none is named.

        Raises:
            StudyError: where it cannot be run, or gives no value.
        """
        if not file:
            return cls()
        space = vars(module_of(file, f"{FUNCTIONS}_{Path(file).stem}"))
        makers = {name: value for name, value in space.items() if inspect.isfunction(value) and _is_maker(value)}
        if not makers:
            raise StudyError(f"{file}: no function of (n, rng), or (n, k, rng): each gives the value of its name")
        return cls(makers, {name: value for name, value in space.items() if name not in makers})

    def family(self, *given: Any) -> dict[str, Any]:
        """The values at a size, or at two: `given` are the sizes and the chance."""
        *sizes, rng = given
        return {name: make(*sizes[: _sizes_of(make)], rng) for name, make in self.makers.items()}


def _is_maker(function: Callable[..., Any]) -> bool:
    """Whether a function gives a value of one or two sizes and a `random.Random`."""
    return [*inspect.signature(function).parameters][-1:] == ["rng"] and _sizes_of(function) in (1, 2)


def _sizes_of(function: Callable[..., Any]) -> int:
    return len(inspect.signature(function).parameters) - 1
