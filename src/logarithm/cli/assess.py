"""The command for a class: everything that was handed in, in one table."""

from __future__ import annotations

import enum
from pathlib import Path
from typing import Annotated

import typer

from ..errors import LogarithmError
from .common import On, Overwrite, bar, deliver, guard, results, tell


class ClassFormat(enum.StrEnum):
    """What the table of a class can be written as."""

    TEXT = "text"
    CSV = "csv"
    HTML = "html"


def assess(
    study: Annotated[Path, typer.Argument(metavar="STUDY", help="A study with submissions and a reference.")],
    form: Annotated[ClassFormat, typer.Option("--format", help="How to write the table.")] = ClassFormat.TEXT,
    out: Annotated[Path | None, typer.Option("--out", help="A file for the table, not standard output.")] = None,
    pages: Annotated[
        Path | None, typer.Option("--pages", metavar="FOLDER", help="Also a short page for each, to hand back.")
    ] = None,
    memory: Annotated[str, typer.Option("--memory", help="How much memory each may fill.")] = "1GiB",
    overwrite: Overwrite = False,
    on: On = None,
    resume: Annotated[
        Path | None, typer.Option("--resume", metavar="LOGBOOK", help="Go on with an assessment that was interrupted.")
    ] = None,
    trusted: Annotated[
        bool, typer.Option("--trusted", help="Run it without an enclosure: you have read it all and trust it.")
    ] = False,
    seed: Annotated[
        int | None, typer.Option("--seed", help="Draw the same instances again; a secret one if none is named.")
    ] = None,
) -> None:
    """Assess what a class handed in: right or not, the order against what is asked, time and steps."""
    from ..api.assess import assess_class
    from ..executors.local import engine_at
    from ..logbook.writing import fresh_path
    from ..notation.durations import capacity
    from ..report.page import assessed as classroom
    from ..study.loading import load

    if out is not None:
        guard(out, overwrite)
    if pages is not None and pages.exists() and any(pages.iterdir()) and not overwrite:
        raise LogarithmError(f"{pages} is not empty: choose another folder, or say --overwrite")
    loaded = load(study)
    path = resume if resume is not None else fresh_path(loaded.name)
    with bar() as progress:
        try:
            seen = assess_class(
                loaded,
                study,
                path,
                engine_at(on, loaded, study),
                progress,
                memory=capacity(memory),
                seed=seed,
                trusted=trusted,
                resume=resume is not None,
            )
        except KeyboardInterrupt:
            tell(f"\ninterrupted; go on with logarithm assess {study} --resume {path}")
            raise
    rows = seen.rows
    for told in seen.weaknesses:
        tell(told)
    if pages is not None:
        classroom.write_pages(loaded.name, rows, pages, loaded.question)
        tell(f"pages: {pages}")
    if out is None and form is ClassFormat.TEXT:
        results().print(classroom.render(loaded.name, rows))
    else:
        as_text = {
            ClassFormat.CSV: lambda: classroom.as_csv(rows),
            ClassFormat.HTML: lambda: classroom.as_html(loaded.name, rows),
            ClassFormat.TEXT: lambda: classroom.as_text(loaded.name, rows),
        }[form]()
        deliver(as_text, out, "table")
    tell(f"logbook: {path}")
