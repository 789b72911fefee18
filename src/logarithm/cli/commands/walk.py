"""The command that follows one call: walk."""

from __future__ import annotations

from enum import StrEnum
from pathlib import Path
from typing import Annotated

import typer

from ...errors import LogarithmError, there
from ..options import At, Dark, Form, Format, Given, Overwrite, Seed, StudyOrFile
from ..output import deliver, guard, tell

WALKED_MOST = 500  # items of an instance that is walked through


class Seen(StrEnum):
    """What is shown of a walk."""

    EVENTS = "events"
    CALLS = "calls"


def walk(
    study: StudyOrFile,
    contender: Annotated[str, typer.Argument(metavar="CONTENDER", help="One of its contenders, or of its functions.")],
    size: Annotated[int, typer.Option("--size", min=1, max=WALKED_MOST, help="How large it is.")] = 6,
    given: Given = None,
    family: Annotated[str | None, typer.Option("--family", help="The family; the first if none is named.")] = None,
    at: At = None,
    seed: Seed = 1,
    begin: Annotated[int, typer.Option("--from", min=1, help="The number of the first event to show.")] = 1,
    end: Annotated[int | None, typer.Option("--to", min=1, help="The number of the last one.")] = None,
    only: Annotated[
        list[str] | None, typer.Option("--only", help="Only events of this kind, such as swaps; may be repeated.")
    ] = None,
    most: Annotated[int, typer.Option("--most", min=1, help="How many lines to print.")] = 200,
    view: Annotated[Seen, typer.Option("--view", help="Events, or calls of functions as a tree.")] = Seen.EVENTS,
    dark: Dark = False,
    form: Format = Form.TEXT,
    out: Annotated[
        Path | None,
        typer.Option("--out", help="Also write it: HTML to step through; PNG, SVG or PDF; a folder, a picture a step."),
    ] = None,
    overwrite: Overwrite = False,
) -> None:
    """What a contender does on one small instance, event by event: compare, read, write, swap, call."""
    from ...api import tasks
    from ...report.documents.walk import Choice, kinds_of
    from ...report.figure.walks import save_walk
    from ...study.files.plain import Plain, asked_of

    guard(out, overwrite)
    with asked_of(study, [contender], Plain(families=[family or "shuffled"], given=given)) as asked:
        where = family if asked.file == study else None  # a plain file's is the only one
        many = int(asked.sizes[0]) if given is not None and asked.sizes else size
        found = tasks.walk(asked, contender, min(many, WALKED_MOST), family=where, at=at, seed=seed)
    known = kinds_of(found)
    for kind in only or ():
        if kind not in known and kind.rstrip("s") not in known:
            raise LogarithmError(f"--only {kind}: there are no such events here; {there(known)}")
    choice = Choice(tuple(only or ()), begin, end, most, view=view.value)
    if form in (Form.HTML, Form.JSON):
        deliver(found, form)
    else:
        deliver(found, form, choice=choice)
    if out is not None and out.suffix == ".html":
        deliver(found, Form.HTML, out, overwrite, "page")
    elif out is not None:
        save_walk(found, out, choice, dark)
        tell(f"figure: {out}" if out.suffix else f"pictures: {out}")
    if found.failure:
        raise typer.Exit(1)
