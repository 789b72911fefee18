"""Logbooks and findings for a notebook: they show themselves as tables and figures.

from logarithm import read_logbook
logbook = read_logbook("logbooks/closest-buoys.jsonl")
logbook.findings()      # the answer, and the growth view
logbook.to_frame()      # every trial, as a pandas table
"""

from __future__ import annotations

from dataclasses import fields
from pathlib import Path
from typing import TYPE_CHECKING

from .analysis.analyse import analyse
from .analysis.findings import Findings
from .logbook.exporting import frame_of
from .logbook.reading import Logbook
from .logbook.reading import read_logbook as read

if TYPE_CHECKING:
    import pandas as pd


class ShownFindings(Findings):
    """Findings that show themselves."""

    def _repr_html_(self) -> str:
        from .report.page.page import fragment

        return fragment(self)


class ShownLogbook(Logbook):
    """A logbook that shows what was found in it."""

    def findings(self) -> ShownFindings:
        """Everything that can be concluded from it."""
        found = analyse(self)
        return ShownFindings(**{name: getattr(found, name) for name in Findings.__struct_fields__})

    def to_frame(self) -> pd.DataFrame:
        """The trials as a table: contender, family, stage, metric, size, heat, life, value (seconds for time)."""
        return frame_of(self)

    def _repr_html_(self) -> str:
        return self.findings()._repr_html_()


def read_logbook(path: str | Path) -> ShownLogbook:
    """Read a logbook. Nothing in it is run.

    Raises:
        LogbookError: where there is no such file, or it is no logbook of a version that is known.
    """
    found = read(path)
    return ShownLogbook(**{each.name: getattr(found, each.name) for each in fields(found)})
