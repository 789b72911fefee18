"""The calls that a program makes: a file with their sizes, and where it says so how often, on which family."""

from __future__ import annotations

import csv
import io
import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import chain, repeat
from pathlib import Path

from ...errors import TableError, there
from ...notation.sizes import Number, plain
from ..records import Workload

PARTS = 8  # of the calls, each with a size that is measured
COLUMNS = ("size", "count", "family", "second")


@dataclass(frozen=True, slots=True)
class Calls:
    """How often each (size, family, second size) is called; no family and no second size where the file says none."""

    source: str
    counts: dict[tuple[float, str | None, float | None], float]


def read_calls(path: Path, names: Sequence[str] = ()) -> Calls:
    """The calls in a file: a CSV table with the columns size, count, family, second, or a size on each line.

    Args:
        path: the file.
        names: of two sizes, what they are called; columns may be called so too.

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
    known = {"n": "size", **dict(zip((name.lower() for name in names), ("size", "second"), strict=False))}
    columns = [known.get(name, name) for name in (cell.strip().lower() for cell in rows[0][1])]
    if "size" in columns:
        rows = rows[1:]
    elif len(columns) == 1 and len(names) < 2:
        columns = ["size"]
    else:
        raise TableError(f"{path} has no column 'size': its first line is {', '.join(rows[0][1])}; {there([*COLUMNS])}")
    counts: Counter[tuple[float, str | None, float | None]] = Counter()
    for line, row in rows:
        cells = dict(zip(columns, (cell.strip() for cell in row), strict=False))
        size, many = (
            _number(path, line, name, cells.get(name) or usual) for name, usual in (("size", ""), ("count", "1"))
        )
        second = _number(path, line, "second", cells["second"], 0.0) if cells.get("second") else None
        if (second is None) == (len(names) == 2):
            what = f"the second size too: add a column '{names[1]}'" if names else "one size only: there is no second"
            raise TableError(f"{path}, line {line}: a call has {what}")
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
        seconds=[second for *_, second in keys if second is not None],
    )


def of_record(record: Workload) -> Calls:
    """The calls that a logbook keeps."""
    rows = zip(record.sizes, record.families, chain(record.seconds, repeat(None)), record.counts, strict=False)
    return Calls(record.source, {(size, family, second): many for size, family, second, many in rows})


def where_called(calls: Calls, is_second: bool = False) -> tuple[Number, ...]:
    """Sizes to measure at: the smallest, the largest, and some between that share the calls, and their items, evenly.

    Args:
        calls: what is called how often.
        is_second: whether values of the second size are wanted.

    >>> where_called(Calls("", {(8.0, None, None): 90, (100.0, None, None): 9, (4000.0, None, None): 1}))
    (8, 100, 4000)
    """
    counts: Counter[float] = Counter()
    for (first, _, second), many in calls.counts.items():
        counts[second or 0.0 if is_second else first] += many  # type: ignore[assignment]
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


def _number(path: Path, line: int, column: str, text: str, least: float = 5e-324) -> float:
    try:
        value = float(text)
    except ValueError:
        value = math.nan
    if not (math.isfinite(value) and value >= least):
        raise TableError(f"{path}, line {line}, column '{column}': '{text[:40]}' is not a number above 0")
    return value
