"""The trials of a logbook as a table: tidy, a row a trial, or wide, a column a contender."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from ...errors import TableError

if TYPE_CHECKING:
    import pandas as pd

    from ..memory import Logbook

FORMULA = ("=", "+", "-", "@", "\t", "\r")


def exported(logbook: Logbook, kind: str, wide: bool = False) -> str:
    """The trials of a logbook as a table in a text.

    Args:
        logbook: what was observed. The calibration, heat 0, is left out.
        kind: one of `FORMATS`.
        wide: a column a contender instead of a row a trial.

    Raises:
        TableError: where there is no such kind.
    """
    if kind not in FORMATS:
        raise TableError(f"'{kind}' is not a kind of table: the file's name ends in .{' or .'.join(FORMATS)}")
    return FORMATS[kind](logbook.to_frame(wide, calibration=False))


def _as_csv(frame: pd.DataFrame) -> str:
    """CSV; cells that a spreadsheet would take for a formula get an apostrophe, which `imported` takes off again."""
    safe = frame.map(_defused).rename(columns=_defused)
    return str(safe.to_csv(index=False, lineterminator="\n"))


def _as_json(frame: pd.DataFrame) -> str:
    return str(frame.to_json(orient="records", indent=1, double_precision=15)) + "\n"


FORMATS: dict[str, Callable[[pd.DataFrame], str]] = {"csv": _as_csv, "json": _as_json}
"""How a table of trials is written, by the ending of the file's name."""


def _defused(cell: object) -> object:
    return f"'{cell}" if isinstance(cell, str) and cell.startswith(FORMULA) else cell
