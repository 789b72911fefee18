"""Logarithm: how the cost of each implementation grows, and where one overtakes another."""

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from .api.compare import across, contrast
    from .api.findings import import_table, read_logbook
    from .api.notebook import machine, race
    from .api.study import Study
    from .counting.tallies import tally
    from .errors import LogarithmError
    from .statistics.growth.fit import fit_growth
    from .study import families
    from .testing import expect_faster, expect_order
    from .worst_case import keeps

from .version import __version__

__all__ = [
    "LogarithmError",
    "Study",
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
    "race",
    "read_logbook",
    "tally",
]

_HOMES = {
    "LogarithmError": "errors",
    "Study": "api.study",
    "across": "api.compare",
    "contrast": "api.compare",
    "expect_faster": "testing",
    "expect_order": "testing",
    "fit_growth": "statistics.growth.fit",
    "import_table": "api.findings",
    "machine": "api.notebook",
    "race": "api.notebook",
    "read_logbook": "api.findings",
    "tally": "counting.tallies",
}
_MODULES = {"families": "study.families", "keeps": "worst_case.keeps"}


def __getattr__(name: str) -> Any:
    """Load a public name where it is first used, so that the command line answers at once."""
    from importlib import import_module

    if name in _MODULES:
        return import_module(f".{_MODULES[name]}", __name__)
    if name not in _HOMES:
        raise AttributeError(f"module 'logarithm' has no attribute '{name}'")
    return getattr(import_module(f".{_HOMES[name]}", __name__), name)
