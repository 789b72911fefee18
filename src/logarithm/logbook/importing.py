"""Tables of numbers measured elsewhere, brought into a logbook.

A tidy table has one row a trial, with the columns contender, size and value, and where there second (size), family,
heat, metric, stage and unit. A wide table has a column of sizes and one column a contender; rows that repeat a size
are further heats. What times are in may stand in a heading, "sweep (ms)", in a column "unit", or be said; where two of
these differ nothing is read; it may stand in each cell, too: 143.9 ms. Where there is no column of sizes, contenders
are compared with each other. Headings that stand again further down begin another table, of another family: the line
above them names it. Every cell that cannot be used is named by its line and column.
"""

from __future__ import annotations

import csv
import io
import math
import re
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from ..errors import TableError, harmless, named, there
from ..notation.metrics import BESIDE
from ..notation.sizes import plain
from .exporting import FORMULA
from .records import WITHOUT_SIZE, AnyRecord, ContenderRecord, FamilyRecord, Header, Note, StudyRecord, Trial

UNITS = {"ns": 1.0, "us": 1e3, "ms": 1e6, "s": 1e9}
SPELLED = {
    **{"µs": "us", "μs": "us", "sec": "s", "second": "s", "seconds": "s", "nanoseconds": "ns", "milliseconds": "ms"},
    **{"microseconds": "us", "nanos": "ns", "micros": "us", "millis": "ms", "msec": "ms", "usec": "us", "nsec": "ns"},
}
KNOWN = ("contender", "size", "second", "value", "family", "heat", "metric", "stage", "unit")
ONLY_FAMILY = "all"
TITLES_MOST = 20  # lines above the headings
TABLE_SIZE_MOST = 1e300
IN_HEADING = re.compile(
    r"^(?P<name>.*?)\s*(?:\((?P<a>[^()]*)\)|\[(?P<b>[^\[\]]*)\]|/\s*(?P<c>\S+)|\bin (?P<d>\S+))\s*$"
)
BLANKS = str.maketrans("", "", "\u00a0\u202f' ")
POINT = re.compile(r"[+-]?\d{1,3}(,\d{3})+(\.\d+)?")  # 1,000.5
COMMA = re.compile(r"[+-]?\d{1,3}(\.\d{3})+(,\d+)?")  # 1.000,5
DECIMAL_COMMA = re.compile(r"[+-]?\d+,\d+([eE][+-]?\d+)?")


@dataclass(frozen=True, slots=True)
class Cell:
    """A value with the contender it belongs to, and where it stands: `column` as its heading has it."""

    contender: str
    text: str
    line: int
    column: str
    keys: dict[str, str]
    unit: str | None


@dataclass(slots=True)
class Table:
    """The cells of a table as texts, with the line that each row begins on, and the unit that a heading names."""

    path: Path
    headings: list[str]
    rows: list[tuple[int, list[str]]]
    units: dict[str, str] = field(default_factory=dict)
    decimal_comma: bool = False
    family: str = ""

    @property
    def has_size(self) -> bool:
        """Whether it has a column of sizes."""
        return "size" in self.headings

    @property
    def is_tidy(self) -> bool:
        """Whether it has a row a trial."""
        return "contender" in self.headings and "value" in self.headings


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
    tables = _tables(path, columns or {})
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
    if len(trials) > 1 and max(trial.heat for trial in trials) == 1:
        yield Note(
            topic="single",
            text="each size has one row, so noise cannot be judged: give each size several rows",
        )


