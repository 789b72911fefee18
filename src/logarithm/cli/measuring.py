"""Commands that measure."""

from __future__ import annotations

import enum
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from ..errors import LogarithmError, named
from .common import bar, checked_settings, findings_of, guard, print_report, tell

if TYPE_CHECKING:
    from ..measuring.plan.settings import Settings
    from ..measuring.run.resume import More
    from ..notation.sizes import Number
    from ..study.study import Study

Budget = Annotated[str, typer.Option("--budget", help="How long it may take in all.")]
Ceiling = Annotated[str, typer.Option("--ceiling", help="How long a single call may take.")]
Out = Annotated[Path | None, typer.Option("--out", help="The logbook to write; else one in logbooks/.")]


class Inputs(enum.StrEnum):
    """How a trial takes its inputs."""

    FRESH = "fresh"
    SAME = "same"


def measure(
    study: Annotated[Path, typer.Argument(metavar="STUDY", help="A study: a Python file.")],
    budget: Annotated[
        str | None, typer.Option("--budget", help="How long it may take in all.", show_default="60s")
    ] = None,
    ceiling: Ceiling = "1s",
    sizes: Annotated[str | None, typer.Option("--sizes", help="Another ladder, such as 8..4096.")] = None,
    family: Annotated[list[str] | None, typer.Option("--family", help="Only this family; may be repeated.")] = None,
    only: Annotated[list[str] | None, typer.Option("--only", help="Only this contender; may be repeated.")] = None,
    metric: Annotated[
        list[str] | None,
        typer.Option("--metric", help="time, memory, steps, comparisons or a tally; may be repeated."),
    ] = None,
    seed: Annotated[int, typer.Option("--seed", min=0, help="Instances and the order of trials follow from it.")] = 1,
    anyway: Annotated[bool, typer.Option("--anyway", help="Measure even where answers disagree.")] = False,
    memory: Annotated[
        str | None, typer.Option("--memory", help="How much memory a contender may fill, such as 2GiB; else half.")
    ] = None,
    inputs: Annotated[
        Inputs, typer.Option("--inputs", help="Take inputs in turn, or repeat the same one on purpose.")
    ] = Inputs.FRESH,
    out: Out = None,
    resume: Annotated[
        Path | None, typer.Option("--resume", metavar="LOGBOOK", help="Go on with one that was interrupted.")
    ] = None,
) -> None:
    """Check that the contenders agree, measure them into a logbook, and report."""
    from ..measuring.run.resume import More
    from ..notation.durations import capacity, seconds
    from ..notation.sizes import ladder
    from ..study.loading import load

    if out is not None:
        guard(out, overwrite=False)
    loaded = load(study)
    if resume is not None:
        more = More(
            None if budget is None else seconds(budget),
            None if sizes is None else ladder(sizes),
            None if memory is None else capacity(memory),
        )
        path = _resume(loaded, study, resume, more)
    else:
        settings = checked_settings(
            loaded,
            study,
            budget or "60s",
            ceiling,
            sizes=sizes,
            family=family,
            only=only,
            metric=metric,
            seed=seed,
            anyway=anyway,
            memory=memory,
            same=inputs is Inputs.SAME,
        )
        path = run(loaded, study, settings, out)
    print_report(findings_of(path))
    tell(f"logbook: {path}")


