"""The calls that a program makes: a file with their sizes, and where it says so how often, on which family."""

from __future__ import annotations

import csv
import io
import math
from collections import Counter
from dataclasses import dataclass
from pathlib import Path

from ..errors import TableError, there

COLUMNS = ("size", "count", "family", "second")


@dataclass(frozen=True, slots=True)
class Calls:
    """How often each (size, family, second size) is called; no family and no second size where the file says none."""

    source: str
    counts: dict[tuple[float, str | None, float | None], float]


def read_calls(path: Path) -> Calls:
    """The calls in a file: a CSV table with the columns size, count, family, second, or a size on each line.

    Raises:
        TableError: naming the line of what cannot be used.
    """
    try:
        text = path.read_text(encoding="utf-8-sig")
    except FileNotFoundError:
        raise TableError(f"{path}: there is no such file of calls") from None
    except (OSError, UnicodeDecodeError) as error:
        raise TableError(f"{path} cannot be read: {error}") from None
    rows = [(line, row) for line, row in enumerate(csv.reader(io.StringIO(text)), start=1) if any(map(str.strip, row))]
    if not rows:
        raise TableError(f"{path} is empty: write a size on each line, or a table with the columns size and count")
    names = [cell.strip().lower() for cell in rows[0][1]]
    if "size" in names or "n" in names:
        names = ["size" if name == "n" else name for name in names]
        rows = rows[1:]
    elif len(names) == 1:
        names = ["size"]
    else:
        raise TableError(f"{path} has no column 'size': its first line is {', '.join(rows[0][1])}; {there([*COLUMNS])}")
    counts: Counter[tuple[float, str | None, float | None]] = Counter()
    for line, row in rows:
        cells = dict(zip(names, (cell.strip() for cell in row), strict=False))
        size, many = (
            _number(path, line, name, cells.get(name) or usual) for name, usual in (("size", ""), ("count", "1"))
        )
        second = _number(path, line, "second", cells["second"]) if cells.get("second") else None
        counts[size, cells.get("family") or None, second] += many  # type: ignore[assignment]
    if not counts:
        raise TableError(f"{path} has headings but no call")
    return Calls(path.name, dict(counts))


def _number(path: Path, line: int, column: str, text: str) -> float:
    try:
        value = float(text)
    except ValueError:
        value = math.nan
    if not (math.isfinite(value) and value > 0):
        raise TableError(f"{path}, line {line}, column '{column}': '{text[:40]}' is not a number above 0")
    return value
