"""A study from a file."""

from __future__ import annotations

import contextlib
import importlib.util
import inspect
import sys
import sysconfig
import traceback
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from types import ModuleType
from typing import Any

from ...errors import StudyError, one_line, there
from ..current import running
from ..parts import Contender
from ..study import Study
from ..tally_names import check_metrics

MODULE, FUNCTIONS = "logarithm_study", "logarithm_functions"


def load(path: str | Path) -> Study:
    """The study that a file defines: Python, which is run as a script with its folder importable, or TOML.

    Raises:
        StudyError: in one line that names the file, the line where it can be told, and what to do.

    """
    if Path(path).suffix == ".toml" and Path(path).exists():
        from . import toml

        modules: dict[Path, ModuleType] = {}

        def functions(file: Path, names: list[str]) -> list[Callable[..., Any]]:
            # A file with several functions of a study is run once.
            if file not in modules:
                modules[file] = module_of(file, f"{FUNCTIONS}_{file.stem}")
            return _functions(modules[file], file, names)

        return _checked(toml.read(Path(path), functions), path)
    studies = _studies_in(path)
    if not studies:
        raise StudyError(f'{path}: no study in this file: begin with study = Study("name")')
    if len(studies) > 1:
        raise StudyError(f"{path}: {len(studies)} studies in one file: keep each in a file of its own")
    return _checked(studies[0], path)


def has_study(path: str | Path) -> bool:
    """Whether a file defines a study; one of plain functions does not.

    Raises:
        StudyError: where it cannot be run.
    """
    return Path(path).suffix == ".toml" or bool(_studies_in(path))


def _studies_in(path: str | Path) -> list[Study]:
    module = module_of(path, MODULE)
    return list({id(value): value for value in vars(module).values() if isinstance(value, Study)}.values())


def _checked(study: Study, path: str | Path) -> Study:
    try:
        study.file = Path(path)
        study.check()
        check_metrics(study, study.counted)
    except StudyError as error:
        raise StudyError(f"{path}: {error}") from error
    return study


def module_of(path: str | Path, name: str, importable: bool = True) -> ModuleType:
    """Run a file as the module `name`, with its folder importable if that is wanted.

    Raises:
        StudyError: where it is not there, or raises; with the line.
    """
    file = Path(path)
    if not file.exists():
        raise StudyError(f"{path}: there is no such file")
    if file.suffix != ".py":
        raise StudyError(f"{path}: a study or its code is in a file whose name ends in .py or .toml")
    spec = importlib.util.spec_from_file_location(name, file.resolve())
    if spec is None or spec.loader is None:
        raise StudyError(f"{path}: Python cannot load this file")
    module = importlib.util.module_from_spec(spec)
    sys.modules[name] = module
    folder = str(file.resolve().parent)
    if importable and folder not in sys.path:
        # After the standard library, so that a file such as queue.py in it stands in nobody's way.
        library = Path(sysconfig.get_path("stdlib"))
        standard = {str(library), str(library / "lib-dynload")}
        sys.path.insert(max((at for at, each in enumerate(sys.path, 1) if each in standard), default=0), folder)
    try:
        # What a study prints while it loads must not end up among the results.
        with running(file), contextlib.redirect_stdout(sys.stderr):
            spec.loader.exec_module(module)
    except StudyError as error:
        raise StudyError(f"{_place(path, file, error)}: {error}") from error
    except SyntaxError as error:
        raise StudyError(f"{path}:{error.lineno}: Python cannot read this: {error.msg}") from error
    except KeyboardInterrupt:
        raise
    except BaseException as error:  # a study file may even call exit()
        reason = one_line(f"{type(error).__name__}: {error}".rstrip(": "))
        raise StudyError(f"{_place(path, file, error)}: running the file raised {reason}") from error
    return module


def functions_of(path: str | Path, names: list[str], importable: bool = True) -> list[Callable[..., Any]]:
    """The functions of these names in a Python file, which is run as Python runs a script.

    Where its folder is not to be `importable`, its name cannot shadow a module of the standard library.

    Raises:
        StudyError: where the file or a function is not there, or something else has the name.
    """
    return _functions(module_of(path, f"{FUNCTIONS}_{Path(path).stem}", importable), path, names)


def _functions(module: ModuleType, path: str | Path, names: list[str]) -> list[Callable[..., Any]]:
    known = [name for name, value in vars(module).items() if inspect.isroutine(value) and not name.startswith("_")]
    for name in names:
        if not callable(getattr(module, name, None)):
            there_is = there(known)
            raise StudyError(f"{path}: no function '{name}': {there_is}")
    return [getattr(module, name) for name in names]


def with_code(contender: Contender) -> Contender:
    """A contender whose code was handed in, with that code loaded; others as they are. For a worker process only.

    Raises:
        StudyError: where the file does not run, or lacks the function.
    """
    if contender.source is None:
        return contender
    code = functions_of(contender.source.file, [contender.source.function], importable=False)[0]
    return replace(contender, code=code)


def fingerprint(path: str | Path) -> str:
    """The SHA-256 of a study's file, by which a later run knows whether it has changed."""
    import hashlib  # a worker starts the sooner without it

    return hashlib.sha256(Path(path).read_bytes()).hexdigest()


def last_line(error: BaseException, file: Path) -> int | None:
    """The last line of a file that an exception came through; None where it did not."""
    own = str(file.resolve())
    lines = [frame.lineno for frame in traceback.extract_tb(error.__traceback__) if frame.filename == own]
    return lines[-1] if lines else None


def _place(path: str | Path, file: Path, error: BaseException) -> str:
    """`path:line` for the last line of the study's own file that the error came through."""
    line = last_line(error, file)
    return f"{path}:{line}" if line else str(path)
