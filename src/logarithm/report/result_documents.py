"""Which document belongs to which result."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ..results.base import Result
from ..results.findings import Findings
from ..results.logbooks.across import Across
from ..results.logbooks.contrast import Contrast, Contrasts
from ..results.tasks.depth import GrowthsInDepth, Lines, PairsInDepth
from ..results.tasks.forecast import Forecast
from ..results.tasks.grades import Class, SelfCheck
from ..results.tasks.history import History
from ..results.tasks.machine import Conditions
from ..results.tasks.rehearsal import Rehearsal
from ..results.tasks.verdicts import Verdicts
from ..results.tasks.walk import Walk
from ..results.tasks.worst import Search
from .document import Document
from .documents import compare, depth, exercise, grades, history, rehearsal, verdicts, walk, worst
from .documents.findings import first
from .documents.findings import whole as findings_document

DOCUMENTS: dict[type[Result], Callable[..., Document]] = {
    Findings: findings_document.report,
    Rehearsal: rehearsal.rehearsal,
    Conditions: rehearsal.machine,
    Verdicts: verdicts.verdicts,
    Search: worst.worst,
    Class: grades.grades,
    SelfCheck: exercise.own_check,
    Contrast: compare.contrast,
    Contrasts: compare.contrasts,
    Across: compare.across,
    PairsInDepth: depth.pairs,
    GrowthsInDepth: depth.growth,
    Lines: depth.lines,
    Forecast: depth.forecast,
    Walk: walk.walk,
    History: history.history,
}
WIDE, SCREEN = 120, 30  # columns of a text, and lines of a first screen


def document_of(result: Result, **choices: Any) -> Document:
    """The document of a result; `choices` are those of the function that makes it."""
    kind = next(kind for kind in type(result).__mro__ if kind in DOCUMENTS)
    made = DOCUMENTS[kind](result, **choices)
    if kind is Findings and not choices.get("everything") and choices.get("only") is None:
        return _on_one_screen(result, made, **choices)
    return made


def _on_one_screen(findings: Any, made: Document, width: int = WIDE, **choices: Any) -> Document:
    """The first screen of a report, with fewer lines in a section where all would be too many."""
    from .text.terminal import text

    rows: dict[str, int] = {}
    while text(made, width).count("\n") > SCREEN:
        fewer = first.one_less(made.sections, rows)
        if fewer is None:
            break
        rows = fewer
        made = findings_document.report(findings, **choices, width=width, rows=rows)
    return made
