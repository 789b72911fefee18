"""The command that searches for worst cases."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from ..errors import LogarithmError
from ..logbook.files import write_file
from .common import On, Overwrite, bar, check_names, engine_at, findings_of, guard, results, tell

if TYPE_CHECKING:
    from ..analysis.findings import Findings
    from ..logbook.records import AnyRecord
    from ..measuring.gathering.worst import Worst
    from ..report.contents.worst import Case
    from ..study.study import Study

WORK = "work"
COUNTED = ("work", "steps", "calls", "memory")


def worst(
    study: Annotated[Path, typer.Argument(metavar="STUDY", help="A study.")],
    only: Annotated[list[str] | None, typer.Option("--only", help="Only this contender; may be repeated.")] = None,
    family: Annotated[
        list[str] | None, typer.Option("--family", help="Only this kind of instance; may be repeated.")
    ] = None,
    metric: Annotated[
        str, typer.Option("--metric", help="What to make large: work, steps, comparisons, memory or a tally.")
    ] = WORK,
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
    from ..notation.durations import seconds
    from ..notation.sizes import ladder
    from ..study.loading import load

    for path in (out, keep, figure):
        if path is not None:
            guard(path, overwrite and path is not out)
    loaded = load(study)
    check_names(study, "contender", only, [each.name for each in loaded.contenders])
    check_names(study, "family", family, [each.name for each in loaded.families])
    climbed = None if sizes is None else tuple(int(size) for size in ladder(sizes))
    found = run_search(loaded, study, only, family, metric, seconds(budget), climbed, seed, out, keep, on)
    cases, findings, path = found
    told(cases, findings)
    if figure is not None:
        from ..report.figure.worst import save_worst

        save_worst(cases, findings, figure)
        tell(f"figure: {figure}")
    tell(f"logbook: {path}")
    broken = [claim for claim in findings.claims if claim.verdict == "contradicted"]
    if broken:
        first = broken[0]
        tell(f"exit code 1: {first.claim} of {first.contender} is contradicted by the {first.family}")
        raise typer.Exit(1)


def run_search(
    study: Study,
    file: Path,
    only: list[str] | None,
    families: list[str] | None,
    metric: str,
    budget: float,
    sizes: tuple[int, ...] | None,
    seed: int,
    out: Path | None,
    keep: Path | None = None,
    on: str | None = None,
) -> tuple[list[Case], Findings, Path]:
    """Search, write the logbook and, if that is asked for, the instances. Returns what was found, and the logbook."""
    from ..logbook.writing import LogbookWriter, fresh_path
    from ..measuring.gathering.engine import Lost
    from ..measuring.gathering.worst import SearchJob, Worst, search
    from ..study.tallied import check_metrics

    if metric not in COUNTED:
        check_metrics(study, file, (metric,))
    if study.axis != "size":
        raise LogarithmError(f"{file} varies {study.axis}, not the size: a worst case is searched for over sizes")
    pairs = [
        (contender, family)
        for contender in study.contenders
        for family in study.families
        if contender.program is None
        and contender.source is None
        and (not only or contender.name in only)
        and (not families or family.name in families)
        and (contender.options.families is None or family.name in contender.options.families)
    ]
    if not pairs:
        raise LogarithmError(
            f"{file} has no contender in Python to search: the worst case of programs cannot be counted"
        )
    path = out if out is not None else fresh_path(f"{study.name}-worst")
    several = len({family.name for _, family in pairs}) > 1
    made: list[Worst] = []
    with bar() as progress, LogbookWriter(path) as writer:
        writer.write(*_preamble(study, file, pairs, metric, budget, seed, several))
        with engine_at(on, study, file) as engine:
            contenders = list({contender.name: contender for contender, _ in pairs})
            seconds = budget * min(engine.places, len(contenders)) / len(contenders)
            jobs = [
                SearchJob(name, tuple(f.name for c, f in pairs if c.name == name), metric, seconds, seed, sizes)
                for name in contenders
            ]
            for number, (job, found) in enumerate(engine.each(search, jobs, list[Worst]), start=1):
                progress(number / len(jobs), job.contender)
                if isinstance(found, Lost):
                    tell(f"{job.contender}: {found.reason}")
                    continue
                for each in found:
                    made.append(each)
                    writer.write(*_records(each, metric, seed, several))
                writer.flush()
        order = {(contender.name, family.name): at for at, (contender, family) in enumerate(pairs)}
        made.sort(key=lambda each: (order[each.contender, each.family], each.stage or ""))
        cases = [_case(each, metric, several) for each in made]
        writer.write(*_notes(cases))
    if keep is not None:
        _keep(study, made, metric, keep)
        tell(f"instances: {keep}")
    return cases, findings_of(path), path


def told(cases: list[Case], findings: Findings) -> None:
    """What was found, on standard output."""
    from rich.text import Text

    from ..report.contents.verdicts import Verdict, verdicts
    from ..report.contents.worst import sentences
    from ..report.units import name

    console = results()
    sought = {"work": "steps and counted operations", "memory": "bytes of memory"}.get(cases[0].metric, cases[0].metric)
    tries = sum(case.tries for case in cases)
    console.print(Text(f"{name(findings.study.name)} · most {sought} · {tries} tries", style="bold"))
    for case in cases:
        console.print()
        for number, sentence in enumerate(sentences(case, findings)):
            console.print(Text(f"  {sentence}" if number else sentence))
    console.print(
        Text("\nA search finds what is bad; that it found no worse does not say that there is none.", style="dim")
    )
    if findings.claims:
        console.print()
        console.print(verdicts([Verdict.of(claim, findings, False) for claim in findings.claims]))


def _preamble(
    study: Study, file: Path, pairs: list[Any], metric: str, budget: float, seed: int, several: bool
) -> Iterator[AnyRecord]:
    """The records that open the logbook: claims on the worst case are for the family of what was found."""
    from ..logbook.records import ClaimRecord, FamilyRecord
    from ..measuring.plan.settings import Settings
    from ..measuring.run.opening import preamble
    from ..report.contents.worst import BEST, TYPICAL, WORST
    from ..study.study import WORST_CLAIM

    settings = Settings(budget=budget, seed=seed, metrics=(metric,))
    taking = {contender.name for contender, _ in pairs}
    families = [f" on {family.name}" if several else "" for family in {each.name: each for _, each in pairs}.values()]
    for record in preamble(study, file, settings, taking, ()):
        if hasattr(record, "claims"):
            record.claims = [
                ClaimRecord(claim.order, f"{WORST if claim.where == WORST_CLAIM else TYPICAL}{suffix}, {metric}")
                for suffix in families
                for claim in record.claims
                if claim.where in (None, WORST_CLAIM, suffix.removeprefix(" on "))
            ]
        yield record
    for kind in (TYPICAL, BEST, WORST):
        yield from (FamilyRecord(name=f"{kind}{suffix}") for suffix in families)


def _records(found: Worst, metric: str, seed: int, several: bool) -> Iterator[AnyRecord]:
    from ..logbook.records import Trial
    from ..report.contents.worst import BEST, TYPICAL, WORST

    suffix = f" on {found.family}" if several else ""
    for size, each in found.found.items():
        rows = [(TYPICAL, heat, count) for heat, count in enumerate(each.typical, start=1)]
        rows += [(kind, 1, count) for kind, count in ((BEST, each.least), (WORST, each.most)) if count is not None]
        for kind, heat, count in rows:
            yield Trial(
                contender=found.contender,
                family=kind + suffix,
                stage=found.stage,
                size=size,
                metric=metric,
                heat=heat,
                seed=seed + heat - 1,
                value=count,
            )


def _case(found: Worst, metric: str, several: bool) -> Case:
    """What is to be told of a search."""
    from ..report.contents.worst import AS_MUCH, SHOWS, Case

    case = Case(found.contender, found.family, found.stage, metric, f" on {found.family}" if several else "")
    case.tries, case.refused = found.tries, sum(each.refused for each in found.found.values())
    case.why = found.why
    case.fails = next((each.detail for each in found.found.values() if each.fails is not None), "")
    climbed = [size for size, each in found.found.items() if each.most is not None and each.suspects] or list(
        found.found
    )
    if not climbed:
        return case
    case.size = max(size for size in climbed if size <= 64) if min(climbed) <= 64 else max(climbed)
    last = found.found[case.size]
    case.most, case.typical, case.looks = last.most or 0.0, sum(last.typical) / len(last.typical), last.looks
    ranked = sorted(last.suspects.items(), key=lambda each: -each[1])
    case.suspects = [name for name, count in ranked if count >= AS_MUCH * case.most and count >= SHOWS * case.typical]
    for size, each in found.found.items():
        if each.most is not None and each.most >= SHOWS * sum(each.typical) / len(each.typical):
            case.smallest, case.shown = size, each.shown
            break
    return case


def _notes(cases: list[Case]) -> Iterator[AnyRecord]:
    """What a later report should know: what does it, and how hard it was searched for."""
    from ..logbook.records import Note

    for case in cases:
        causes = case.suspects or ([case.looks] if case.looks else [])
        text = f"{case.tries} instances were tried on {case.family}, "
        text += f"and no worse was found than {case.most:g} at n = {case.size}"
        if causes:
            text += f", by {' or '.join(causes[:3])} inputs"
        yield Note(topic="worst", text=text, contender=case.contender)


def _keep(study: Study, made: list[Worst], metric: str, keep: Path) -> None:
    """Write the instances down as JSON."""
    import json

    from ..study.kept import FORMAT, VERSION

    rows = [
        {
            "contender": each.contender,
            "family": each.family,
            "stage": each.stage,
            "kind": kind,
            "metric": metric,
            "size": size,
            "count": count,
            "looks": found.looks if kind == "worst" else "",
            "instance": instance,
        }
        for each in made
        for size, found in each.found.items()
        for kind, count, instance in (("worst", found.most, found.worst), ("best", found.least, found.best))
    ]
    whole = {"format": FORMAT, "version": VERSION, "study": study.name, "instances": rows}
    write_file(keep, json.dumps(whole, ensure_ascii=False) + "\n")
