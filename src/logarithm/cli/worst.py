"""The command that searches for worst cases."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from .common import On, Overwrite, bar, guard, results, tell

if TYPE_CHECKING:
    from ..api.worst import Found, Search
    from ..study.study import Study


def worst(
    study: Annotated[Path, typer.Argument(metavar="STUDY", help="A study.")],
    only: Annotated[list[str] | None, typer.Option("--only", help="Only this contender; may be repeated.")] = None,
    family: Annotated[
        list[str] | None, typer.Option("--family", help="Only this kind of instance; may be repeated.")
    ] = None,
    metric: Annotated[
        str, typer.Option("--metric", help="What to make large: work, steps, comparisons, memory or a tally.")
    ] = "work",
    budget: Annotated[str, typer.Option("--budget", help="How long it may take at most.")] = "60s",
    sizes: Annotated[str | None, typer.Option("--sizes", help="The sizes to search at, such as 8..64.")] = None,
    seed: Annotated[int, typer.Option("--seed", min=0, help="The same seed gives the same result.")] = 1,
    out: Annotated[Path | None, typer.Option("--out", help="The logbook to write; else one in logbooks/.")] = None,
    keep: Annotated[
        Path | None, typer.Option("--keep", metavar="FILE", help="Keep the instances as JSON, for study.family_from.")
    ] = None,
    figure: Annotated[
        Path | None, typer.Option("--figure", metavar="FILE", help="Also draw it: PNG, SVG or PDF.")
    ] = None,
    overwrite: Overwrite = False,
    on: On = None,
) -> None:
    """Search for inputs on which each contender does most work, and say how that worst case grows.

    What is found is a lower bound: that no worse was found does not say that there is none.
    """
    from ..api.worst import Search
    from ..logbook.writing import fresh_path
    from ..notation.durations import seconds
    from ..notation.sizes import ladder
    from ..study.loading import load

    for path in (out, keep, figure):
        if path is not None:
            guard(path, overwrite and path is not out)
    asked = Search(
        tuple(only or ()),
        tuple(family or ()),
        metric,
        seconds(budget),
        None if sizes is None else tuple(int(size) for size in ladder(sizes)),
        seed,
    )
    loaded = load(study)
    path = out if out is not None else fresh_path(f"{loaded.name}-worst")
    found = searched(loaded, study, asked, path, on)
    if keep is not None:
        found.keep(keep)
        tell(f"instances: {keep}")
    told(found)
    if figure is not None:
        from ..report.figure.worst import save_worst

        save_worst(found.cases, found.findings, figure)
        tell(f"figure: {figure}")
    tell(f"logbook: {path}")
    broken = [claim for claim in found.findings.claims if claim.verdict == "contradicted"]
    if broken:
        first = broken[0]
        tell(f"exit code 1: {first.claim} of {first.contender} is contradicted by the {first.family}")
        raise typer.Exit(1)


def searched(study: Study, file: Path, asked: Search, logbook: Path, on: str | None = None) -> Found:
    """Search, with a bar meanwhile."""
    from ..api.worst import search_worst
    from ..executors.local import engine_at

    with bar() as progress, engine_at(on, study, file) as engine:
        return search_worst(study, file, asked, logbook, engine, progress, tell)


def told(found: Found) -> None:
    """What was found, on standard output."""
    from ..report.text.worst import render

    results().print(render(found.cases, found.findings))
