"""Commands that run a study: measure, race, demo, rehearse, verify, worst."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from ...errors import LogarithmError, MeasuringError, there
from ..after_run import concluded, reported
from ..gates import shares_of, stop, stop_measured
from ..options import (
    CEILING_USUAL,
    Anyway,
    At,
    Budget,
    Dark,
    FailOnSlower,
    Family,
    Form,
    Format,
    Given,
    LogbookOut,
    On,
    Out,
    Overwrite,
    Pixels,
    Quiet,
    Seed,
    Sizes,
    StudyArgument,
    StudyOrFile,
    Verbose,
    completed,
    pixels_of,
    with_run_options,
)
from ..output import deliver, fail, guard, replacing, tell
from .read import deliver_report, findings_at

if TYPE_CHECKING:
    from ...results.tasks.worst import Search
    from ...study.run_options import RunOptions

NEXT = (
    "next:    logarithm report --format html --out page.html, a page to work with; "
    "logarithm draft study.py, a study of your own"
)


@with_run_options()
def measure(
    study: StudyArgument,
    budget: Budget = None,
    out: LogbookOut = None,
    resume: Annotated[
        Path | None,
        typer.Option(
            "--resume",
            metavar="LOGBOOK",
            help="Go on with a logbook: further, or with contenders edited or added since.",
        ),
    ] = None,
    fail_on_slower: FailOnSlower = None,
    overwrite: Overwrite = False,
    form: Format = Form.TEXT,
    quiet: Quiet = False,
    verbose: Verbose = False,
    on: On = None,
    **options: Any,
) -> None:
    """Check that the contenders agree, measure them into a logbook until everything is settled, and report."""
    from ...api import tasks
    from ...logbook.folder import fresh_path
    from ...study.files.loading import load

    guard(out, overwrite)
    loaded = load(study)
    if on is not None:
        found = tasks.measure_on(loaded, on, budget, out=out, lost=tell, **options)
        books = list(found.findings.values())
        for each in () if quiet else books:
            tell(f"logbook: {each.run.logbook}")
        deliver(books[0] if len(books) == 1 else found, form)
        stop_measured(books)
        return
    path = resume or out or fresh_path(loaded.name)
    with replacing(out, overwrite), reported(path):
        findings = tasks.measure(loaded, budget, out=path, resume=resume, quiet=quiet, verbose=verbose, **options)
    concluded(findings, form, quiet, shares_of(fail_on_slower or []))


def race(
    file: Annotated[
        str, typer.Argument(metavar="[FILE|MODULE]", help="A Python file, or a module, with the functions.")
    ] = "",
    functions: Annotated[
        list[str] | None, typer.Argument(metavar="[FUNCTION…]", help="Functions of one argument in it.")
    ] = None,
    expression: Annotated[
        list[str] | None,
        typer.Option("-e", "--expression", help="An expression of x, an instance, or of what --setup gives."),
    ] = None,
    setup: Annotated[
        Path | None,
        typer.Option("--setup", metavar="FILE", help="A file whose functions of (n, rng) give values by their names."),
    ] = None,
    given: Given = None,
    family: Annotated[
        list[str] | None,
        typer.Option("--family", help="A ready-made family, shuffled if none is named; may be repeated."),
    ] = None,
    sizes: Sizes = None,
    budget: Annotated[str, typer.Option("--budget", help="How long it may take at most.")] = "20s",
    ceiling: Annotated[
        str | None,
        typer.Option("--ceiling", help="How long a single call may take.", show_default=CEILING_USUAL),
    ] = None,
    unordered: Annotated[bool, typer.Option("--unordered", help="Answers agree in any order.")] = False,
    within: Annotated[float, typer.Option("--within", help="Numbers agree within this share.")] = 1e-9,
    anyway: Anyway = False,
    out: LogbookOut = None,
    overwrite: Overwrite = False,
    form: Format = Form.TEXT,
    quiet: Quiet = False,
    verbose: Verbose = False,
) -> None:
    """Race functions or expressions over ready-made families or an input of your own, without a study file."""
    from ...api import tasks
    from ...api.options import named_sizes
    from ...logbook.folder import fresh_path
    from ...study.files.plain import Plain, study_of

    guard(out, overwrite)
    names, texts = functions or [], expression or []
    if not names and not texts:
        raise LogarithmError("name a file and functions in it, or expressions: logarithm race -e 'max(x)' -e 'x[-1]'")
    plain = Plain(file, names, texts, setup, family or ["shuffled"], given, named_sizes(sizes), within, unordered)
    with study_of(plain) as study:
        path = out or fresh_path(study.name)
        with replacing(out, overwrite), reported(path):
            findings = tasks.measure(
                study, budget, out=path, quiet=quiet, verbose=verbose, ceiling=ceiling, anyway=anyway
            )
    concluded(findings, form, quiet)


@with_run_options("whole_budget")
def demo(
    name: Annotated[str, typer.Argument(metavar="[NAME]", help="Which one.")] = "closest-buoys",
    listed: Annotated[bool, typer.Option("--list", help="Name the studies that ship.")] = False,
    budget: Annotated[str | None, typer.Option("--budget", help="How long it may take at most.")] = None,
    quiet: Quiet = False,
    verbose: Verbose = False,
    **options: Any,
) -> None:
    """Run a study that ships, from start to report and figure."""
    from ...demos import DEMOS

    if listed:
        for each in DEMOS:
            typer.echo(f"{each.name:16} {each.about}")
        return
    found = next((each for each in DEMOS if each.name == name), None)
    if found is None:
        raise LogarithmError(f"there is no demo '{name}': {there([each.name for each in DEMOS])}")
    from ...api import tasks
    from ...logbook.folder import fresh_path
    from ...notation.durations import seconds
    from ...report.figure.charts.worst import save_worst
    from ...report.figure.views import save
    from ...study.files.loading import load

    loaded = load(found.file)
    most = seconds(budget) if budget else found.budget
    if not quiet:
        tell(f"{found.name}: {found.about}; this takes at most {most:g} s")
    if found.is_worst:
        search = tasks.worst(loaded, f"{most}s", quiet=quiet, lost=tell)
        path = Path(search.findings.run.logbook)
        save_worst(search, path.with_suffix(".png"))
        deliver(search)
    else:
        path = fresh_path(loaded.name)
        limits: RunOptions = {"ceiling": f"{found.ceiling}s", **options}  # type: ignore[typeddict-item]
        with reported(path):
            findings = tasks.measure(loaded, f"{most}s", out=path, quiet=quiet, verbose=verbose, **limits)
        save(findings, path.with_suffix(".png"))
        deliver_report(findings)
    typer.echo(f"\nstudy:   {found.file}\nlogbook: {path}\nfigure:  {path.with_suffix('.png')}\n{NEXT}")


@with_run_options("ceiling", "sizes", "family", "only")
def rehearse(
    study: StudyArgument,
    budget: Annotated[
        str | None, typer.Option("--budget", help="The budget that measuring would have.", show_default="60s")
    ] = None,
    form: Format = Form.TEXT,
    out: Out = None,
    overwrite: Overwrite = False,
    **options: Any,
) -> None:
    """Do the contenders agree, which traps are there, how long will measuring take? Nothing is measured."""
    from ...api import tasks

    guard(out, overwrite)
    found = tasks.rehearse(study, budget=budget, **options)
    for name, why in found.missing.items():
        tell(f"{name} is left out: {why}")
    deliver(found, form, out, overwrite, "rehearsal")
    if not found.agrees:
        raise typer.Exit(1)
    if found.nothing_works:
        raise MeasuringError("no contender works at its smallest size: see the failures above")
    stop(found.broken)


@with_run_options("ceiling")
def verify(
    named: Annotated[
        list[str] | None,
        typer.Argument(
            metavar="[LOGBOOK|STUDY] [CONTENDER…]",
            help="A logbook, the newest if none is named, or a study; and contenders, all if none is named.",
            autocompletion=completed,
        ),
    ] = None,
    family: Family = None,
    at: At = None,
    strict: Annotated[bool, typer.Option("--strict", help="Claims that are undecided or slower fail too.")] = False,
    budget: Budget = None,
    junit: Annotated[Path | None, typer.Option("--junit", metavar="FILE", help="Also write JUnit XML.")] = None,
    form: Format = Form.TEXT,
    out: Out = None,
    overwrite: Overwrite = False,
    quiet: Quiet = False,
    verbose: Verbose = False,
    **options: Any,
) -> None:
    """Do the claims hold? The exit code is 1 where one is contradicted.

    Of a study, what seems contradicted is measured again, with what is left of the budget, before it is believed.
    """
    from ...report.text.junit import write_junit

    guard(junit, overwrite)
    guard(out, overwrite)
    subject, *only = named or [""]
    if subject.endswith((".py", ".toml")):
        from ...api import tasks

        def doubting(names: list[str]) -> None:
            if not quiet:
                tell(f"measured again, before it is believed: {', '.join(names)}")

        options |= {name: each for name, each in (("only", only), ("family", family)) if each}
        found = tasks.verify(subject, budget, strict=strict, quiet=quiet, verbose=verbose, doubting=doubting, **options)
    else:
        found = findings_at(named, at, family).verify(strict)
    deliver(found, form, out, overwrite, "verdicts")
    if junit is not None:
        write_junit(found, junit)
        tell(f"JUnit XML: {junit}")
    failing = [row for row in found if row.fails]
    stop(found.broken, len(failing))
    if failing:
        from ...report.documents.verdicts import where
        from ...report.units import formula

        first = failing[0]
        claim = f"{formula(first.claim)} of {first.contender} on {where(first)}"
        fail(f"{claim} is {first.verdict}", len(failing) - 1)


@with_run_options("ceiling", "sizes", "family", "only", "metric", "seed", "prepare")
def history(
    study: StudyArgument,
    revisions: Annotated[str, typer.Argument(metavar="FROM..TO", help="A range of commits, such as v1..HEAD.")],
    budget: Budget = None,
    fail_on_slower: FailOnSlower = None,
    figure: Annotated[
        Path | None, typer.Option("--figure", metavar="FILE", help="Also draw it: PNG, SVG or PDF.")
    ] = None,
    form: Format = Form.TEXT,
    out: Out = None,
    overwrite: Overwrite = False,
    quiet: Quiet = False,
    **options: Any,
) -> None:
    """Which commits changed the cost? Revisions are measured side by side, halved where neighbours differ."""
    from ...api import tasks
    from ...report.figure.canvas import check_kind, save_figure
    from ...results.tasks.gates import limit_of
    from ...results.tasks.history import label_of

    for path in (out, figure):
        guard(path, overwrite)
    if figure is not None:
        check_kind(figure)
    shares = shares_of(fail_on_slower or [])
    found = tasks.history(study, revisions, budget, quiet=quiet, tell=(lambda _: None) if quiet else tell, **options)
    deliver(found, form, out, overwrite, "history")
    if figure is not None and found.costs:
        save_figure(found.plot(), figure)
        tell(f"figure: {figure}")
    slower = [each for each in found.steps if each.exceeds(limit_of(each.metric, shares))]
    if slower:
        first = slower[0]
        fail(f"{first.contender} is slower since {label_of(first.commit)} ({first.subject})", len(slower) - 1)


def worst(
    study: StudyOrFile,
    contenders: Annotated[
        list[str] | None, typer.Argument(metavar="[CONTENDER…]", help="Some of them, or functions of a plain file.")
    ] = None,
    only: Annotated[list[str] | None, typer.Option("--only", help="Only this contender; may be repeated.")] = None,
    family: Family = None,
    metric: Annotated[
        str, typer.Option("--metric", help="What to make large: work, steps, comparisons, memory or a tally.")
    ] = "work",
    budget: Budget = None,
    sizes: Sizes = None,
    at: At = None,
    seed: Seed = 1,
    out: LogbookOut = None,
    keep: Annotated[
        Path | None, typer.Option("--keep", metavar="FILE", help="Keep the instances as JSON, for study.family_from.")
    ] = None,
    figure: Annotated[
        Path | None, typer.Option("--figure", metavar="FILE", help="Also draw it: PNG, SVG or PDF.")
    ] = None,
    size: Pixels = None,
    dark: Dark = False,
    form: Format = Form.TEXT,
    overwrite: Overwrite = False,
    on: On = None,
) -> None:
    """Search for inputs on which each contender does most work, and say how that worst case grows.

    What is found is a lower bound: that no worse was found does not say that there is none.
    """
    from ...api import tasks
    from ...report.figure.charts.worst import save_worst
    from ...study.files.plain import Plain, asked_of

    for path in (keep, figure):
        guard(path, overwrite)
    pixels = pixels_of(size)
    names = [*(contenders or ()), *(only or ())]
    plain = Plain(families=family or ["shuffled"])
    with replacing(out, overwrite), asked_of(study, names, plain) as asked:
        where = family if asked.file == study else None  # a plain file's are all there are
        found: Search = tasks.worst(
            asked,
            budget,
            only=names,
            family=where,
            metric=metric,
            sizes=sizes,
            at=at,
            seed=seed,
            out=out,
            on=on,
            lost=tell,
        )
    if keep is not None:
        tell(f"instances: {found.keep(keep)}")
    deliver(found, form)
    if figure is not None:
        save_worst(found, figure, pixels, dark)
        tell(f"figure: {figure}")
    tell(f"logbook: {found.findings.run.logbook}")
    broken = [claim for claim in found.findings.claims if claim.verdict == "contradicted"]
    if broken:
        first = broken[0]
        fail(f"{first.claim} of {first.contender} is contradicted by the {first.family}", 0)
