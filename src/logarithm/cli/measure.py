"""Commands that measure."""

from __future__ import annotations

import enum
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from ..api.stopping import Adviser
from ..errors import LogarithmError, there
from .common import On, conclude, findings_of, guard, print_report, tell
from .view import watching

if TYPE_CHECKING:
    from ..run.plan.settings import Settings
    from ..run.resume import More
    from ..study.study import Study

Budget = Annotated[str, typer.Option("--budget", help="How long it may take at most.")]
Ceiling = Annotated[str, typer.Option("--ceiling", help="How long a single call may take.")]
Whole = Annotated[
    bool, typer.Option("--whole-budget", help="Use all of the budget, even when everything is settled before.")
]
Quiet = Annotated[bool, typer.Option("--quiet", "-q", help="Say nothing but the result.")]
Verbose = Annotated[bool, typer.Option("--verbose", "-v", help="Log what is decided, and why.")]
Out = Annotated[Path | None, typer.Option("--out", help="The logbook to write; else one in logbooks/.")]


class Inputs(enum.StrEnum):
    """How a trial takes its inputs."""

    FRESH = "fresh"
    SAME = "same"


def measure(
    study: Annotated[Path, typer.Argument(metavar="STUDY", help="A study: a Python file.")],
    budget: Annotated[
        str | None, typer.Option("--budget", help="How long it may take at most.", show_default="60s")
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
        Path | None,
        typer.Option(
            "--resume",
            metavar="LOGBOOK",
            help="Go on with a logbook: further, or with contenders edited or added since.",
        ),
    ] = None,
    whole: Whole = False,
    quiet: Quiet = False,
    verbose: Verbose = False,
    on: On = None,
) -> None:
    """Check that the contenders agree, measure them into a logbook until everything is settled, and report."""
    from ..api.options import settings_of
    from ..notation.durations import capacity, seconds
    from ..notation.sizes import ladder
    from ..run.resume import More
    from ..study.loading import load

    if out is not None:
        guard(out, overwrite=False)
    loaded = load(study)
    if resume is not None:
        more = More(
            None if budget is None else seconds(budget),
            None if sizes is None else ladder(sizes),
            None if memory is None else capacity(memory),
            whole,
        )
        path = _resume(loaded, study, resume, more, Telling(quiet, verbose))
    else:
        settings = settings_of(
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
            whole=whole,
        )
        if on is not None:
            return _on_machines(loaded, study, settings, on, out, quiet)
        path = run(loaded, study, settings, out, Telling(quiet, verbose))
    conclude(path)
    if not quiet:
        tell(f"logbook: {path}")
    return None


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
    quiet: Quiet = False,
    verbose: Verbose = False,
) -> None:
    """Race functions of a file over ready-made families, without a study file."""
    import msgspec.toml

    from ..api.options import settings_of
    from ..study.families import ALL
    from ..study.loading import functions_of, load

    functions_of(file, functions)
    ready = [make.__name__ for make in ALL]
    chosen = family or ["shuffled"]
    for name in chosen:
        if name not in ready:
            raise LogarithmError(f"there is no ready-made family '{name}': {there(ready, 20)}")
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
        path = run(
            loaded, study, settings_of(loaded, study, budget, ceiling, anyway=anyway), out, Telling(quiet, verbose)
        )
    conclude(path)
    if not quiet:
        tell(f"logbook: {path}")


