"""Write docs/api.md from the docstrings of what Python users call.

Run it from the project's folder, in the environment that Logarithm is installed in:

python docs/write_api.py
"""

from __future__ import annotations

import inspect
import json
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any, get_type_hints

import logarithm
from logarithm import errors, families
from logarithm.study.run_options import RunOptions

OURS = ("check", "check_sizes", "the_contender", "the_family")  # methods of a study that a run asks
PAGE = Path(__file__).with_name("api.md")
FUNCTIONS = (
    *("race", "read_logbook", "import_table", "contrast", "across", "machine"),
    *("fit_growth", "expect_order", "expect_faster", "tally"),
)
RESULTS = (
    *("Findings", "Logbook", "Rehearsal", "Verdicts", "Search", "Walk", "Class", "Contrast", "Contrasts", "Across"),
    *("Forecast", "PairsInDepth", "GrowthsInDepth", "Lines", "Conditions"),
)


def methods_of(kind: type) -> list[str]:
    """The public methods of a class, those of every result left to their own section."""
    shared = _shared(kind)
    return [
        name
        for name in dir(kind)
        if not name.startswith("_") and name not in (*shared, *OURS) and inspect.isroutine(getattr(kind, name))
    ]


def _shared(kind: type) -> set[str]:
    """What a result has of all results, and does no other way."""
    from logarithm.results.base import Result

    if not issubclass(kind, Result):
        return set()
    return {name for name in vars(Result) if getattr(kind, name, None) is vars(Result)[name]} | {"cell"}


def signature_of(name: str, thing: Any) -> str:
    """The signature of a function as a line of Python; of a class, that of making one.

    >>> signature_of("tally", logarithm.tally)
    'def tally(name: str, amount: int = 1) -> None: ...'
    """
    made = inspect.signature(thing)
    parts = []
    star = False
    parameters = list(made.parameters.values())
    for at, each in enumerate(parameters):
        text = {each.VAR_POSITIONAL: "*", each.VAR_KEYWORD: "**"}.get(each.kind, "") + each.name
        star |= each.kind is each.VAR_POSITIONAL
        if each.kind is each.KEYWORD_ONLY and not star:
            parts.append("*")
            star = True
        if each.annotation is not each.empty:
            text += f": {_shown(each.annotation)}"
        if each.default is not each.empty:
            plain = isinstance(each.default, str | int | float | tuple | None)
            shown = json.dumps(each.default) if isinstance(each.default, str) else repr(each.default)
            text += f" = {shown if plain else '...'}"
        parts.append("self" if at == 0 and text == "study: Asked" else text)
        follows = parameters[at + 1].kind if at + 1 < len(parameters) else None
        if each.kind is each.POSITIONAL_ONLY and follows is not each.POSITIONAL_ONLY:
            parts.append("/")
    returns = "None" if inspect.isclass(thing) else _shown(made.return_annotation)
    return f"def {name}({', '.join(parts)}) -> {returns}: ..."


def _shown(annotation: Any) -> str:
    return annotation if isinstance(annotation, str) else getattr(annotation, "__name__", str(annotation))


def described(name: str, thing: Any, level: int) -> Iterator[str]:
    """A heading, the signature and the docstring of one thing."""
    yield f"{'#' * level} {name}\n"
    if not inspect.isclass(thing) or thing is logarithm.Study:
        yield f"    {signature_of(name.split('.')[-1], thing)}\n"
    yield inspect.cleandoc(thing.__doc__ or "") + "\n"


def options() -> Iterator[str]:
    """The options of a run, which the command line, a study's TOML and Python share."""
    yield "## Options of a run\n"
    yield f"{inspect.cleandoc(RunOptions.__doc__ or '')}\n"
    for name, hint in get_type_hints(RunOptions, include_extras=True).items():
        yield f"- `{name}`: {hint.__metadata__[0]}"
    yield ""


def written() -> str:
    """The page."""
    from logarithm.results.base import Result

    lines = ["# Logarithm from Python\n", "Written by `docs/write_api.py` from the docstrings.\n"]
    lines += described("Study", logarithm.Study, 2)
    for method in methods_of(logarithm.Study):
        lines += described(f"Study.{method}", getattr(logarithm.Study, method), 3)
    lines += options()
    lines.append("## Every result\n")
    for method in ("render", "page", "json", "to_frame"):
        lines += described(method, getattr(Result, method), 3)
    for name in RESULTS:
        kind = getattr(logarithm, name)
        lines += described(name, kind, 2)
        for method in methods_of(kind):
            lines += described(f"{name}.{method}", getattr(kind, method), 3)
    lines.append("## Functions\n")
    for name in FUNCTIONS:
        lines += described(name, getattr(logarithm, name), 3)
    lines.append("## Errors\n")
    lines += [
        f"- `{name}`: {inspect.cleandoc(getattr(errors, name).__doc__ or '').splitlines()[0]}"
        for name in logarithm.__all__
        if name.endswith("Error")
    ]
    lines.append("\n## Ready-made families\n")
    lines += [f"- `families.{make.__name__}`: {inspect.cleandoc(make.__doc__ or '')}" for make in families.ALL]
    lines.append("\n## What instances may be kept\n")
    keeping = logarithm.keeps
    lines += [
        f"- `keeps.{name}`: {inspect.cleandoc(check.__doc__ or '').splitlines()[0]}"
        for name, check in vars(keeping).items()
        if inspect.isfunction(check) and not name.startswith("_") and check.__module__ == keeping.__name__
    ]
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    PAGE.write_text(written(), encoding="utf-8")
    sys.stdout.write(f"{PAGE}\n")