def race(
    file: Annotated[Path, typer.Argument(metavar="FILE", help="A Python file with the functions.")],
    functions: Annotated[list[str], typer.Argument(metavar="FUNCTION…", help="Functions of one argument in it.")],
    family: Annotated[
        list[str] | None,
        typer.Option("--family", help="A ready-made family, shuffled if none is named; may be repeated."),
    ] = None,
    sizes: Annotated[
        str | None, typer.Option("--sizes", help="A ladder, such as 8..4096; else as far as it goes.")
    ] = None,
    budget: Budget = "20s",
    ceiling: Ceiling = "1s",
    unordered: Annotated[bool, typer.Option("--unordered", help="Answers agree in any order.")] = False,
    within: Annotated[float, typer.Option("--within", help="Numbers agree within this share.")] = 1e-9,
    anyway: Annotated[bool, typer.Option("--anyway", help="Measure even where answers disagree.")] = False,
    out: Out = None,
) -> None:
    """Race functions of a file over ready-made families, without a study file."""
    import msgspec.toml

    from ..study.families import ALL
    from ..study.loading import functions_of, load

    functions_of(file, functions)
    ready = [make.__name__ for make in ALL]
    chosen = family or ["shuffled"]
    for name in chosen:
        if name not in ready:
            raise LogarithmError(f"there is no ready-made family '{name}': there are {named(ready, 20)}")
    if out is not None:
        guard(out, overwrite=False)
    asked = {
        "name": " against ".join(functions),
        **({} if sizes is None else {"sizes": sizes}),
        "family": [{"ready": name} for name in chosen],
        "contender": [{"python": f"{file.resolve()}:{name}", "baseline": name == functions[0]} for name in functions],
        "agree": {"within": within, "unordered": unordered},
    }
    with tempfile.TemporaryDirectory() as folder:
        study = Path(folder) / "race.toml"
        study.write_bytes(msgspec.toml.encode(asked))
        loaded = load(study)
        path = run(loaded, study, checked_settings(loaded, study, budget, ceiling, anyway=anyway), out)
    print_report(findings_of(path))
    tell(f"logbook: {path}")


def demo(
    name: Annotated[str, typer.Argument(metavar="[NAME]", help="Which one.")] = "closest-buoys",
    listed: Annotated[bool, typer.Option("--list", help="Name the studies that ship.")] = False,
    budget: Annotated[str | None, typer.Option("--budget", help="How long measuring may take.")] = None,
) -> None:
    """Run a study that ships, from start to report and figure."""
    from ..demos import DEMOS

    if listed:
        for each in DEMOS:
            typer.echo(f"{each.name:16} {each.about}")
        return
    found = next((each for each in DEMOS if each.name == name), None)
    if found is None:
        raise LogarithmError(f"there is no demo '{name}': there are {named([each.name for each in DEMOS])}")
    from ..report.figure.views import save
    from ..study.loading import load

    loaded = load(found.file)
    settings = checked_settings(loaded, found.file, budget or f"{found.budget}s", f"{found.ceiling}s")
    tell(f"{found.name}: {found.about}; this takes about {settings.budget:.0f} s")
    path = run(loaded, found.file, settings, None)
    findings = findings_of(path)
    figure = path.with_suffix(".png")
    save(findings, figure)
    print_report(findings)
    typer.echo(f"\nstudy:   {found.file}\nlogbook: {path}\nfigure:  {figure}")


def run(study: Study, file: Path, settings: Settings, out: Path | None) -> Path:
    """Measure into a logbook, with a progress bar. Returns the logbook's path."""
    from ..logbook.writing import LogbookWriter, fresh_path
    from ..measuring.run.measure import measure as measure_study

    path = out if out is not None else fresh_path(study.name)
    with LogbookWriter(path) as writer, bar() as progress:
        try:
            outcome = measure_study(study, file, settings, writer, progress, advice)
        except KeyboardInterrupt:
            tell(f"\ninterrupted; what was measured until then is in {path}")
            raise
    for disagreement in outcome.rehearsed.disagreements:
        tell(f"warning: {disagreement}")
    return path


def advice(logbook: Path) -> dict[tuple[str, str], list[Number]]:
    """Which sizes to add, from what a logbook holds so far. The analysis is loaded when it is first asked."""
    from ..analysis.wanted import sizes_wanted
    from ..logbook.reading import read_logbook

    return sizes_wanted(read_logbook(logbook))


def _resume(study: Study, file: Path, logbook: Path, more: More) -> Path:
    """Go on with a logbook until its budget is used."""
    from ..logbook.reading import read_logbook
    from ..logbook.writing import LogbookWriter
    from ..measuring.run.resume import resume

    read = read_logbook(logbook)
    with LogbookWriter(logbook, append=True) as writer, bar() as progress:
        try:
            resume(study, file, read, writer, progress, advice, more)
        except KeyboardInterrupt:
            tell(f"\ninterrupted; what was measured until then is in {logbook}")
            raise
    return logbook