def demo(
    name: Annotated[str, typer.Argument(metavar="[NAME]", help="Which one.")] = "closest-buoys",
    listed: Annotated[bool, typer.Option("--list", help="Name the studies that ship.")] = False,
    budget: Annotated[str | None, typer.Option("--budget", help="How long it may take at most.")] = None,
    whole: Whole = False,
    quiet: Quiet = False,
    verbose: Verbose = False,
) -> None:
    """Run a study that ships, from start to report and figure."""
    from ..demos import DEMOS

    if listed:
        for each in DEMOS:
            typer.echo(f"{each.name:16} {each.about}")
        return None
    found = next((each for each in DEMOS if each.name == name), None)
    if found is None:
        raise LogarithmError(f"there is no demo '{name}': {there([each.name for each in DEMOS])}")
    from ..api.options import settings_of
    from ..notation.durations import seconds
    from ..report.figure.views import save
    from ..study.loading import load

    loaded = load(found.file)
    if found.is_worst:
        return _worst_demo(loaded, found.name, found.about, found.file, seconds(budget) if budget else found.budget)
    settings = settings_of(loaded, found.file, budget or f"{found.budget}s", f"{found.ceiling}s", whole=whole)
    if not quiet:
        tell(f"{found.name}: {found.about}; this takes at most {settings.budget:.0f} s")
    path = run(loaded, found.file, settings, None, Telling(quiet, verbose))
    findings = findings_of(path)
    figure = path.with_suffix(".png")
    save(findings, figure)
    print_report(findings)
    typer.echo(f"\nstudy:   {found.file}\nlogbook: {path}\nfigure:  {figure}")
    typer.echo(NEXT)
    return None


def _worst_demo(study: Study, name: str, about: str, file: Path, budget: float) -> None:
    """Search for the worst case of a study that ships, and draw it."""
    from ..api.worst import Search
    from ..logbook.writing import fresh_path
    from ..report.figure.worst import save_worst
    from .worst import searched, told

    tell(f"{name}: {about}; this takes at most {budget:.0f} s")
    path = fresh_path(f"{study.name}-worst")
    found = searched(study, file, Search(budget=budget), path)
    figure = path.with_suffix(".png")
    save_worst(found.cases, found.findings, figure)
    told(found)
    typer.echo(f"\nstudy:   {file}\nlogbook: {path}\nfigure:  {figure}\n{NEXT}")


NEXT = (
    "next:    logarithm report --format html --out page.html, a page to work with; "
    "logarithm draft study.py, a study of your own"
)


@dataclass(frozen=True, slots=True)
class Telling:
    """How much is said while a run goes on."""

    quiet: bool = False
    verbose: bool = False


def run(study: Study, file: Path, settings: Settings, out: Path | None, telling: Telling = Telling()) -> Path:
    """Measure into a logbook, and show it meanwhile. Returns the logbook's path."""
    from ..api import running
    from ..logbook.writing import fresh_path

    path = out if out is not None else fresh_path(study.name)
    adviser = Adviser()
    adviser.prepare()
    shown = watching(study.name, settings.budget, adviser, path, telling.quiet, telling.verbose)
    with _reported(path), shown as progress:
        disagreements = running.run(study, file, settings, path, adviser, progress)
    for disagreement in disagreements:
        tell(f"warning: {disagreement}")
    return path


def _resume(study: Study, file: Path, logbook: Path, more: More, telling: Telling) -> Path:
    """Go on with a logbook until everything is settled or its budget is used."""
    from ..api import running
    from ..logbook.reading import read_logbook

    adviser = Adviser()
    adviser.prepare()
    read = read_logbook(logbook)
    budget = more.budget or read.study.budget or 60.0
    shown = watching(study.name, budget, adviser, logbook, telling.quiet, telling.verbose)
    with _reported(logbook), shown as progress:
        running.go_on(study, file, read, more, adviser, progress)
    return logbook


@contextmanager
def _reported(logbook: Path) -> Iterator[None]:
    """Where a run is interrupted, report what there is; interrupted again, end at once."""
    try:
        yield
    except KeyboardInterrupt:
        tell(f"\ninterrupted; what was measured until then is in {logbook}")
        with suppress(LogarithmError):
            print_report(findings_of(logbook))
        raise


def _on_machines(study: Study, file: Path, settings: Settings, on: str, out: Path | None, quiet: bool) -> None:
    """Measure on each machine of a cluster, and report what holds on each and on all."""
    from ..api.running import run_on_machines
    from ..logbook.writing import fresh_path
    from .compare import print_across

    made = run_on_machines(study, file, settings, on, out if out is not None else fresh_path(study.name), tell)
    if not quiet:
        for path in made:
            tell(f"logbook: {path}")
    if len(made) == 1:
        conclude(made[0])
    else:
        print_across(made)
