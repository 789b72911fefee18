"""Logarithm: how the cost of each implementation grows, and where one overtakes another."""

from typing import TYPE_CHECKING, Any

from .version import __version__

if TYPE_CHECKING:
    from . import families
    from .api.findings import across, contrast, import_table, read_logbook
    from .api.study import Study
    from .api.tasks import machine, race
    from .counting.noting import note_calls
    from .counting.tallies import tally
    from .errors import (
        AnalysisError,
        DisagreementError,
        FamilyError,
        LogarithmError,
        LogbookError,
        MeasuringError,
        SandboxError,
        StudyError,
        TableError,
    )
    from .logbook.memory import Logbook
    from .results.findings import Findings
    from .results.logbooks.across import Across
    from .results.logbooks.contrast import Contrast, Contrasts
    from .results.tasks.depth import GrowthsInDepth, Lines, PairsInDepth
    from .results.tasks.forecast import Forecast
    from .results.tasks.grades import Class
    from .results.tasks.history import History
    from .results.tasks.machine import Conditions
    from .results.tasks.rehearsal import Rehearsal
    from .results.tasks.verdicts import Verdicts
    from .results.tasks.walk import Walk
    from .results.tasks.worst import Search
    from .statistics.growth.fit import fit_growth
    from .testing import expect_faster, expect_order
    from .worst_case import keeps

HOMES = {
    "api.findings": ("across", "contrast", "import_table", "read_logbook"),
    "api.study": ("Study",),
    "api.tasks": ("machine", "race"),
    "counting.noting": ("note_calls",),
    "counting.tallies": ("tally",),
    "errors": (
        *("AnalysisError", "DisagreementError", "FamilyError", "LogarithmError", "LogbookError", "MeasuringError"),
        *("SandboxError", "StudyError", "TableError"),
    ),
    "logbook.memory": ("Logbook",),
    "results.findings": ("Findings",),
    "results.logbooks.across": ("Across",),
    "results.logbooks.contrast": ("Contrast", "Contrasts"),
    "results.tasks.depth": ("GrowthsInDepth", "Lines", "PairsInDepth"),
    "results.tasks.forecast": ("Forecast",),
    "results.tasks.grades": ("Class",),
    "results.tasks.history": ("History",),
    "results.tasks.machine": ("Conditions",),
    "results.tasks.rehearsal": ("Rehearsal",),
    "results.tasks.verdicts": ("Verdicts",),
    "results.tasks.walk": ("Walk",),
    "results.tasks.worst": ("Search",),
    "statistics.growth.fit": ("fit_growth",),
    "testing": ("expect_faster", "expect_order"),
}
"""Every public name by the module that it comes from, where it is loaded when it is first used."""
MODULES = {"families": "families", "keeps": "worst_case.keeps"}

__all__ = [
    "Across",
    "AnalysisError",
    "Class",
    "Conditions",
    "Contrast",
    "Contrasts",
    "DisagreementError",
    "FamilyError",
    "Findings",
    "Forecast",
    "GrowthsInDepth",
    "History",
    "Lines",
    "LogarithmError",
    "Logbook",
    "LogbookError",
    "MeasuringError",
    "PairsInDepth",
    "Rehearsal",
    "SandboxError",
    "Search",
    "Study",
    "StudyError",
    "TableError",
    "Verdicts",
    "Walk",
    "__version__",
    "across",
    "contrast",
    "expect_faster",
    "expect_order",
    "families",
    "fit_growth",
    "import_table",
    "keeps",
    "machine",
    "note_calls",
    "race",
    "read_logbook",
    "tally",
]


def __getattr__(name: str) -> Any:
    """Load a public name where it is first used, so that the command line answers at once."""
    from importlib import import_module

    if name in MODULES:
        return import_module(f".{MODULES[name]}", __name__)
    for module, names in HOMES.items():
        if name in names:
            return getattr(import_module(f".{module}", __name__), name)
    raise AttributeError(f"module 'logarithm' has no attribute '{name}'")
