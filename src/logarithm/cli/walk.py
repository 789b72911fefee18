"""Commands for teaching: what a contender does, event by event."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from ..errors import LogarithmError, there
from .common import Overwrite, deliver, guard, results, tell


def walk(
    study: Annotated[Path, typer.Argument(metavar="STUDY", help="A study.")],
    contender: Annotated[str, typer.Argument(metavar="CONTENDER", help="One of its contenders.")],
    size: Annotated[int, typer.Option("--size", min=1, max=500, help="How large the instance is.")] = 6,
    family: Annotated[str | None, typer.Option("--family", help="The family; the first if none is named.")] = None,
    seed: Annotated[int, typer.Option("--seed", min=0, help="The instance follows from it.")] = 1,
    begin: Annotated[int, typer.Option("--from", min=1, help="The number of the first event to show.")] = 1,
    end: Annotated[int | None, typer.Option("--to", min=1, help="The number of the last one.")] = None,
    only: Annotated[
        list[str] | None, typer.Option("--only", help="Only events of this kind, such as swaps; may be repeated.")
    ] = None,
    most: Annotated[int, typer.Option("--most", min=1, help="How many lines to print.")] = 200,
    out: Annotated[
        Path | None, typer.Option("--out", help="Also write it: HTML to step through, or draw it: PNG, SVG or PDF.")
    ] = None,
    overwrite: Overwrite = False,
) -> None:
    """What a contender does on one small instance, event by event: compare, read, write, swap, call."""
    from ..api.walk import walked
    from ..report.figure.walk import save_walk
    from ..report.page.walk import walk_page
    from ..report.text.walk import chosen, kinds_of, render
    from ..report.units import name
    from ..study.loading import load

    if out is not None:
        guard(out, overwrite)
    loaded = load(study)
    found = walked(loaded, study, contender, size, family, seed)
    check_kinds(only, kinds_of(found))
    title = f"{name(contender)} on {name(family or loaded.families[0].name)}, n = {size}"
    rows = chosen(found, only or (), begin, end)
    results().print(render(title, found, rows, most))
    if out is None:
        return
    if out.suffix == ".html":
        deliver(walk_page(title, found), out, "page")
    else:
        save_walk(title, found, rows, out)
        tell(f"figure: {out}")


def check_kinds(only: list[str] | None, known: list[str]) -> None:
    """Refuse a kind of events that there is none of."""
    for kind in only or ():
        if kind not in known and kind.rstrip("s") not in known:
            raise LogarithmError(f"--only {kind}: there are no such events here; {there(known)}")
