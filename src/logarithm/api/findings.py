"""Questions about logbooks: one function for each task."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING

from ..logbook.memory import Logbook
from ..results.logbooks.across import Across
from ..results.logbooks.contrast import Contrast, Contrasts
from ..statistics import analysis as analysis  # gives logbooks their analysis
from .subject import read_logbook as read_logbook

if TYPE_CHECKING:
    import pandas as pd


def import_table(
    table: str | Path | pd.DataFrame,
    unit: str | None = None,
    column: Mapping[str, str] | None = None,
    baseline: str | None = None,
    out: str | Path | None = None,
) -> Logbook:
    """Bring numbers measured elsewhere into a logbook.

    Args:
        table: a CSV file or a pandas table, tidy (contender, size, value) or wide (a column a contender).
        unit: what its times are in where it does not say so: ns, us, ms or s.
        column: other headings for the known columns, {"value": "nanos"}.
        baseline: the contender that others are compared with.
        out: the logbook to write; `logbooks/NAME-….jsonl` if none is named.

    Raises:
        TableError: naming line and column of what cannot be used.
    """
    import tempfile

    from ..logbook.exchange.importing import imported
    from ..logbook.folder import fresh_path
    from ..logbook.writing import write_logbook

    if isinstance(table, str | Path):
        name, records = Path(table).stem, imported(Path(table), unit, dict(column or {}), baseline)
    else:
        with tempfile.TemporaryDirectory() as folder:
            name, file = "table", Path(folder) / "table.csv"
            table.to_csv(file, index=table.index.name is not None)
            records = imported(file, unit, dict(column or {}), baseline)
    path = Path(out) if out is not None else fresh_path(name)
    write_logbook(path, records)
    return read_logbook(path)


def contrast(
    before: str | Path | Logbook, after: str | Path | Logbook, *more: str | Path | Logbook, anyway: bool = False
) -> Contrast | Contrasts:
    """What changed between two logbooks, or step by step along several, and whether the change is real.

    Args:
        before, after, more: logbooks, or parts of them, in their order.
        anyway: compare even where the machines differ.

    Returns:
        a `Contrast`; of more than two logbooks `Contrasts`.

    Raises:
        LogarithmError: where they are not alike, or cannot be read.
    """
    from ..statistics.logbooks.contrast import contrast as compare

    return compare([read_logbook(path) for path in (before, after, *more)], anyway)


def across(*logbooks: str | Path | Logbook) -> Across:
    """What holds on several machines, or under several interpreters: each by itself, and all together.

    Args:
        logbooks: of one study, or parts of them.

    Returns:
        an `Across`.

    Raises:
        LogarithmError: where they are of different studies, or cannot be read.
    """
    from ..statistics.logbooks.across import across as side_by_side

    books = [read_logbook(each) for each in logbooks]
    return side_by_side({book.path.stem: book.findings() for book in books})
