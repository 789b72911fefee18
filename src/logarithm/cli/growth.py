"""Commands about growth: growth in depth, claims, forecasts."""

from __future__ import annotations

import enum
import math
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from ..errors import LogarithmError, check_names
from .common import LogbookArgument, findings_of, number, results

if TYPE_CHECKING:
    from ..logbook.reading import Logbook


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
    from ..api.depth import growth_in_depth
    from ..logbook.reading import read_logbook
    from ..logbook.writing import newest

    if lines:
        by_line(logbook, only, family, form)
        return
    console = results()
    for each in growth_in_depth(read_logbook(newest() if logbook is None else logbook), only or (), family or ()):
        console.print(each)
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


def forecast(
    logbook: LogbookArgument = None,
    at: Annotated[str | None, typer.Option("--at", help="A size: what will it cost?")] = None,
    within: Annotated[str | None, typer.Option("--within", help="A time: how large may the input be?")] = None,
    only: Contender = None,
    family: Family = None,
) -> None:
    """Forecast what a size not measured will cost, or how large an input a time allows."""
    from ..notation.durations import seconds
    from ..report import units
    from ..report.text.growth import FAR, WITHIN, forecasts
    from ..statistics.forecasts import ahead

    if (at is None) == (within is None):
        raise LogarithmError("say either --at SIZE, such as --at 1e6, or --within TIME, such as --within 1s")
    size, limit = None if at is None else _size(at), None if within is None else seconds(within)
    tables: dict[str, list[tuple[str, str, str, str, str]]] = {}
    for each in ahead(_checked(logbook, only, family), size, limit, only or (), family or ()):
        names = each.contender, each.family
        rows = tables.setdefault(each.metric, [])
        if each.fails is not None:
            rows.append((*names, "none", units.NOTHING, f"it fails at n = {units.size(each.fails)}"))
        elif each.value is None or each.low is None or each.high is None:
            rows.append((*names, "none", units.NOTHING, "even the smallest takes longer"))
        elif each.exact:
            rows.append((*names, units.whole(each.value), f"exactly {units.formula(each.exact)}", "exact"))
        else:
            unit = units.unit_for([each.value], each.metric)
            three = each.value, each.low, each.high
            value, low, high = (unit.show(part, 2) if at is not None else _shown(part) for part in three)
            far = FAR if math.isinf(each.beyond) else f"{units.number(each.beyond, 2)} ×"
            rows.append((*names, value, f"{low} to {high}", far if each.beyond > 1 else WITHIN))
    for metric, rows in tables.items():
        if rows:
            heading = f"n within {within}" if at is None else f"{metric} at n = {at}"
            results().print(forecasts(heading, rows))


def _checked(logbook: Path | None, only: list[str] | None, family: list[str] | None) -> Logbook:
    """A logbook, or the newest one, which has what was asked for."""
    from ..api.options import check_in
    from ..logbook.reading import read_logbook
    from ..logbook.writing import newest

    read = read_logbook(newest() if logbook is None else logbook)
    check_in(read, read.path, only or (), family or ())
    return read


def _size(text: str) -> float:
    size = number(text, "--at")
    if size <= 0:
        raise LogarithmError(f"--at {text} is not a size: it must be more than 0")
    return size


def _shown(size: float) -> str:
    from ..report import units

    return "any" if math.isinf(size) else units.whole(float(f"{size:.3g}"))
