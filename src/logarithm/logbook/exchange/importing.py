"""Tables of numbers measured elsewhere, brought into a logbook.

A tidy table has one row a trial, with the columns contender, size and value, and where there second (size), family,
heat, metric, stage and unit. A wide table has a column of sizes and one column a contender; rows that repeat a size
are further heats. What times are in may stand in a heading, "sweep (ms)", in a column "unit", or be said; where two of
these differ nothing is read; it may stand in each cell, too: 143.9 ms. Where there is no column of sizes, contenders
are compared with each other. Headings that stand again further down begin another table, of another family: the line
above them names it. Every cell that cannot be used is named by its line and column.
"""

from __future__ import annotations

import math
import re
from collections import Counter
from collections.abc import Iterator, Sequence
from pathlib import Path

from ...errors import TableError, there
from ...notation.metrics import BESIDE
from ...notation.sizes import plain
from ..records import WITHOUT_SIZE, AnyRecord, ContenderRecord, FamilyRecord, Header, Note, StudyRecord, Trial
from .tables import BLANKS, ONLY_FAMILY, UNITS, Cell, Table, cells_of, tables_in, unit_named

TABLE_SIZE_MOST = 1e300
POINT = re.compile(r"[+-]?\d{1,3}(,\d{3})+(\.\d+)?")  # 1,000.5
COMMA = re.compile(r"[+-]?\d{1,3}(\.\d{3})+(,\d+)?")  # 1.000,5


def imported(
    path: Path, unit: str | None = None, columns: dict[str, str] | None = None, baseline: str | None = None
) -> list[AnyRecord]:
    """The records of a logbook made from a CSV table.

    Args:
        path: the table; commas, semicolons or tabs between cells. Decimal commas and thousands are understood.
        unit: what times are in where the table does not say it: ns, us, ms or s; seconds if nothing is said. Other
            metrics are taken as they are.
        columns: other headings for the known columns, {"value": "nanos"}.
        baseline: the contender that others are compared with.

    Raises:
        TableError: naming line and column of what cannot be used.
    """
    if unit is not None and unit not in UNITS:
        raise TableError(f"'{unit}' is not a unit of time: write --unit ns, us, ms or s")
    tables = tables_in(path, columns or {})
    trials = [trial for table in tables for trial in _trials(table, unit)]
    if not trials:
        raise TableError(f"{path}: the table has headings but no row with a value")
    contenders = list(dict.fromkeys(trial.contender for trial in trials))
    families = list(dict.fromkeys(trial.family for trial in trials))
    if baseline is not None and baseline not in contenders:
        raise TableError(f"{path} has no contender '{baseline}' to be the baseline: {there(contenders)}")
    seconds = sorted({trial.second for trial in trials if trial.second is not None})
    names = [(columns or {}).get("size", "n"), (columns or {}).get("second", "k")] if seconds else []
    return [
        Header(software="imported"),
        StudyRecord(
            name=path.stem,
            file=path.name,
            names=names,
            seconds=seconds,
            axis="size" if any(table.has_size for table in tables) else WITHOUT_SIZE,
        ),
        *(ContenderRecord(name=name, baseline=name == baseline) for name in contenders),
        *(FamilyRecord(name=name) for name in families),
        *trials,
        *_notes(trials),
    ]


def _notes(trials: Sequence[Trial]) -> Iterator[Note]:
    """What to know before anything is believed."""
    if len(trials) > 1 and max(trial.heat for trial in trials) <= 1:
        yield Note(
            topic="single",
            text="each size has one row, so noise cannot be judged: give each size several rows",
        )


