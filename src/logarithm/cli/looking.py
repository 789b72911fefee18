"""Commands that look before anything is measured: rehearse, machine, draft."""

from __future__ import annotations

import random
import time
from pathlib import Path
from typing import Annotated

import typer

from ..errors import LogarithmError, MeasuringError, one_line
from .common import bar, checked_settings, guard, results, tell


def rehearse(
    study: Annotated[Path, typer.Argument(metavar="STUDY", help="A study: a Python file.")],
    budget: Annotated[str, typer.Option("--budget", help="The budget that measuring would have.")] = "60s",
    ceiling: Annotated[str, typer.Option("--ceiling", help="How long a single call may take.")] = "1s",
    sizes: Annotated[str | None, typer.Option("--sizes", help="Another ladder, such as 8..4096.")] = None,
    family: Annotated[list[str] | None, typer.Option("--family", help="Only this family; may be repeated.")] = None,
    only: Annotated[list[str] | None, typer.Option("--only", help="Only this contender; may be repeated.")] = None,
) -> None:
    """Do the contenders agree, which traps are there, how long will measuring take? Nothing is measured."""
    from ..measuring.host.learning import learnt
    from ..measuring.parent.tools import absent
    from ..measuring.plan.track import tracks as tracks_of
    from ..measuring.rehearsing import outlook as outlooks
    from ..measuring.rehearsing.rehearsal import first_crew
    from ..measuring.rehearsing.rehearsal import rehearse as rehearse_study
    from ..report.text.conditions import learning
    from ..report.text.rehearsal import Prospect, render
    from ..report.units import span
    from ..study.loading import load

    loaded = load(study)
    settings = checked_settings(loaded, study, budget=budget, ceiling=ceiling, sizes=sizes, family=family, only=only)
    missing = absent(loaded)
    for name, why in missing.items():
        tell(f"{name} is left out: {why}")
    tracks = tracks_of(loaded, settings, missing)
    begun = time.monotonic()
    with bar() as progress, first_crew(loaded, study, tracks, settings) as crew:
        starting = time.monotonic() - begun
        found = rehearse_study(loaded, tracks, crew, float("inf"), lambda what: progress(0.3, what))
        ahead = outlooks.outlook(tracks, crew, settings, settings.seed, lambda what: progress(0.7, what))
    most = f"sizes up to {max(found.sizes)}" if found.sizes else "no size"
    judged = "compared" if loaded.judge is None else "judged by the referee"
    verdict = f"The answers agree ({found.compared} instances {judged}, {most})."
    if found.disagreements:
        verdict = "The answers disagree."
    elif not found.compared:
        verdict = "No answers were compared: there is only one contender that answers."
    heats = outlooks.heats_within(ahead, settings)
    seconds = sum(each.heat for each in ahead)
    needed = f"One trial of everything takes about {span(seconds)}; a budget of {span(settings.budget)} gives about "
    needed += f"{heats} heats." if heats else "no whole heat: the dearest sizes will be left out."
    expected = outlooks.settled_after(ahead, tracks, starting, settings)
    needed += (
        f"\nMost will be settled after about {span(expected)}; close crossovers and small differences take longer."
    )
    failures = [
        (f"{name} on {where}", f"{failed.reason} at {size}" + (f" ({failed.detail})" if failed.detail else ""))
        for name, where, size, failed in found.failures
    ]
    traps = [(trap.contender, str(trap)) for trap in found.traps]
    prospects = [Prospect(each.contender, each.family, each.reach, each.call, each.stops) for each in ahead]
    axis = "n" if loaded.axis == "size" else loaded.axis
    needed += f"\n{learning(learnt())}"
    results().print(render(verdict, found.disagreements, failures, traps, prospects, needed, axis))
    if found.disagreements:
        raise typer.Exit(1)
    if ahead and all(each.reach is None for each in ahead):
        raise MeasuringError("no contender works at its smallest size: see the failures above")


def machine() -> None:
    """What this machine can resolve: the clock, and how noisy it is now."""
    from ..measuring.host.learning import learnt
    from ..measuring.host.weather import WATCHED, conditions
    from ..report.text.conditions import render

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
