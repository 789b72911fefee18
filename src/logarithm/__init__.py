"""Logarithm: how the cost of each implementation grows, and where one overtakes another."""

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from .analysis.growth.fit import fit_growth
    from .asking import Study
    from .counting.tallies import tally
    from .errors import LogarithmError
    from .expecting import expect_faster, expect_order
    from .notebook.comparing import across, contrast
    from .notebook.findings import import_table, read_logbook
    from .notebook.running import machine, race
    from .searching import keeping as keeps
    from .study import families

__version__ = "0.1.0"

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
    "Study": "asking",
    "across": "notebook.comparing",
    "contrast": "notebook.comparing",
    "expect_faster": "expecting",
    "expect_order": "expecting",
    "fit_growth": "analysis.growth.fit",
    "import_table": "notebook.findings",
    "machine": "notebook.running",
    "race": "notebook.running",
    "read_logbook": "notebook.findings",
    "tally": "counting.tallies",
}
_MODULES = {"families": "study.families", "keeps": "searching.keeping"}


def __getattr__(name: str) -> Any:
    """Load a public name where it is first used, so that the command line answers at once."""
    from importlib import import_module

    if name in _MODULES:
        return import_module(f".{_MODULES[name]}", __name__)
    if name not in _HOMES:
        raise AttributeError(f"module 'logarithm' has no attribute '{name}'")
    return getattr(import_module(f".{_HOMES[name]}", __name__), name)
