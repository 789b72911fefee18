"""The trials of a logbook as a table: tidy, a row a trial, or wide, a column a contender."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from ...errors import TableError
from ...notation.metrics import BESIDE

if TYPE_CHECKING:
    import pandas as pd

    from ..memory import Logbook

FORMULA = ("=", "+", "-", "@", "\t", "\r")


def frame_of(logbook: Logbook) -> pd.DataFrame:
    """The trials of a logbook as a tidy table, a row a trial; times are seconds for one call."""
    import pandas as pd

    trials = logbook.trials
    keys = pd.DataFrame(trials.keys, columns=["contender", "family", "stage", "metric"])
    frame = keys.iloc[trials.series].reset_index(drop=True)
    sizes = trials.size.astype(int) if (trials.size == trials.size.astype(int)).all() else trials.size
    if logbook.slices:
        # As the study has it: the family and the second size of a slice.
        whole = {name: each.family for name, each in logbook.slices.items()}
        second = {name: each.second for name, each in logbook.slices.items()}
        frame = frame.assign(
            second=frame["family"].map(second), family=frame["family"].map(lambda each: whole.get(each, each))
        )
    return frame.assign(size=sizes, heat=trials.heat, process=trials.process, value=trials.cost)


def wide_frame_of(logbook: Logbook) -> pd.DataFrame:
    """The trials of a logbook with a column a contender, a row for each size and heat."""
    frame = frame_of(logbook)
    frame = _heats(frame[~frame["metric"].isin(BESIDE)])
    several = {"family": len(logbook.families) > 1, "second": True}
    there_is = [key for key in ("second", "family", "stage", "metric") if key in frame.columns]
    keys = [key for key in there_is if several.get(key) or frame[key].nunique(dropna=False) > 1]
    frame = frame.assign(stage=frame["stage"].fillna("")).pivot_table(
        index=["size", *keys, "heat"], columns="contender", values="value", sort=False
    )
    there = [each.name for each in logbook.contenders if each.name in frame.columns]
    return frame[there].sort_index().reset_index()


def _heats(frame: pd.DataFrame) -> pd.DataFrame:
    """A table without calibration, where there is more than that."""
    return frame[frame["heat"] > 0] if (frame["heat"] > 0).any() else frame


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
    return FORMATS[kind](wide_frame_of(logbook) if wide else _heats(frame_of(logbook)))


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
