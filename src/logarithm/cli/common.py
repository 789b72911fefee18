"""What several commands share: finding the logbook, printing findings, guarding files."""

from __future__ import annotations

import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from ..errors import LogarithmError

if TYPE_CHECKING:
    from rich.console import Console

    from ..analysis.findings import Findings

LogbookArgument = Annotated[
    Path | None,
    typer.Argument(metavar="[LOGBOOK]", help="A logbook; the newest in logbooks/ if none is named."),
]
Overwrite = Annotated[bool, typer.Option("--overwrite", help="Replace the file if it exists.")]


def findings_of(logbook: Path | None) -> Findings:
    """Everything found in a logbook, or in the newest one."""
    from ..analysis.analyse import analyse
    from ..logbook.reading import read_logbook
    from ..logbook.writing import newest

    return analyse(read_logbook(newest() if logbook is None else logbook))


def results() -> Console:
    """Standard output. Where it is no terminal, lines may be 100 columns wide."""
    from rich.console import Console

    console = Console(soft_wrap=False, highlight=False)
    if not console.is_terminal and "COLUMNS" not in os.environ:
        console.width = 100
    return console


def tell(message: str) -> None:
    """A word beside the results, on standard error."""
    sys.stderr.write(message + "\n")


def print_report(findings: Findings) -> None:
    """The report on standard output."""
    from ..report.text import render

    results().print(render(findings))


def guard(path: Path, overwrite: bool) -> None:
    """Refuse to replace a file unasked."""
    if path.exists() and not overwrite:
        raise LogarithmError(f"{path} exists: choose another name, or say --overwrite")
    if path.is_dir():
        raise LogarithmError(f"{path} is a folder: name a file in it")
