"""Commands that measure."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from ..errors import LogarithmError, named
from .common import findings_of, guard, print_report, tell

if TYPE_CHECKING:
    from ..measuring.plan import Settings
    from ..study import Study


def measure(
    study: Annotated[Path, typer.Argument(metavar="STUDY", help="A study: a Python file.")],
    budget: Annotated[str, typer.Option("--budget", help="How long it may take in all.")] = "60s",
    ceiling: Annotated[str, typer.Option("--ceiling", help="How long a single call may take.")] = "1s",
    sizes: Annotated[str | None, typer.Option("--sizes", help="Another ladder, such as 8..4096.")] = None,
    family: Annotated[list[str] | None, typer.Option("--family", help="Only this family; may be repeated.")] = None,
    only: Annotated[list[str] | None, typer.Option("--only", help="Only this contender; may be repeated.")] = None,
    seed: Annotated[int, typer.Option("--seed", min=0, help="Instances and the order of trials follow from it.")] = 1,
    anyway: Annotated[bool, typer.Option("--anyway", help="Measure even where answers disagree.")] = False,
    out: Annotated[Path | None, typer.Option("--out", help="The logbook to write; else one in logbooks/.")] = None,
) -> None:
    """Check that the contenders agree, measure them into a logbook, and report."""
    from ..durations import seconds
    from ..loading import load
    from ..measuring.plan import Settings
    from ..sizes import ladder

    settings = Settings(
        budget=seconds(budget),
        ceiling=seconds(ceiling),
        seed=seed,
        sizes=ladder(sizes) if sizes is not None else None,
        families=tuple(family or ()),
        contenders=tuple(only or ()),
        anyway=anyway,
    )
    if out is not None:
        guard(out, overwrite=False)
    loaded = load(study)
    for kind, wanted, there in (
        ("family", settings.families, [each.name for each in loaded.families]),
        ("contender", settings.contenders, [each.name for each in loaded.contenders]),
    ):
        for name in wanted:
            if name not in there:
                raise LogarithmError(f"{study} has no {kind} '{name}': there are {named(there)}")
    path = run(loaded, study, settings, out)
    print_report(findings_of(path))
    tell(f"logbook: {path}")


def demo(
    name: Annotated[str, typer.Argument(metavar="[NAME]", help="Which one.")] = "closest-buoys",
    listed: Annotated[bool, typer.Option("--list", help="Name the studies that ship.")] = False,
    budget: Annotated[str | None, typer.Option("--budget", help="How long measuring may take.")] = None,
) -> None:
    """Run a study that ships, from start to report and figure."""
    from ..demos import DEMOS
    from ..durations import seconds

    if listed:
        for each in DEMOS:
            typer.echo(f"{each.name:16} {each.about}")
        return
    found = next((each for each in DEMOS if each.name == name), None)
    if found is None:
        raise LogarithmError(f"there is no demo '{name}': there are {named([each.name for each in DEMOS])}")
    from ..loading import load
    from ..measuring.plan import Settings
    from ..report.figure import save_growth

    settings = Settings(budget=seconds(budget) if budget else found.budget, ceiling=found.ceiling)
    tell(f"{found.name}: {found.about}; this takes about {settings.budget:.0f} s")
    path = run(load(found.file), found.file, settings, None)
    findings = findings_of(path)
    figure = path.with_suffix(".png")
    save_growth(findings, figure)
    print_report(findings)
    typer.echo(f"\nstudy:   {found.file}\nlogbook: {path}\nfigure:  {figure}")


def run(study: Study, file: Path, settings: Settings, out: Path | None) -> Path:
    """Measure into a logbook, with a progress bar. Returns the logbook's path."""
    from ..logbook.writing import LogbookWriter, fresh_path
    from ..measuring.run import measure as measure_study

    path = out if out is not None else fresh_path(study.name)
    with LogbookWriter(path) as writer, _progress() as progress:
        try:
            outcome = measure_study(study, file, settings, writer, progress)
        except KeyboardInterrupt:
            tell(f"\ninterrupted; what was measured until then is in {path}")
            raise
    for disagreement in outcome.rehearsed.disagreements:
        tell(f"warning: {disagreement}")
    return path


@contextmanager
def _progress() -> Iterator[Callable[[float, str], None]]:
    """A bar on standard error: the share of the budget, the time left, what is being done."""
    from rich.console import Console
    from rich.progress import BarColumn, Progress, TaskProgressColumn, TextColumn, TimeRemainingColumn

    columns = (
        BarColumn(30),
        TaskProgressColumn(),
        TimeRemainingColumn(),
        TextColumn("{task.description}", markup=False),
    )
    console = Console(stderr=True)
    with Progress(*columns, console=console, transient=True, disable=not console.is_terminal) as bar:
        task = bar.add_task("starting", total=1.0)
        yield lambda share, what: bar.update(task, completed=share, description=what)
