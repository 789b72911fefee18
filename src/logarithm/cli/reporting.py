"""Commands that show what a logbook holds."""

from __future__ import annotations

import enum
from pathlib import Path
from typing import Annotated

import typer

from ..errors import LogarithmError
from .common import LogbookArgument, Overwrite, findings_of, guard, print_report, tell


class Format(enum.StrEnum):
    """What a report can be written as."""

    TEXT = "text"
    JSON = "json"


def report(
    logbook: LogbookArgument = None,
    form: Annotated[Format, typer.Option("--format", help="How to write it.")] = Format.TEXT,
    out: Annotated[Path | None, typer.Option("--out", help="A file to write it to, not standard output.")] = None,
    overwrite: Overwrite = False,
) -> None:
    """Show everything found: growth, crossovers, standings."""
    if out is not None:
        guard(out, overwrite)
    findings = findings_of(logbook)
    if out is None and form is Format.TEXT:
        print_report(findings)
        return
    if form is Format.JSON:
        written = findings.json() + "\n"
    else:
        from ..report.text import text

        written = text(findings)
    if out is None:
        typer.echo(written, nl=False)
        return
    try:
        out.write_text(written, encoding="utf-8")
    except OSError as error:
        raise LogarithmError(f"{out} cannot be written: {error.strerror or error}") from None
    tell(f"report: {out}")


def plot(
    logbook: LogbookArgument = None,
    out: Annotated[
        Path | None,
        typer.Option("--out", help="The figure: its ending says PNG, SVG or PDF. Else beside the logbook."),
    ] = None,
    overwrite: Overwrite = False,
) -> None:
    """Draw how each cost grows, with the crossovers marked."""
    from ..logbook.writing import newest
    from ..report.figure import save_growth

    chosen = newest() if logbook is None else logbook
    target = chosen.with_suffix(".png") if out is None else out
    guard(target, overwrite)
    save_growth(findings_of(chosen), target)
    typer.echo(f"figure: {target}")
