"""Commands for teaching: what a contender does, event by event."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from ..errors import LogarithmError
from .common import Overwrite, check_names, guard, results, tell

LONGEST = 30.0  # seconds that one call may take


def walk(
    study: Annotated[Path, typer.Argument(metavar="STUDY", help="A study.")],
    contender: Annotated[str, typer.Argument(metavar="CONTENDER", help="One of its contenders.")],
    size: Annotated[int, typer.Option("--size", min=1, max=500, help="How large the instance is.")] = 6,
    family: Annotated[str | None, typer.Option("--family", help="The family; the first if none is named.")] = None,
    seed: Annotated[int, typer.Option("--seed", min=0, help="The instance follows from it.")] = 1,
    most: Annotated[int, typer.Option("--most", min=1, help="How many events to print.")] = 200,
    out: Annotated[Path | None, typer.Option("--out", help="Also draw it: PNG, SVG or PDF.")] = None,
    overwrite: Overwrite = False,
) -> None:
    """What a contender does on one small instance, event by event: compare, read, write, swap."""
    from ..measuring.parent.crew import Crew
    from ..measuring.parent.failed import Failed
    from ..measuring.parent.limits import limits
    from ..measuring.shared.messages import Walk, Walked
    from ..report.figure.walk import save_walk
    from ..report.text.walk import render
    from ..report.units import name
    from ..study.loading import load

    if out is not None:
        guard(out, overwrite)
    loaded = load(study)
    check_names(study, "contender", [contender], [each.name for each in loaded.contenders])
    check_names(study, "family", [family] if family else None, [each.name for each in loaded.families])
    chosen = family or loaded.families[0].name
    crew = Crew(loaded, study, [loaded.the_contender(contender)], seed, limits(1), set())
    try:
        found = crew.ask(contender, Walk(chosen, size, seed), Walked, LONGEST)
    except Failed as failed:
        raise LogarithmError(f"{contender} does not come to its end: {failed.reason} ({failed.detail})") from None
    finally:
        crew.end()
    title = f"{name(contender)} on {name(chosen)}, n = {size}"
    results().print(render(title, found, most))
    if out is not None:
        save_walk(title, found, out)
        tell(f"figure: {out}")
