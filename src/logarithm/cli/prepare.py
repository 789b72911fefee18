"""Commands that look before anything is measured: rehearse, machine, draft."""

from __future__ import annotations

import random
from pathlib import Path
from typing import Annotated

import typer

from ..errors import LogarithmError, MeasuringError, one_line
from .common import bar, guard, results, tell


def rehearse(
    study: Annotated[Path, typer.Argument(metavar="STUDY", help="A study: a Python file.")],
    budget: Annotated[str, typer.Option("--budget", help="The budget that measuring would have.")] = "60s",
    ceiling: Annotated[str, typer.Option("--ceiling", help="How long a single call may take.")] = "1s",
    sizes: Annotated[str | None, typer.Option("--sizes", help="Another ladder, such as 8..4096.")] = None,
    family: Annotated[list[str] | None, typer.Option("--family", help="Only this family; may be repeated.")] = None,
    only: Annotated[list[str] | None, typer.Option("--only", help="Only this contender; may be repeated.")] = None,
) -> None:
    """Do the contenders agree, which traps are there, how long will measuring take? Nothing is measured."""
    from ..api.options import settings_of
    from ..api.rehearse import rehearsed
    from ..report.text.rehearsal import render
    from ..study.loading import load

    loaded = load(study)
    settings = settings_of(loaded, study, budget, ceiling, sizes=sizes, family=family, only=only)
    with bar() as progress:
        found = rehearsed(loaded, study, settings, progress)
    for name, why in found.missing.items():
        tell(f"{name} is left out: {why}")
    results().print(render(found))
    if not found.agrees:
        raise typer.Exit(1)
    if found.nothing_works:
        raise MeasuringError("no contender works at its smallest size: see the failures above")


def machine() -> None:
    """What this machine can resolve: the clock, and how noisy it is now."""
    from ..report.text.conditions import render
    from ..supervisor.machine.noise import WATCHED, conditions
    from ..supervisor.machine.repeated_inputs import learnt

    tell(f"watching the machine for {WATCHED:g} s")
    results().print(render(conditions(), learnt()))


def draft(
    file: Annotated[
        Path | None,
        typer.Argument(metavar="[FILE]", help="What to write: a study (.py, .toml) or a worker (.c, .js, .java, .rs)."),
    ] = None,
    about: Annotated[
        str,
        typer.Option("--about", help="What it shows: compare, cases, stages, counts, class or worker."),
    ] = "compare",
    families: Annotated[bool, typer.Option("--families", help="List the ready-made families with a sample.")] = False,
) -> None:
    """Write a starter study or a worker in another language, ready to run; or list the ready-made families."""
    from ..drafts import beside, draft_of
    from ..logbook.files import write_file

    if families:
        from rich.table import Table

        from ..study.families import ALL

        table = Table.grid(padding=(0, 2))
        for make in ALL:
            sample = one_line(repr(_rounded(make(8, random.Random(1)))), 56)
            table.add_row(make.__name__, sample, make.__doc__)
        results().print(table)
        results().print('\nin a study: study.family(families.shuffled), after "from logarithm import families"')
        return
    if file is None:
        raise LogarithmError("name the study to write, for example logarithm draft study.py, or say --families")
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
    tell(told if is_study else f"worker: {file}; the comment at its top says how to run it")


def _rounded(sample: object) -> object:
    """A sample with decimals short enough to show."""
    if isinstance(sample, float):
        return round(sample, 2)
    if isinstance(sample, (list, tuple)):
        return type(sample)(_rounded(each) for each in sample)
    return sample
