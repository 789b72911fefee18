"""Tables of numbers measured elsewhere, brought into a logbook.

A tidy table has one row a trial, with the columns contender, size and value, and where there family, heat,
metric and stage. A wide table has a column of sizes and one column a contender; rows that repeat a size are
further heats. Every cell that cannot be used is named by its line and column.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from ..errors import TableError, named
from .records import BESIDE, AnyRecord, ContenderRecord, FamilyRecord, Header, StudyRecord, Trial

if TYPE_CHECKING:
    import pandas as pd

    from .reading import Logbook

UNITS = {"ns": 1.0, "us": 1e3, "ms": 1e6, "s": 1e9}
KNOWN = ("contender", "size", "value", "family", "heat", "metric", "stage")
ONLY_FAMILY = "all"
FORMULA = ("=", "+", "-", "@", "\t", "\r")


def imported(
    path: Path, unit: str = "s", columns: dict[str, str] | None = None, baseline: str | None = None
) -> list[AnyRecord]:
    """The records of a logbook made from a CSV table.

    Args:
        path: the table; commas, semicolons or tabs between cells. With semicolons, a decimal comma is read too.
        unit: what times are in: ns, us, ms or s. Other metrics are taken as they are.
        columns: other headings for the known columns, {"value": "nanos"}.
        baseline: the contender that others are compared with.

    Raises:
        TableError: naming line and column of what cannot be used.

    """
    if unit not in UNITS:
        raise TableError(f"'{unit}' is no unit of time here: write --unit ns, us, ms or s")
    frame, decimal_comma = _frame(path)
    frame = _renamed(frame, columns or {}, path)
    tidy = "contender" in frame.columns and "value" in frame.columns
    if not tidy:
        frame = _long(frame, path)
    trials = list(_trials(frame, UNITS[unit], decimal_comma, path))
    if not trials:
        raise TableError(f"{path}: the table has headings but no row with a value")
    contenders = list(dict.fromkeys(trial.contender for trial in trials))
    families = list(dict.fromkeys(trial.family for trial in trials))
    if baseline is not None and baseline not in contenders:
        raise TableError(f"{path} has no contender '{baseline}' to be the baseline: there are {named(contenders)}")
    return [
        Header(software="imported"),
        StudyRecord(name=path.stem, file=path.name),
        *(ContenderRecord(name=name, baseline=name == baseline) for name in contenders),
        *(FamilyRecord(name=name) for name in families),
        *trials,
    ]


def frame_of(logbook: Logbook) -> pd.DataFrame:
    """The trials of a logbook as a tidy table, a row a trial; times are seconds for one call."""
    import pandas as pd

    trials = logbook.trials
    keys = pd.DataFrame(trials.keys, columns=["contender", "family", "stage", "metric"])
    frame = keys.iloc[trials.series].reset_index(drop=True)
    sizes = trials.size.astype(int) if (trials.size == trials.size.astype(int)).all() else trials.size
    return frame.assign(size=sizes, heat=trials.heat, life=trials.life, value=trials.cost)


def exported(logbook: Logbook, kind: str, wide: bool = False) -> str:
    """The trials of a logbook as CSV or JSON.

    Args:
        logbook: what was observed. The climb, heat 0, is left out.
        kind: csv or json.
        wide: a column a contender instead of a row a trial.

    Cells that a spreadsheet would take for a formula get an apostrophe in front, which `imported` takes off again.
    """
    frame = frame_of(logbook)
    if wide:
        frame = frame[~frame["metric"].isin(BESIDE)]
    frame = frame[frame["heat"] > 0] if (frame["heat"] > 0).any() else frame
    if wide:
        keys = [key for key in ("family", "stage", "metric") if frame[key].nunique(dropna=False) > 1]
        frame = frame.assign(stage=frame["stage"].fillna("")).pivot_table(
            index=["size", *keys, "heat"], columns="contender", values="value", sort=False
        )
        frame = (
            frame[[each.name for each in logbook.contenders if each.name in frame.columns]].sort_index().reset_index()
        )
    if kind == "json":
        return str(frame.to_json(orient="records", indent=1, double_precision=15)) + "\n"
    safe = frame.map(_defused).rename(columns=_defused)
    return str(safe.to_csv(index=False, lineterminator="\n"))


def _defused(cell: object) -> object:
    return f"'{cell}" if isinstance(cell, str) and cell.startswith(FORMULA) else cell


def _fused(text: str) -> str:
    return text[1:] if text.startswith("'") and text[1:].startswith(FORMULA) else text


def _frame(path: Path) -> tuple[pd.DataFrame, bool]:
    """The table as text cells, with the line of each row as index; and whether cells may hold decimal commas."""
    import pandas as pd

    try:
        first = path.open(encoding="utf-8-sig").readline()
    except FileNotFoundError:
        raise TableError(f"{path}: there is no such table") from None
    except UnicodeDecodeError:
        raise TableError(f"{path} is no text in UTF-8: save the table as CSV (UTF-8)") from None
    except OSError as error:
        raise TableError(f"{path} cannot be read: {error.strerror or error}") from None
    separator = max(",;\t", key=first.count)
    try:
        frame = pd.read_csv(
            path, sep=separator, dtype=str, keep_default_na=False, encoding="utf-8-sig", index_col=False
        )
    except pd.errors.EmptyDataError:
        raise TableError(f"{path} is empty: it needs a line of headings") from None
    except (pd.errors.ParserError, UnicodeDecodeError, ValueError) as error:
        raise TableError(f"{path} cannot be read as a table: {str(error).splitlines()[0]}") from None
    frame.columns = [_fused(str(column).strip()) for column in frame.columns]
    frame.index = pd.RangeIndex(2, len(frame) + 2)
    return frame, separator == ";"


def _renamed(frame: pd.DataFrame, columns: dict[str, str], path: Path) -> pd.DataFrame:
    for known, heading in columns.items():
        if known not in KNOWN:
            raise TableError(
                f"--column {known}={heading}: there is no column '{known}': known are {named(list(KNOWN))}"
            )
        if heading not in frame.columns:
            raise TableError(f"{path} has no column '{heading}': there are {named(list(frame.columns))}")
    frame = frame.rename(columns={heading: known for known, heading in columns.items()})
    lower = {column: column.lower() for column in frame.columns if column.lower() in KNOWN}
    frame = frame.rename(columns=lower)
    twice = [column for column, count in Counter(frame.columns).items() if count > 1]
    if twice:
        raise TableError(f"{path} has two columns named '{twice[0]}': rename one")
    if "size" not in frame.columns:
        for other in ("n", "N"):
            if other in frame.columns:
                return frame.rename(columns={other: "size"})
        raise TableError(f"{path} has no column 'size': name the one that holds it with --column size=HEADING")
    return frame


def _long(frame: pd.DataFrame, path: Path) -> pd.DataFrame:
    """A wide table made tidy, keeping the line and heading that each cell came from; empty cells are left out."""
    keys = [column for column in frame.columns if column in KNOWN]
    if "contender" in keys or "value" in keys:
        missing = "value" if "contender" in keys else "contender"
        raise TableError(
            f"{path} has no column '{missing}': name the one that holds it with --column {missing}=HEADING"
        )
    contenders = [column for column in frame.columns if column not in KNOWN]
    if not contenders:
        raise TableError(f"{path} has no column beside '{named(keys)}': a wide table has one for each contender")
    frame = frame.assign(line=frame.index)
    long: pd.DataFrame = frame.melt([*keys, "line"], contenders, "contender", "value").set_index("line")
    return long[long["value"].str.strip() != ""]


def _trials(frame: pd.DataFrame, unit: float, decimal_comma: bool, path: Path) -> Iterator[Trial]:
    seen: Counter[tuple[object, ...]] = Counter()
    columns = {column: frame[column].tolist() for column in KNOWN if column in frame.columns}
    for row, line in enumerate(frame.index):
        cell = {column: _fused(str(values[row]).strip()) for column, values in columns.items()}
        contender = cell["contender"]
        if not contender:
            raise TableError(f"{path}, line {line}, column 'contender': the cell is empty")
        size = _number(cell["size"], path, line, "size", decimal_comma)
        metric = cell.get("metric") or "time"
        value = _number(cell["value"], path, line, _where(frame, contender), decimal_comma)
        if metric == "time" and value <= 0:
            raise TableError(
                f"{path}, line {line}, column '{_where(frame, contender)}': {cell['value']} is no time: "
                "a call takes more than nothing"
            )
        if value < 0:
            raise TableError(f"{path}, line {line}, column '{_where(frame, contender)}': {cell['value']} is negative")
        family, stage = cell.get("family") or ONLY_FAMILY, cell.get("stage") or None
        place = (contender, family, stage, metric, size)
        seen[place] += 1
        heat = seen[place]
        if cell.get("heat"):
            given = _number(cell["heat"], path, line, "heat", decimal_comma)
            if not float(given).is_integer() or given < 0:
                raise TableError(f"{path}, line {line}, column 'heat': '{cell['heat']}' is no whole number")
            heat = int(given)
        plain = int(size) if float(size).is_integer() else size
        trial = Trial(contender=contender, family=family, size=plain, stage=stage, metric=metric, heat=heat)
        if metric == "time":
            trial.elapsed = value * unit
        else:
            trial.value = value
        yield trial


def _where(frame: pd.DataFrame, contender: str) -> str:
    """The heading of the column that a value came from: the contender's own in a wide table."""
    return contender if frame.index.name == "line" else "value"


def _number(text: str, path: Path, line: object, column: str, decimal_comma: bool) -> float:
    plain = text.replace(",", ".") if decimal_comma else text
    try:
        value = float(plain)
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        shown = f"'{text}' is no number" if text else "the cell is empty"
        raise TableError(f"{path}, line {line}, column '{column}': {shown}")
    return value
