"""Where results go: standard output or a file, as what was asked for; words beside them go to standard error."""

from __future__ import annotations

import os
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any

import typer

from ..errors import LogarithmError
from .options import Form

if TYPE_CHECKING:
    from rich.console import Console

    from ..results.base import Result

PLAIN_WIDTH = 100  # columns where standard output is no terminal


def deliver(
    result: Result,
    form: Form = Form.TEXT,
    out: Path | None = None,
    overwrite: bool = False,
    what: str = "report",
    **choices: Any,
) -> None:
    """Show a result, or write it into a file with a word about it.

    Args:
        result: what was concluded.
        form: what to write it as.
        out: the file; None for standard output.
        overwrite: whether a file that exists is replaced.
        what: it is called in the word about the file.
        choices: what the document of this result is made with.
    """
    from ..report.present import rendered
    from ..report.result_documents import document_of
    from ..report.text.terminal import render

    if out is None and form is Form.TEXT:
        console = results()
        console.print(render(document_of(result, **choices), console.width, ruled=console.is_terminal))
        return
    write(rendered(result, form, **choices), out, overwrite, what)


def write(text: str, out: Path | None, overwrite: bool, what: str) -> None:
    """Write a text to standard output, or into a file with a word about it."""
    if out is None:
        typer.echo(text, nl=False)
        return
    from ..logbook.files import write_file

    guard(out, overwrite)
    write_file(out, text)
    tell(f"{what}: {out}")


def results() -> Console:
    """Standard output. Where it is no terminal, lines may be 100 columns wide."""
    from rich.console import Console

    # Names come from other people: nothing in them is markup.
    console = Console(soft_wrap=False, highlight=False, markup=False, emoji=False)
    if not console.is_terminal and "COLUMNS" not in os.environ:
        console.width = PLAIN_WIDTH
    return console


def tell(message: str) -> None:
    """A word beside the results, on standard error."""
    sys.stderr.write(message + "\n")


def fail(first: str, more: int) -> None:
    """End with exit code 1, and say why."""
    tell(f"exit code 1: {first}" + (f", and {more} more" if more else ""))
    raise typer.Exit(1)


@contextmanager
def replacing(path: Path | None, overwrite: bool) -> Iterator[None]:
    """Set a file aside that is to be replaced by what is written meanwhile; it comes back where nothing is written."""
    guard(path, overwrite)
    if path is None or not path.exists():
        yield
        return
    aside = path.with_name(f".{path.name}.before")
    path.replace(aside)
    try:
        yield
    finally:
        if path.exists():
            aside.unlink(missing_ok=True)
        else:
            aside.replace(path)


def guard(path: Path | None, overwrite: bool) -> None:
    """Refuse to replace a file unasked."""
    if path is None:
        return
    if path.exists() and not overwrite:
        raise LogarithmError(f"{path} exists: choose another name, or say --overwrite")
    if path.is_dir():
        raise LogarithmError(f"{path} is a folder: name a file in it")
