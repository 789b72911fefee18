"""Commands that look before anything is measured: rehearse, machine, draft."""

from __future__ import annotations

import random
from pathlib import Path
from typing import Annotated

import typer

from ..errors import LogarithmError, one_line
from .common import bar, checked_settings, results, tell

STARTER = '''"""Which tides are the highest of their day? Run it with: logarithm measure {name}"""

from logarithm import Study

study = Study("high-tides", question="Which hours are higher than both their neighbours?", sizes="8..4096")


# A family makes an input of any size. rng is a random.Random, seeded, so that everyone gets the same input.
@study.family
def choppy(n, rng):
    """Up and down at random."""
    return [rng.random() for _ in range(n)]


# A contender does the job. claim= is the order of growth that you expect of it, and is checked.
@study.contender(claim="n", baseline=True)
def hour_by_hour(levels):
    """Look at each hour and its neighbours."""
    peaks = []
    for hour in range(1, len(levels) - 1):
        if levels[hour - 1] < levels[hour] > levels[hour + 1]:
            peaks.append(hour)
    return peaks


@study.contender(claim="n")
def side_by_side(levels):
    """Look at three shifted copies at once."""
    triples = enumerate(zip(levels, levels[1:], levels[2:]), start=1)
    return [hour for hour, (before, level, after) in triples if before < level > after]
'''


def rehearse(
    study: Annotated[Path, typer.Argument(metavar="STUDY", help="A study: a Python file.")],
    budget: Annotated[str, typer.Option("--budget", help="The budget that measuring would have.")] = "60s",
    ceiling: Annotated[str, typer.Option("--ceiling", help="How long a single call may take.")] = "1s",
    sizes: Annotated[str | None, typer.Option("--sizes", help="Another ladder, such as 8..4096.")] = None,
    family: Annotated[list[str] | None, typer.Option("--family", help="Only this family; may be repeated.")] = None,
    only: Annotated[list[str] | None, typer.Option("--only", help="Only this contender; may be repeated.")] = None,
) -> None:
    """Do the contenders agree, which traps are there, how long will measuring take? Nothing is measured."""
    from ..loading import load
    from ..measuring import outlook as outlooks
    from ..measuring import plan
    from ..measuring.rehearsal import first_crew
    from ..measuring.rehearsal import rehearse as rehearse_study
    from ..report.rehearsal import Prospect, render
    from ..report.units import span

    loaded = load(study)
    settings = checked_settings(loaded, study, budget=budget, ceiling=ceiling, sizes=sizes, family=family, only=only)
    tracks = plan.tracks(loaded, settings)
    with bar() as progress, first_crew(study, tracks, settings) as crew:
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
    failures = [
        (f"{name} on {where}", f"{failed.reason} at {size}" + (f" ({failed.detail})" if failed.detail else ""))
        for name, where, size, failed in found.failures
    ]
    traps = [(trap.contender, str(trap)) for trap in found.traps]
    prospects = [Prospect(each.contender, each.family, each.reach, each.call, each.stops) for each in ahead]
    axis = "n" if loaded.axis == "size" else loaded.axis
    results().print(render(verdict, found.disagreements, failures, traps, prospects, needed, axis))
    if found.disagreements:
        raise typer.Exit(1)


def machine() -> None:
    """What this machine can resolve: the clock, and how noisy it is now."""
    from ..measuring.weather import WATCHED, conditions
    from ..report.conditions import render

    tell(f"watching the machine for {WATCHED:g} s")
    results().print(render(conditions()))


def draft(
    file: Annotated[
        Path | None, typer.Argument(metavar="[FILE]", help="The study to write; its name ends in .py.")
    ] = None,
    families: Annotated[bool, typer.Option("--families", help="List the ready-made families with a sample.")] = False,
) -> None:
    """Write a starter study, ready to run; or list the ready-made families."""
    if families:
        from rich.table import Table

        from ..families import ALL

        table = Table.grid(padding=(0, 2))
        for make in ALL:
            sample = one_line(repr(_rounded(make(8, random.Random(1)))), 56)
            table.add_row(make.__name__, sample, make.__doc__)
        results().print(table)
        results().print('\nin a study: study.family(families.shuffled), after "from logarithm import families"')
        return
    if file is None:
        raise LogarithmError("name the study to write, for example logarithm draft study.py, or say --families")
    if file.suffix != ".py":
        raise LogarithmError(f"{file}: a study is a Python file, so its name ends in .py")
    try:
        with file.open("x", encoding="utf-8") as stream:
            stream.write(STARTER.replace("{name}", file.name))
    except FileExistsError:
        raise LogarithmError(f"{file} exists: choose another name, nothing is overwritten") from None
    except OSError as error:
        raise LogarithmError(f"{file} cannot be written: {error.strerror or error}") from None
    tell(f"study: {file}; run it with logarithm measure {file}")


def _rounded(sample: object) -> object:
    """A sample with decimals short enough to show."""
    if isinstance(sample, float):
        return round(sample, 2)
    if isinstance(sample, (list, tuple)):
        return type(sample)(_rounded(each) for each in sample)
    return sample
