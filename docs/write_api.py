"""Write docs/api.md from the docstrings of what Python users call.

Run it from the project's folder, in the environment that Logarithm is installed in:

python docs/write_api.py
"""

from __future__ import annotations

import inspect
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from logarithm.api.compare import Across, Contrast
from logarithm.api.shown import ShownClass, ShownSearch, ShownVerdicts, ShownWalk
from logarithm.report.text.rehearsal import Rehearsal

import logarithm
from logarithm.api.findings import ShownFindings, ShownLogbook
from logarithm.api.study import Study
from logarithm.study import families
from logarithm.worst_case import keeps as keeping

PAGE = Path(__file__).with_name("api.md")
PARTS: list[tuple[str, Any, tuple[str, ...]]] = [
    (
        "Study",
        Study,
        (
            *("family", "contender", "program", "submissions", "agree", "referee", "count", "vary", "family_from"),
            *("rehearse", "measure", "measure_on", "verify", "worst", "walk", "assess"),
        ),
    ),
    ("Rehearsal", Rehearsal, ()),
    (
        "Findings",
        ShownFindings,
        (*("report", "to_frame", "plot", "page", "forecast", "crossover", "growth_in_depth", "verify", "logbook"),),
    ),
    ("Logbook", ShownLogbook, ("findings", "to_frame", "forecast", "crossover", "growth_in_depth")),
    ("Verdicts", ShownVerdicts, ("to_frame",)),
    ("Worst cases", ShownSearch, ("keep", "plot", "to_frame")),
    ("Walk", ShownWalk, ("plot", "page")),
    ("Class", ShownClass, ("to_frame", "pages")),
    ("Contrast", Contrast, ("to_frame",)),
    ("Across", Across, ()),
]
FUNCTIONS = (
    *("race", "read_logbook", "import_table", "contrast", "across", "machine"),
    *("fit_growth", "expect_order", "expect_faster", "tally"),
)


def described(name: str, thing: Any, level: int) -> Iterator[str]:
    """A heading, the signature and the docstring of one thing."""
    yield f"{'#' * level} {name}\n"
    try:
        signature = str(inspect.signature(thing)).replace("'", "")
        yield f"    {name.split('.')[-1]}{signature}\n"
    except (TypeError, ValueError):
        pass
    text = inspect.cleandoc(thing.__doc__ or "")
    yield text + "\n"


def written() -> str:
    """The page."""
    lines = ["# Logarithm from Python\n", "Written by `docs/write_api.py` from the docstrings.\n"]
    for name, kind, methods in PARTS:
        lines += described(name, kind, 2)
        for method in methods:
            lines += described(f"{name}.{method}", getattr(kind, method), 3)
    lines.append("## Functions\n")
    for name in FUNCTIONS:
        lines += described(name, getattr(logarithm, name), 3)
    lines.append("## Ready-made families\n")
    lines += [f"- `families.{make.__name__}`: {inspect.cleandoc(make.__doc__ or '')}" for make in families.ALL]
    lines.append("\n## What instances may be kept\n")
    lines += [
        f"- `keeps.{name}`: {inspect.cleandoc(check.__doc__ or '').splitlines()[0]}"
        for name, check in vars(keeping).items()
        if inspect.isfunction(check) and not name.startswith("_") and check.__module__ == keeping.__name__
    ]
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    PAGE.write_text(written(), encoding="utf-8")
    sys.stdout.write(f"{PAGE}\n")
