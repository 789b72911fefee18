"""The contenders and families of a study: what they are called, and how one is put, found or replaced."""

from __future__ import annotations

import inspect
import sys
from typing import Any, TypeVar

from ..errors import StudyError, there
from .checks import unknown
from .options import Options
from .parts import STAGES, Contender, Family

Thing = TypeVar("Thing", "Contender", "Family")


def found_by_name(things: list[Thing], name: str, kind: str) -> Thing:
    """The contender or family of a name.

    Raises:
        StudyError: where there is none.
    """
    for thing in things:
        if thing.name == name:
            return thing
    raise StudyError(f"the study has no {kind} '{name}', {unknown([thing.name for thing in things])}")


def name_of(code: Any, name: str | None, kind: str) -> str:
    """What a function or class is called.

    Raises:
        StudyError: where it is none, or has no name.
    """
    if not callable(code):
        raise StudyError(f"a {kind} must be a function, not {type(code).__name__}")
    called = name if name is not None else getattr(code, "__name__", "")
    if not called or called == "<lambda>":
        raise StudyError(f'a {kind} without a name: give one, name="…"')
    return called


def put(things: list[Thing], made: Thing, kind: str) -> None:
    """Add a contender or family; one of a notebook's cell that was run again takes the place of what it was."""
    at = next((at for at, each in enumerate(things) if each.name == made.name), len(things))
    if at < len(things) and not _is_run_again(things[at].code, made.code):
        raise StudyError(f"two {kind} are named '{made.name}': rename one")
    things[at : at + 1] = [made]


def _is_run_again(code: Any, other: Any) -> bool:
    """Whether two functions are one that stands in a cell of a notebook, which was run again."""
    names = [(getattr(each, "__module__", ""), getattr(each, "__qualname__", "")) for each in (code, other)]
    return names[0] == names[1] and names[0][0] == "__main__" and not hasattr(sys.modules.get("__main__"), "__file__")


def first_line(code: Any) -> str:
    """The first line of a docstring; empty where there is none."""
    return next(iter((inspect.getdoc(code) or "").splitlines()), "")


def check_stages(code: Any, called: str, options: Options) -> None:
    """Raise a StudyError where a class lacks what its stages or operations need."""
    operations = options.operations
    if options.grow and options.grow not in operations:
        raise StudyError(f"'{called}' grows by {options.grow}, which is none of its operations: {there([*operations])}")
    if not inspect.isclass(code):
        if operations:
            raise StudyError(f"'{called}' has operations and is no class: they are methods of one")
        return
    for stage in ("build", *operations) if operations else STAGES:
        if not callable(getattr(code, stage, None)):
            wanted = f"build, {', '.join(operations)}" if operations else "build and use"
            raise StudyError(f"the class '{called}' has no method {stage}: it needs {wanted}")
