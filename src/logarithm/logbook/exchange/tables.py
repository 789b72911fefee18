"""Tables as they stand in a file: cells, headings, and where a table begins."""

from __future__ import annotations

import csv
import io
import re
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from ...errors import TableError, harmless, named, there
from .exporting import FORMULA

UNITS = {"ns": 1.0, "us": 1e3, "ms": 1e6, "s": 1e9}
SPELLED = {
    **{"µs": "us", "μs": "us", "sec": "s", "second": "s", "seconds": "s", "nanoseconds": "ns", "milliseconds": "ms"},
    **{"microseconds": "us", "nanos": "ns", "micros": "us", "millis": "ms", "msec": "ms", "usec": "us", "nsec": "ns"},
}
KNOWN = ("contender", "size", "second", "value", "family", "heat", "metric", "stage", "unit")
ONLY_FAMILY = "all"
TITLES_MOST = 20  # lines above the headings
IN_HEADING = re.compile(
    r"^(?P<name>.*?)\s*(?:\((?P<a>[^()]*)\)|\[(?P<b>[^\[\]]*)\]|/\s*(?P<c>\S+)|\bin (?P<d>\S+))\s*$"
)
BLANKS = str.maketrans("", "", "\u00a0\u202f' ")
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


def tables_in(path: Path, columns: dict[str, str]) -> list[Table]:
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
        unit = unit_named(next(each for each in found.group("a", "b", "c", "d") if each is not None))
        if unit is not None and found["name"]:
            return found["name"], unit
    return heading, None


def unit_named(text: str) -> str | None:
    """The unit of time that a text names, ns, us, ms or s; None where it names none."""
    small = text.strip().lower()
    return small if small in UNITS else SPELLED.get(small)


def cells_of(table: Table) -> Iterator[Cell]:
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


def _fused(text: str) -> str:
    """A cell without the apostrophe that keeps a spreadsheet from taking it for a formula."""
    return text[1:] if text.startswith("'") and text[1:].startswith(FORMULA) else text
