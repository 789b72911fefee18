"""Commands that need no study yet: draft, machine; and tables in and out."""

from __future__ import annotations

import random
from pathlib import Path
from typing import Annotated

import typer

from ..errors import LogarithmError, TableError, one_line
from .commands.read import deliver_report, reading
from .options import At, Family, Form, Format, LogbookOut, Named, Out, Overwrite
from .output import deliver, guard, replacing, results, tell, write


def machine(form: Format = Form.TEXT, out: Out = None, overwrite: Overwrite = False) -> None:
    """What this machine can resolve: the clock, and how noisy it is now."""
    from ..api import tasks
    from ..supervisor.machine.noise import WATCHED

    guard(out, overwrite)
    tell(f"watching the machine for {WATCHED:g} s")
    deliver(tasks.machine(), form, out, overwrite)


def draft(
    file: Annotated[
        Path | None,
        typer.Argument(
            metavar="[FILE]",
            help="A study (.py, .toml), a worker (.c, .js, .java, .rs), a log of calls (.csv), or course.",
        ),
    ] = None,
    about: Annotated[
        str,
        typer.Option("--about", help="compare, cases, stages, operations, counts, two-sizes, class, course or worker."),
    ] = "compare",
    families: Annotated[bool, typer.Option("--families", help="List the ready-made families with a sample.")] = False,
) -> None:
    """Write a starter study or a worker in another language, ready to run; or list the ready-made families."""
    from ..drafts import beside, draft_of
    from ..logbook.files import write_file

    if families:
        _list_families()
        return
    if file is None:
        raise LogarithmError("name the study to write, for example logarithm draft study.py, or say --families")
    if about == "course" or (not file.suffix and file.name == "course"):
        _write_course(file)
        return
    text = draft_of(file, about)
    further = {file.parent / path: more for path, more in beside(about).items()} if file.suffix == ".py" else {}
    for path in further:
        guard(path, overwrite=False)
    try:
        write_file(file, text, replace=False)
    except FileExistsError:
        raise LogarithmError(f"{file} exists: choose another name, nothing is overwritten") from None
    for path, more in further.items():
        path.parent.mkdir(parents=True, exist_ok=True)
        write_file(path, more)
        tell(f"beside it: {path}")
    is_study = file.suffix == ".toml" or (file.suffix == ".py" and about != "worker")
    run = "assess" if about == "class" else "measure"
    told = f"study: {file}; run it with logarithm {run} {file}"
    if file.suffix == ".csv":
        told = f"calls: {file}; weigh costs by them with logarithm report --workload {file}"
    elif not is_study:
        told = f"worker: {file}; the comment at its top says how to run it"
    tell(told)


def _write_course(folder: Path) -> None:
    """Write a course of twelve weeks into a folder that is not there yet, or is empty."""
    from ..drafts import course
    from ..logbook.files import write_file

    if folder.exists() and any(folder.iterdir()):
        raise LogarithmError(f"{folder} is not empty: choose another folder, nothing is overwritten")
    for path, text in course().items():
        (folder / path).parent.mkdir(parents=True, exist_ok=True)
        write_file(folder / path, text)
    tell(f"course: {folder}; each week has a study, an exercise and lecture.md, which says what to run")


def _list_families() -> None:
    from rich.table import Table

    from ..study.families import ALL

    table = Table.grid(padding=(0, 2))
    for make in ALL:
        sample = one_line(repr(_rounded(make(8, random.Random(1)))), 56)
        table.add_row(make.__name__, sample, make.__doc__)
    results().print(table)
    results().print('\nin a study: study.family(families.shuffled), after "from logarithm import families"')


def _rounded(sample: object) -> object:
    """A sample with decimals short enough to show."""
    if isinstance(sample, float):
        return round(sample, 2)
    if isinstance(sample, list | tuple):
        return type(sample)(_rounded(each) for each in sample)
    return sample


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
    out: LogbookOut = None,
    overwrite: Overwrite = False,
    form: Format = Form.TEXT,
) -> None:
    """Bring numbers measured elsewhere into a logbook, and report on them."""
    from ..api import findings as api

    renamed: dict[str, str] = {}
    for pair in column or []:
        known, equals, heading = pair.partition("=")
        if not equals or not heading:
            raise TableError(f"--column {pair}: write KNOWN=HEADING, for example --column value=nanos")
        renamed[known.strip()] = heading.strip()
    with replacing(out, overwrite):
        book = api.import_table(table, unit, renamed, baseline, out)
    if unit is None:
        tell("times are read in the units that the table names, else in seconds; --unit says it for all")
    deliver_report(book.findings(), form)
    tell(f"logbook: {book.path}")


def export(
    named: Named = None,
    family: Family = None,
    at: At = None,
    out: Annotated[
        Path | None, typer.Option("--out", help="A file, such as times.csv or times.json; else CSV on standard output.")
    ] = None,
    wide: Annotated[bool, typer.Option("--wide", help="A column a contender, for a spreadsheet.")] = False,
    overwrite: Overwrite = False,
) -> None:
    """Write the trials of a logbook as a table, times in seconds for one call."""
    from ..logbook.exchange.exporting import exported

    kind = "csv" if out is None else out.suffix.lower().lstrip(".")
    guard(out, overwrite)
    write(exported(reading(named, at, family).part(), kind, wide), out, overwrite, "table")
