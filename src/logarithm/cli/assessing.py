"""The command for a class: everything that was handed in, in one table."""

from __future__ import annotations

import enum
import secrets
from dataclasses import replace
from pathlib import Path
from typing import Annotated

import typer

from ..errors import LogarithmError
from .common import On, Overwrite, bar, deliver, engine_at, guard, results, tell


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
    from ..assessing.looks import assess as look
    from ..assessing.table import table, weak_referee
    from ..logbook.reading import logbook_of
    from ..logbook.records import AnyRecord, Close
    from ..logbook.writing import LogbookWriter, fresh_path, lines_of
    from ..measuring.plan.settings import Settings
    from ..measuring.run.opening import preamble
    from ..notation.durations import capacity
    from ..report.page import assessed as classroom
    from ..study.loading import load

    if out is not None:
        guard(out, overwrite)
    if pages is not None and pages.exists() and any(pages.iterdir()) and not overwrite:
        raise LogarithmError(f"{pages} is not empty: choose another folder, or say --overwrite")
    loaded = load(study)
    settings = Settings(memory=capacity(memory), seed=secrets.randbits(32) if seed is None else seed)
    path = resume if resume is not None else fresh_path(loaded.name)
    before = b""
    done, untimed = set[str](), set[str]()
    if resume is not None:
        before, salt, done, untimed = _looked_at(resume, study)
        settings = replace(settings, seed=salt)
    taken: list[AnyRecord] = []
    with LogbookWriter(path, append=resume is not None) as writer, bar() as progress:
        names = [each.name for each in loaded.contenders], [each.name for each in loaded.families]
        if resume is None:
            taken += preamble(loaded, study, settings, *names)
            writer.write(*taken)
        try:
            with engine_at(on, loaded, study) as engine:
                for record in look(loaded, settings, engine, progress, done, untimed, trusted):
                    taken.append(record)
                    writer.write(record)
                    writer.flush()
        except KeyboardInterrupt:
            tell(f"\ninterrupted; go on with logarithm assess {study} --resume {path}")
            raise
        writer.write(Close(reason="finished", elapsed=0.0, heats=0, lives=1))
    # From what was seen, and not from the file: whatever happened to that meanwhile, the table is true.
    book = logbook_of(path, before + lines_of(taken))
    rows = table(book, loaded.marks)
    for told in weak_referee(book):
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


def _looked_at(logbook: Path, study: Path) -> tuple[bytes, int, set[str], set[str]]:
    """What an assessment that is gone on with holds: its lines and seed, who was looked at, and is yet to be timed."""
    from ..assessing.looks import BAD
    from ..logbook.reading import read_logbook
    from ..study.loading import fingerprint

    read = read_logbook(logbook)
    if read.study.sha256 != fingerprint(study):
        raise LogarithmError(f"{study} is not as it was when {logbook} was begun: assess it anew")
    seen = {note.contender for note in read.notes if note.topic == "seen" and note.contender}
    bad = {note.contender for note in read.notes if note.topic in BAD} | {each.contender for each in read.failures}
    timed = {contender for contender, _, _, metric in read.trials.keys if metric == "time"}
    handed_in = {each.name for each in read.contenders if each.handed_in}
    return logbook.read_bytes(), read.study.seed, seen, (seen & handed_in) - bad - timed
