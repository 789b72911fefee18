"""The command that assesses a class."""

from __future__ import annotations

import enum
from pathlib import Path
from typing import Annotated

import typer

from ...errors import LogarithmError
from ..options import Form, On, Overwrite
from ..output import deliver, guard, tell, write


class ClassForm(enum.StrEnum):
    """What the table of a class can be written as."""

    TEXT = "text"
    MARKDOWN = "markdown"
    HTML = "html"
    JSON = "json"
    CSV = "csv"


def assess(
    study: Annotated[Path, typer.Argument(metavar="STUDY", help="A study with submissions and a reference.")],
    form: Annotated[ClassForm, typer.Option("--format", help="How to write the table.")] = ClassForm.TEXT,
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
    hand_out: Annotated[
        Path | None,
        typer.Option("--hand-out", metavar="FOLDER", help="Assess nobody: write what students get into a folder."),
    ] = None,
    trusted: Annotated[
        bool, typer.Option("--trusted", help="Run it without a sandbox: you have read it all and trust it.")
    ] = False,
    seed: Annotated[
        int | None, typer.Option("--seed", help="Draw the same instances again; a secret one if none is named.")
    ] = None,
) -> None:
    """Assess what a class handed in: right or not, the order against what is asked, time and steps."""
    from ...api.assessment import classes
    from ...logbook.folder import fresh_path
    from ...report.documents.grades import as_csv
    from ...study.files.loading import load

    if hand_out is not None:
        for file in classes.hand_out(study, hand_out, overwrite):
            tell(f"hand-out: {file}")
        return
    guard(out, overwrite)
    if pages is not None and pages.exists() and any(pages.iterdir()) and not overwrite:
        raise LogarithmError(f"{pages} is not empty: choose another folder, or say --overwrite")
    loaded = load(study)
    path = resume if resume is not None else fresh_path(loaded.name)
    try:
        found = classes.assess(loaded, memory=memory, seed=seed, trusted=trusted, out=path, resume=resume, on=on)
    except KeyboardInterrupt:
        tell(f"\ninterrupted; go on with logarithm assess {study} --resume {path}")
        raise
    if pages is not None:
        tell(f"pages: {found.pages(pages)}")
    if form is ClassForm.CSV:
        for told in found.weaknesses:
            tell(told)
        write(as_csv(found), out, overwrite, "table")
    else:
        deliver(found, Form(form.value), out, overwrite, "table")
    tell(f"logbook: {path}")


def check(
    file: Annotated[Path, typer.Argument(metavar="FILE", help="What you are about to hand in.")],
    exercise: Annotated[
        Path | None,
        typer.Option("--exercise", metavar="FILE", help="The hand-out's exercise.json; else the one here."),
    ] = None,
    form: Annotated[Form, typer.Option("--format", help="How to write it.")] = Form.TEXT,
    out: Annotated[Path | None, typer.Option("--out", help="A file for it, not standard output.")] = None,
    overwrite: Overwrite = False,
) -> None:
    """Check your own file before you hand it in: the cases shown, how its work grows, and the rules."""
    from ...api.assessment import classes
    from ...results.tasks.grades import CORRECT, EXCEEDS

    guard(out, overwrite)
    found = classes.check(file, exercise)
    deliver(found, form, out, overwrite, "check")
    if found.rows[0].verdict != CORRECT or found.rows[0].requirement == EXCEEDS:
        raise typer.Exit(1)