def _tables(path: Path, columns: dict[str, str]) -> list[Table]:
    """The table with its known headings found, wherever it begins, and those that stand below it."""
    text = _text(path)
    separator = max(",;\t", key=text[:4000].count)
    rows: list[tuple[int, list[str]]] = []
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=separator, strict=True)
    line = 1
    try:
        for row in reader:
            if any(cell.strip() for cell in row):
                rows.append((line, [_fused(cell.strip()) for cell in row]))
            line = reader.line_num + 1
    except csv.Error as error:
        raise TableError(f"{path}, line {reader.line_num}: its quotation marks do not pair: {error}") from None
    if not rows:
        raise TableError(f"{path} is empty: it needs a line of headings")
    begins = [at for at, (_, row) in enumerate(rows) if _has_size(row, columns)]
    if begins and begins[0] >= TITLES_MOST:
        begins = []
    begins = begins or [_heading_without_size(path, rows, columns)]
    tables: list[tuple[Table, int]] = []
    for number, at in enumerate(begins):
        # What stands above further headings, and is no number, is the title of what follows.
        below = begins[number + 1] if number + 1 < len(begins) else len(rows)
        until = below
        while below < len(rows) and until - 1 > at and not any(map(_is_number, rows[until - 1][1])):
            until -= 1
        titles = [cell for _, row in rows[tables[-1][1] if tables else 0 : at] for cell in row if cell]
        tables.append((Table(path, [], rows[at + 1 : until]), until))
        made = tables[-1][0]
        if len(begins) > 1:
            made.family = titles[-1] if titles else f"table {number + 1}"
        _name_headings(made, rows[at][1], columns)
        every = [cell for _, row in made.rows for cell in row]
        made.decimal_comma = separator != "," and any(DECIMAL_COMMA.fullmatch(cell) for cell in every)
        for line, row in made.rows:
            if len(row) > len(made.headings) and any(row[len(made.headings) :]):
                raise TableError(f"{path}, line {line}: {len(row)} cells under {len(made.headings)} headings")
    return [made for made, _ in tables]


def _heading_without_size(path: Path, rows: Sequence[tuple[int, list[str]]], columns: dict[str, str]) -> int:
    """Where the headings stand of a table that has no sizes, so that contenders are compared.

    Raises:
        TableError: where it must have some, or what a column holds is not known.
    """
    wanted = columns.get("size")
    at = next((at for at, (_, row) in enumerate(rows[:TITLES_MOST]) if not any(map(_is_number, row)) and row[1:]), None)
    below = rows[at + 1][1] if at is not None and at + 1 < len(rows) else []
    headings = rows[at][1] if at is not None else rows[0][1]
    if wanted is not None or at is None or not any(map(_is_number, below)):
        raise TableError(
            f"{path} has no column '{wanted or 'size'}': its first line is {named(headings)}; name the one "
            "that holds it with --column size=HEADING"
        )
    known = {*columns.values(), *(each for each in headings if each.lower() in KNOWN)}
    texts = [name for name, cell in zip(headings, below, strict=False) if not _is_number(cell) and name not in known]
    others = [name for name, cell in zip(headings, below, strict=False) if _is_number(cell) and name not in known]
    if texts and others:
        size, sized = (f", '{others[0]}' the size", f" --column size={others[0]}") if others[1:] else ("", "")
        raise TableError(
            f"{path} has no column 'contender': is it '{texts[0]}'{size}, and '{others[-1]}' the value? "
            f"Then say --column contender={texts[0]}{sized} --column value={others[-1]}"
        )
    return at


def _is_number(cell: str) -> bool:
    """Whether a cell begins as a number does."""
    return re.match(r"[+-]?[.,]?\d", cell.translate(BLANKS)) is not None


def _text(path: Path) -> str:
    try:
        return harmless(path.read_text(encoding="utf-8-sig"))
    except FileNotFoundError:
        raise TableError(f"{path}: there is no such table") from None
    except UnicodeDecodeError:
        raise TableError(f"{path} is not in UTF-8: save the table as CSV (UTF-8)") from None
    except OSError as error:
        raise TableError(f"{path} cannot be read: {error.strerror or error}") from None


def _has_size(row: Sequence[str], columns: dict[str, str]) -> bool:
    """Whether a row may be that of the headings."""
    wanted = {columns.get("size", "size").lower(), *(() if "size" in columns else ("n",))}
    return any(cell.lower() in wanted for cell in row)


