"""Commands about growth: growth in depth, claims, forecasts."""

from __future__ import annotations

import enum
import math
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from ..errors import AnalysisError, LogarithmError
from .common import LogbookArgument, check_names, findings_of, number, results

if TYPE_CHECKING:
    from ..analysis.growth.exponent import Exponent
    from ..analysis.growth.fit import Growth
    from ..analysis.series import Series


class Form(enum.StrEnum):
    """What lines can be written as."""

    TEXT = "text"
    JSON = "json"


Contender = Annotated[list[str] | None, typer.Option("--only", help="Only this contender; may be repeated.")]
Family = Annotated[list[str] | None, typer.Option("--family", help="Only this family; may be repeated.")]


def growth(
    logbook: LogbookArgument = None,
    only: Contender = None,
    family: Family = None,
    lines: Annotated[bool, typer.Option("--lines", help="Which lines of the code the growth comes from.")] = False,
    form: Annotated[Form, typer.Option("--format", help="How to write the lines: text or json.")] = Form.TEXT,
) -> None:
    """Growth in depth: every order that was tried, residuals and local exponents by size."""
    if lines:
        by_line(logbook, only, family, form)
        return
    import numpy as np

    from ..report.contents.tables import formula
    from ..report.text.growth import Candidate, Row, depth

    console = results()
    for series, found in _fitted(logbook, only, family):
        weights = {id(fit): weight for fit, weight in found.plausible}
        shown = [
            Candidate(
                str(fit.order),
                weights.get(id(fit), 0.0),
                formula(str(fit.order), fit.fixed, fit.linear, fit.scale, series.metric),
                fit.miss,
                fit.strays,
            )
            for fit in found.candidates
        ]
        slopes = np.gradient(np.log(series.typical), np.log(series.sizes))
        costs = found.cost(series.sizes)
        rows = [
            Row(float(n), float(y), float(y / c - 1) if n >= found.since else math.nan, float(slope))
            for n, y, c, slope in zip(series.sizes, series.typical, costs, slopes, strict=True)
        ]
        console.print(depth(_title(series), series.metric, shown, rows, _slopes(found.exponent), found.advice))
        console.print()


def by_line(logbook: Path | None, only: list[str] | None, family: list[str] | None, form: Form) -> None:
    """Print which lines the growth comes from."""
    import msgspec

    from ..report.contents.lines import culprits, tables
    from ..report.text.terminal import render_tables

    findings = findings_of(logbook)
    check_names(Path(findings.run.logbook), "contender", only, findings.study.contenders)
    check_names(Path(findings.run.logbook), "family", family, findings.study.families)
    found = [
        each
        for each in findings.lines
        if (not only or each.contender in only) and (not family or each.family in family)
    ]
    if not found:
        raise LogarithmError(f"{findings.run.logbook} has no counts by line: measure with --metric steps")
    if form is Form.JSON:
        typer.echo(msgspec.json.format(msgspec.json.encode(found), indent=2).decode())
        return
    results().print(render_tables(list(culprits(found)), tables(found)))


def _slopes(exponent: Exponent) -> str:
    """The two exponents in words."""
    measured = f"slope at the upper end, as measured: {exponent.value:.2f} ({exponent.low:.2f} to {exponent.high:.2f})"
    return f"{measured}; of the law behind it, if caches bend it: {exponent.law_low:.2f} to {exponent.law_high:.2f}"