def _trials(table: Table, said: str | None) -> Iterator[Trial]:
    seen: Counter[tuple[object, ...]] = Counter()
    lines: dict[tuple[object, ...], int] = {}
    for cell in cells_of(table):
        size = _size(table, cell, "size") if table.has_size else 1.0
        second = _size(table, cell, "second") if "second" in cell.keys else None
        metric = cell.keys.get("metric") or "time"
        bare, in_cell = _measured(cell.text) if metric == "time" else (cell.text, None)
        value = _number(table, cell.line, cell.column, bare)
        if value < 0 or (metric == "time" and value == 0):
            what = "a time is more than 0" if metric == "time" else "it is negative"
            raise TableError(f"{table.path}, line {cell.line}, column '{cell.column}': {cell.text} cannot be: {what}")
        family, stage = cell.keys.get("family") or table.family or ONLY_FAMILY, cell.keys.get("stage") or None
        place = (cell.contender, family, stage, metric, size, second)
        seen[place] += 1
        heat = seen[place]
        if cell.keys.get("heat"):
            given = _number(table, cell.line, "heat", cell.keys["heat"])
            if not given.is_integer() or not 0 <= given < 2**31:
                raise TableError(
                    f"{table.path}, line {cell.line}, column 'heat': '{cell.keys['heat']}' is not a whole number"
                )
            heat = int(given)
            first = lines.setdefault((*place, heat), cell.line)
            # A first look, heat 0, may have taken place more than once.
            if heat and first != cell.line and metric not in BESIDE:
                raise TableError(
                    f"{table.path}, line {cell.line}: heat {heat} of {cell.contender} at this size stands in line "
                    f"{first} already: take one out, or number the heats"
                )
        where = plain(size), None if second is None else plain(second)
        trial = Trial(
            contender=cell.contender,
            family=family,
            size=where[0],
            second=where[1],
            stage=stage,
            metric=metric,
            heat=heat,
        )
        if metric == "time":
            trial.elapsed = value * UNITS[_unit_of(table, cell, in_cell, said)]
        else:
            trial.value = value
        yield trial


def _size(table: Table, cell: Cell, column: str) -> float:
    """The size in a column, whose absolute value is that of a number that can be drawn."""
    size = _number(table, cell.line, column, cell.keys[column])
    if size <= 0 and column == "size":
        raise TableError(f"{table.path}, line {cell.line}, column 'size': {cell.keys[column]} cannot be: more than 0")
    if abs(size) > TABLE_SIZE_MOST:
        raise TableError(f"{table.path}, line {cell.line}, column '{column}': {cell.keys[column][:20]} is too large")
    return size


def _measured(text: str) -> tuple[str, str | None]:
    """A cell as its number and the unit that stands beside it.

    >>> _measured("143.9 ms"), _measured("35µs"), _measured("12"), _measured("1e-3 s")
    (('143.9', 'ms'), ('35', 'us'), ('12', None), ('1e-3', 's'))
    """
    found = re.fullmatch(r"(.*?[0-9.])\s*([^\W\d_]+)", text.strip())
    unit = unit_named(found[2]) if found is not None else None
    return (found[1], unit) if found is not None and unit is not None else (text, None)


def _unit_of(table: Table, cell: Cell, in_cell: str | None, said: str | None) -> str:
    """What a time is in: as its cell, its row, its heading or the user says.

    Raises:
        TableError: where these differ, or it is none that is known.
    """
    where = f"{table.path}, line {cell.line}, column"
    of_row = None
    if cell.keys.get("unit"):
        of_row = unit_named(cell.keys["unit"])
        if of_row is None:
            raise TableError(f"{where} 'unit': '{cell.keys['unit']}' is not a unit of time: write ns, us, ms or s")
    told = {each: None for each in (in_cell, of_row, cell.unit, said) if each is not None}
    if len(told) > 1:
        both = " or in ".join(told)
        raise TableError(f"{where} '{cell.column}': is it in {both}? The table and --unit must say the same")
    return next(iter(told), "s")


def _number(table: Table, line: int, column: str, text: str) -> float:
    """A number as people write it.

    Raises:
        TableError: where it is none, or may be read in two ways.
    """
    bare = text.translate(BLANKS)
    if table.decimal_comma:
        if COMMA.fullmatch(bare) or "." not in bare:
            bare = bare.replace(".", "").replace(",", ".")
        elif "." in bare:
            raise TableError(
                f"{table.path}, line {line}, column '{column}': '{text}' has a point where others have a comma: use one"
            )
    elif POINT.fullmatch(bare):
        bare = bare.replace(",", "")
    try:
        value = float(bare)
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        shown = f"'{text[:40]}' is not a number" if text else "the cell is empty"
        raise TableError(f"{table.path}, line {line}, column '{column}': {shown}")
    return value
