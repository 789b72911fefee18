"""The calls that a program makes: a file with their sizes, and where it says so how often, on which family."""

from __future__ import annotations

import csv
import io
import math
from collections import Counter
from dataclasses import dataclass
from pathlib import Path

from ..errors import TableError, there
from ..notation.sizes import Number, plain
from .records import Workload

PARTS = 8  # of the calls, each with a size that is measured
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


def recorded(calls: Calls) -> Workload:
    """The calls as a logbook keeps them."""
    keys = sorted(calls.counts, key=lambda key: key[0])
    return Workload(
        source=calls.source,
        sizes=[size for size, _, _ in keys],
        counts=[calls.counts[key] for key in keys],
        families=[family for _, family, _ in keys],
    )


def of_record(record: Workload) -> Calls:
    """The calls that a logbook keeps."""
    rows = zip(record.sizes, record.families, record.counts, strict=True)
    return Calls(record.source, {(size, family, None): many for size, family, many in rows})


def where_called(calls: Calls) -> tuple[Number, ...]:
    """Sizes to measure at: the smallest, the largest, and some between that share the calls, and their items, evenly.

    >>> where_called(Calls("", {(8.0, None, None): 90, (100.0, None, None): 9, (4000.0, None, None): 1}))
    (8, 100, 4000)
    """
    counts: Counter[float] = Counter()
    for (size, _, _), many in calls.counts.items():
        counts[size] += many  # type: ignore[assignment]
    sizes = sorted(counts)
    chosen = {sizes[0], sizes[-1]}
    for weights in ([counts[size] for size in sizes], [counts[size] * size for size in sizes]):
        so_far, shares = 0.0, [(part + 0.5) / PARTS * sum(weights) for part in range(PARTS)]
        for size, weight in zip(sizes, weights, strict=True):
            so_far += weight
            while shares and so_far >= shares[0]:
                chosen.add(size)
                shares.pop(0)
    return tuple(plain(size) for size in sorted(chosen))


def _number(path: Path, line: int, column: str, text: str) -> float:
    try:
        value = float(text)
    except ValueError:
        value = math.nan
    if not (math.isfinite(value) and value > 0):
        raise TableError(f"{path}, line {line}, column '{column}': '{text[:40]}' is not a number above 0")
    return value