def _name_headings(table: Table, found: Sequence[str], columns: dict[str, str]) -> None:
    """Give the known columns their names, and take units out of headings.

    Raises:
        TableError: where a heading is missing, or stands twice.
    """
    path = table.path
    headings = [*found]
    while headings and not headings[-1]:
        headings.pop()
    for known, heading in columns.items():
        if known not in KNOWN:
            raise TableError(f"--column {known}={heading}: there is no column '{known}': {there(list(KNOWN))}")
        if heading not in headings:
            raise TableError(f"{path} has no column '{heading}': {there(headings)}")
    other = {heading: known for known, heading in columns.items()}
    lower = [each.lower() for each in headings]
    if "size" not in other.values() and any(small in ("size", "n") for small in lower):
        sizes = [each for each, small in zip(headings, lower, strict=True) if small in ("size", "n")]
        if len(sizes) > 1:
            raise TableError(
                f"{path} has the columns {named(sizes)}: say which is the size with "
                f"--column size={sizes[0]}, and take the other out"
            )
        other[sizes[0]] = "size"
    made = []
    for heading in headings:
        name, unit = _without_unit(heading)
        name = other.get(heading, name.lower() if name.lower() in KNOWN else name)
        if unit is not None:
            table.units[name] = unit
        made.append(name)
    twice = [name for name, count in Counter(made).items() if count > 1]
    if twice:
        raise TableError(f"{path} has two columns named '{twice[0]}': rename one")
    if "" in made:
        raise TableError(f"{path}: column {made.index('') + 1} has no heading: give it one")
    table.headings = made


def _without_unit(heading: str) -> tuple[str, str | None]:
    """A heading without the unit that stands in it, and that unit.

    >>> _without_unit("sweep (ms)"), _without_unit("grid / µs"), _without_unit("tree (old)")
    (('sweep', 'ms'), ('grid', 'us'), ('tree (old)', None))
    """
    found = IN_HEADING.match(heading)
    if found is not None:
        unit = _unit(next(each for each in found.group("a", "b", "c", "d") if each is not None))
        if unit is not None and found["name"]:
            return found["name"], unit
    return heading, None


def _unit(text: str) -> str | None:
    small = text.strip().lower()
    return small if small in UNITS else SPELLED.get(small)


def _cells(table: Table) -> Iterator[Cell]:
    """Every cell with a value; empty ones of a wide table are left out.

    Raises:
        TableError: where a column is missing.
    """
    keys = [name for name in table.headings if name in KNOWN]
    if not table.is_tidy and ("contender" in keys or "value" in keys):
        missing = "value" if "contender" in keys else "contender"
        others = [name for name in table.headings if name not in KNOWN]
        hint = (
            f": is it '{others[0]}'? Then say --column {missing}={others[0]}"
            if len(others) == 1
            else (f": name the one that holds it with --column {missing}=HEADING")
        )
        raise TableError(f"{table.path} has no column '{missing}'{hint}")
    contenders = [name for name in table.headings if name not in KNOWN]
    if not table.is_tidy and not contenders:
        raise TableError(f"{table.path} has no column beside {named(keys)}: a wide table has one for each contender")
    filled = [
        (line, dict(zip(table.headings, [*row, *[""] * len(table.headings)], strict=False))) for line, row in table.rows
    ]
    for name in ["value"] if table.is_tidy else contenders:
        for line, cells in filled:
            own = {key: cells[key] for key in keys}
            whose = cells["contender"] if table.is_tidy else name
            if not whose:
                raise TableError(f"{table.path}, line {line}, column 'contender': the cell is empty")
            if table.is_tidy or cells[name]:
                yield Cell(whose, cells[name], line, name, own, table.units.get(name))


def _trials(table: Table, said: str | None) -> Iterator[Trial]:
    seen: Counter[tuple[object, ...]] = Counter()
    lines: dict[tuple[object, ...], int] = {}
    for cell in _cells(table):
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
            if first != cell.line and metric not in BESIDE:
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
    unit = _unit(found[2]) if found is not None else None
    return (found[1], unit) if found is not None and unit is not None else (text, None)


def _unit_of(table: Table, cell: Cell, in_cell: str | None, said: str | None) -> str:
    """What a time is in: as its cell, its row, its heading or the user says.

    Raises:
        TableError: where these differ, or it is none that is known.
    """
    where = f"{table.path}, line {cell.line}, column"
    of_row = None
    if cell.keys.get("unit"):
        of_row = _unit(cell.keys["unit"])
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


def _fused(text: str) -> str:
    """A cell without the apostrophe that keeps a spreadsheet from taking it for a formula."""
    return text[1:] if text.startswith("'") and text[1:].startswith(FORMULA) else text
