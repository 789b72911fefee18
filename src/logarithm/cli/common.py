"""What several commands share: finding the logbook, printing findings, guarding files."""

from __future__ import annotations

import math
import os
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from ..errors import LogarithmError

if TYPE_CHECKING:
    from rich.console import Console

    from ..results.findings import Findings

LogbookArgument = Annotated[
    Path | None,
    typer.Argument(metavar="[LOGBOOK]", help="A logbook; the newest in logbooks/ if none is named."),
]
On = Annotated[
    str | None, typer.Option("--on", metavar="ADDRESS", help="A cluster's scheduler, or local to start one here.")
]
Overwrite = Annotated[bool, typer.Option("--overwrite", help="Replace the file if it exists.")]


def findings_of(logbook: Path | None) -> Findings:
    """Everything found in a logbook, or in the newest one."""
    from ..logbook.reading import read_logbook
    from ..logbook.writing import newest
    from ..statistics.analyse import analyse

    return analyse(read_logbook(newest() if logbook is None else logbook))


def results() -> Console:
    """Standard output. Where it is no terminal, lines may be 100 columns wide."""
    from rich.console import Console

    # Names come from other people: nothing in them is markup.
    console = Console(soft_wrap=False, highlight=False, markup=False, emoji=False)
    if not console.is_terminal and "COLUMNS" not in os.environ:
        console.width = 100
    return console


def tell(message: str) -> None:
    """A word beside the results, on standard error."""
    sys.stderr.write(message + "\n")


def print_report(findings: Findings, only: str | None = None, everything: bool = False) -> None:
    """The report on standard output."""
    from ..report.text.terminal import render

    console = results()
    console.print(render(findings, console.width, only, everything, ruled=console.is_terminal))


def conclude(logbook: Path) -> None:
    """Print the report of what was measured just now.

    Raises:
        MeasuringError: where nothing was measured.
    """
    from ..errors import MeasuringError

    findings = findings_of(logbook)
    print_report(findings)
    if not findings.costs:
        told = "no contender works at its smallest size" if findings.failures else "the budget was too short"
        raise MeasuringError(f"nothing was measured: {told}; what there is stands in {logbook}")


def number(text: str, option: str) -> float:
    """A size as it was typed."""
    try:
        size = float(text)
    except ValueError:
        size = math.nan
    if not math.isfinite(size):
        raise LogarithmError(f"{option} {text} is not a size: write for example {option} 1e6")
    return size


def guard(path: Path, overwrite: bool) -> None:
    """Refuse to replace a file unasked."""
    if path.exists() and not overwrite:
        raise LogarithmError(f"{path} exists: choose another name, or say --overwrite")
    if path.is_dir():
        raise LogarithmError(f"{path} is a folder: name a file in it")


def deliver(text: str, out: Path | None, what: str) -> None:
    """Write a text to standard output, or into a file with a word about it."""
    if out is None:
        typer.echo(text, nl=False)
        return
    from ..logbook.files import write_file

    write_file(out, text)
    tell(f"{what}: {out}")


@contextmanager
def bar() -> Iterator[Callable[[float, str], None]]:
    """A bar on standard error: a sign of life, the share of the budget, the time left, what is being done."""
    from rich.console import Console
    from rich.progress import BarColumn, Progress, SpinnerColumn, TaskProgressColumn, TextColumn, TimeRemainingColumn

    columns = (
        SpinnerColumn("line"),
        BarColumn(30),
        TaskProgressColumn(),
        TimeRemainingColumn(),
        TextColumn("{task.description}", markup=False),
    )
    console = Console(stderr=True)
    with Progress(*columns, console=console, transient=True, disable=not console.is_terminal) as shown:
        task = shown.add_task("starting", total=1.0)
        yield lambda share, what: shown.update(task, completed=share, description=what)
