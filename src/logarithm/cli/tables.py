"""Commands that bring tables in and out."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from ..errors import TableError
from .common import LogbookArgument, Overwrite, deliver, findings_of, guard, print_report, tell


def import_table(
    table: Annotated[
        Path,
        typer.Argument(metavar="TABLE", help="A CSV file, tidy (a row a trial) or wide (a column a contender)."),
    ],
    unit: Annotated[
        str | None, typer.Option("--unit", help="What its times are in, if it does not say so: ns, us, ms or s.")
    ] = None,
    column: Annotated[
        list[str] | None,
        typer.Option("--column", metavar="KNOWN=HEADING", help="Another heading for a known column."),
    ] = None,
    baseline: Annotated[str | None, typer.Option("--baseline", help="The contender to compare others with.")] = None,
    out: Annotated[Path | None, typer.Option("--out", help="The logbook to write.")] = None,
) -> None:
    """Bring numbers measured elsewhere into a logbook, and report on them."""
    from ..logbook.importing import imported
    from ..logbook.writing import fresh_path, write_logbook

    renamed: dict[str, str] = {}
    for pair in column or []:
        known, equals, heading = pair.partition("=")
        if not equals or not heading:
            raise TableError(f"--column {pair}: write KNOWN=HEADING, for example --column value=nanos")
        renamed[known.strip()] = heading.strip()
    records = imported(table, unit, renamed, baseline)
    path = out if out is not None else fresh_path(table.stem)
    write_logbook(path, records)
    if unit is None:
        tell("times are read in the units that the table names, else in seconds; --unit says it for all")
    print_report(findings_of(path))
    tell(f"logbook: {path}")


def export(
    logbook: LogbookArgument = None,
    out: Annotated[
        Path | None, typer.Option("--out", help="A file whose name ends in .csv or .json; else CSV on standard output.")
    ] = None,
    wide: Annotated[bool, typer.Option("--wide", help="A column a contender, for a spreadsheet.")] = False,
    overwrite: Overwrite = False,
) -> None:
    """Write the trials of a logbook as a table, times in seconds for one call."""
    from ..logbook.exporting import exported
    from ..logbook.reading import read_logbook
    from ..logbook.writing import newest

    kind = "csv" if out is None else out.suffix.lower().lstrip(".")
    if kind not in ("csv", "json"):
        raise TableError(f"{out}: a table is CSV or JSON, so its name ends in .csv or .json")
    if out is not None:
        guard(out, overwrite)
    deliver(exported(read_logbook(newest() if logbook is None else logbook), kind, wide), out, "table")