def forecast(
    logbook: LogbookArgument = None,
    at: Annotated[str | None, typer.Option("--at", help="A size: what will it cost?")] = None,
    within: Annotated[str | None, typer.Option("--within", help="A time: how large may the input be?")] = None,
    only: Contender = None,
    family: Family = None,
) -> None:
    """Forecast what a size not measured will cost, or how large an input a time allows."""
    from ..analysis.growth.forecast import cost_at, size_within
    from ..notation.durations import seconds
    from ..report import units
    from ..report.text.growth import forecasts

    if (at is None) == (within is None):
        raise LogarithmError("say either --at SIZE, such as --at 1e6, or --within TIME, such as --within 1s")
    tables: dict[str, list[tuple[str, str, str, str, str]]] = {}
    fails = _failing(logbook)
    for series, found in _fitted(logbook, only, family):
        rows = tables.setdefault(series.metric, [])
        failing = fails.get((series.contender, series.family), math.inf)
        if at is not None:
            if _size(at) >= failing:
                rows.append((series.contender, series.family, "none", "", f"it fails at n = {units.size(failing)}"))
                continue
            ahead = cost_at(found, _size(at))
            unit = units.unit_for([ahead.value], series.metric)
            if found.exact is not None:
                told = f"exactly {units.formula(found.exact.text)}"
                rows.append((series.contender, series.family, units.whole(ahead.value), told, ""))
                continue
            value, low, high = (unit.show(each, 2) for each in (ahead.value, ahead.low, ahead.high))
        else:
            if series.metric != "time":
                continue
            limit = size_within(found, seconds(within or ""))
            if limit is None:
                rows.append((series.contender, series.family, "none", "", "even the smallest takes longer"))
                continue
            ahead = limit
            if ahead.value >= failing:
                rows.append((series.contender, series.family, "none", "", f"it fails at n = {units.size(failing)}"))
                continue
            value, low, high = (_shown(each) for each in (ahead.value, ahead.low, ahead.high))
        beyond = "far" if math.isinf(ahead.beyond) else f"{units.number(ahead.beyond, 2)} ×"
        rows.append((series.contender, series.family, value, f"{low} to {high}", beyond if ahead.beyond > 1.5 else ""))
    for metric, rows in tables.items():
        if rows:
            heading = f"n within {within}" if at is None else f"{metric} at n = {at}"
            results().print(forecasts(heading, rows))


def _failing(logbook: Path | None) -> dict[tuple[str, str], float]:
    """The smallest size at which a contender fails on a family."""
    from ..logbook.reading import read_logbook
    from ..logbook.writing import newest

    found: dict[tuple[str, str], float] = {}
    for failure in read_logbook(newest() if logbook is None else logbook).failures:
        who = failure.contender, failure.family
        found[who] = min(float(failure.size), found.get(who, math.inf))
    return found


def _fitted(logbook: Path | None, only: list[str] | None, family: list[str] | None) -> Iterator[tuple[Series, Growth]]:
    """The series of a logbook that were asked for, with their growth."""
    from ..analysis.analyse import every_series, whose, works_of
    from ..analysis.growth.naming import named_growth
    from ..analysis.work.witnesses import by_both
    from ..logbook.reading import read_logbook
    from ..logbook.records import BESIDE
    from ..logbook.writing import newest

    read = read_logbook(newest() if logbook is None else logbook)
    if read.study.axis != "size":
        raise LogarithmError(f"{read.path} varies {read.study.axis}, not the size: growth is named for sizes only")
    check_names(read.path, "contender", only, [each.name for each in read.contenders])
    check_names(read.path, "family", family, [each.name for each in read.families])
    any_fitted = False
    every = every_series(read)[0]
    works = works_of(every)
    startups = {each.name: each.startup for each in read.contenders}
    for series in (each for each in every if each.metric not in BESIDE):
        if (only and series.contender not in only) or (family and series.family not in family):
            continue
        try:
            own = named_growth(series, startup=startups.get(series.contender) or 0.0)
            found, _ = by_both(own, works.get(whose(series)))
        except AnalysisError:
            continue
        any_fitted = True
        yield series, found
    if not any_fitted:
        raise LogarithmError(f"{read.path} has too few sizes to name growth: measure at least 4")


def _title(series: Series) -> str:
    parts = [
        series.family,
        *([series.stage] if series.stage else []),
        *([series.metric] if series.metric != "time" else []),
    ]
    return f"{series.contender} on {', '.join(parts)}".replace("_", " ")


def _size(text: str) -> float:
    size = number(text, "--at")
    if size <= 0:
        raise LogarithmError(f"--at {text} is not a size: it must be more than 0")
    return size


def _shown(size: float) -> str:
    from ..report import units

    return "any" if math.isinf(size) else units.whole(float(f"{size:.3g}"))
