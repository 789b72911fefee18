"""Commands that read logbooks: the report, figures, growth and pairs in depth, forecasts, several logbooks."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import takewhile
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, NamedTuple

import typer

from ...errors import LogarithmError, check_names, named, there
from ...notation.sizes import placed
from ...notation.words import as_written
from ...report.view import View
from ..gates import shares_of, stop, stop_on
from ..options import (
    Anyway,
    At,
    Dark,
    FailOnSlower,
    Family,
    Form,
    Format,
    Named,
    Out,
    Overwrite,
    Pixels,
    completed,
    pixels_of,
)
from ..output import deliver, guard, results, tell

if TYPE_CHECKING:
    from ...logbook.memory import Logbook
    from ...results.findings import Findings

WorkloadFile = Annotated[
    Path | None,
    typer.Option("--workload", metavar="FILE", help="Weigh costs by these calls: sizes, with a count or without."),
]
SeveralNamed = Annotated[
    list[str],
    typer.Argument(
        metavar="LOGBOOK LOGBOOK… [CONTENDER…]",
        help="Logbooks of one study, two at least, in order; and contenders, all if none is named.",
        autocompletion=completed,
    ),
]


class Reading(NamedTuple):
    """What a command is to read: a logbook, the first size that is named, and the contenders that are."""

    book: Logbook
    size: float | None
    contenders: list[str]

    def part(self) -> Logbook:
        """The logbook of these contenders alone."""
        return self.book.part(self.contenders)


def report(
    named: Named = None,
    family: Family = None,
    at: At = None,
    form: Format = Form.TEXT,
    section: Annotated[
        str | None, typer.Option("--section", help="One part only, such as growth, ratios, costs, notes or chart.")
    ] = None,
    everything: Annotated[bool, typer.Option("--all", help="Also what a first look leaves out.")] = False,
    workload: WorkloadFile = None,
    out: Out = None,
    overwrite: Overwrite = False,
) -> None:
    """Show everything found: growth, crossovers, standings."""
    from ...report.documents.findings.whole import NAMES

    if section is not None and section not in NAMES:
        raise LogarithmError(f"a report has no section '{section}': {there(list(NAMES), 20)}")
    guard(out, overwrite)
    findings = findings_at(named, at, family)
    if workload is not None:
        findings = findings.weighed(workload)
    deliver_report(findings, form, out, overwrite, section, everything)


def reading(named: Sequence[str] | None = None, at: str | None = None, family: Sequence[str] | None = None) -> Reading:
    """What is asked for: a logbook of these families, of two sizes at one value of the second where that is named.

    Args:
        named: a logbook, then contenders; the newest logbook where the first is none.
        at: a place, such as "k=64" or "100".
        family: families, all where none is named; names as they are shown or as they are written.

    Raises:
        LogarithmError: where one of them is not there.
    """
    from ...api.findings import read_logbook

    first, *rest = named or [""]
    is_file = _is_logbook(first)
    book = read_logbook(Path(first) if first and is_file else None)
    known, families = [each.name for each in book.contenders], [each.name for each in book.families]
    asked = [as_written(each, known) for each in (rest if is_file or not first else [first, *rest])]
    check_names(book.path, "contender", asked, known)
    chosen = [as_written(each, families) for each in family or ()]
    check_names(book.path, "family", chosen, families)
    size, second = book.place({} if at is None else placed(at))
    part = book.part(family=chosen)
    return Reading(part if second is None else part.at_second(second), size, asked)


def _is_logbook(word: str) -> bool:
    """Whether a word names a logbook, and no contender."""
    return word.endswith(".jsonl") or Path(word).is_file()


def readings(words: Sequence[str], at: str | None, family: Sequence[str] | None) -> tuple[list[Logbook], list[str]]:
    """Several logbooks, as `reading` has one, and the contenders that are named.

    Raises:
        LogarithmError: where there are fewer than two, or none of them has what is named.
    """
    paths = list(takewhile(_is_logbook, words))
    if len(paths) < 2:
        raise LogarithmError("name two logbooks at least, such as before.jsonl after.jsonl")
    books = [reading([path], at, family).book for path in paths]
    known = list(dict.fromkeys(each.name for book in books for each in book.contenders))
    asked = [as_written(each, known) for each in words[len(paths) :]]
    check_names(named(paths), "contender", asked, known)
    return books, asked


def findings_at(named: Sequence[str] | None, at: str | None = None, family: Sequence[str] | None = None) -> Findings:
    """What was found of some contenders and families, of two sizes at one value of the second where that is named."""
    asked = reading(named, at, family)
    if asked.size is not None:
        raise LogarithmError(f"--at {at}: name a value of the second size, such as --at k=64")
    return asked.part().findings()


def deliver_report(
    findings: object,
    form: Form = Form.TEXT,
    out: Path | None = None,
    overwrite: bool = False,
    section: str | None = None,
    everything: bool = False,
) -> None:
    """The report, with as many sizes in a table as there is room for."""
    from ...results.findings import Findings

    assert isinstance(findings, Findings)
    width = results().width
    longest = max((len(name) for name in findings.study.contenders), default=8)
    shown = max(3, min(8, (width - min(longest, 24)) // 9)) if form is Form.TEXT and out is None else 8
    deliver(
        findings, form, out, overwrite, only=section, everything=everything, sizes_shown=shown, width=width
    ) if form not in (Form.HTML, Form.JSON) else deliver(findings, form, out, overwrite)


def plot(
    named: Named = None,
    view: Annotated[
        View | None, typer.Option("--view", help="What to show; of two sizes the map.", show_default="growth")
    ] = None,
    linear: Annotated[bool, typer.Option("--linear", help="Linear axes, not logarithmic ones.")] = False,
    size: Pixels = None,
    dark: Dark = False,
    family: Family = None,
    at: Annotated[
        str | None, typer.Option("--at", help="The size whose spread is shown; of two sizes also one value, k=64.")
    ] = None,
    workload: WorkloadFile = None,
    as_text: Annotated[bool, typer.Option("--text", help="A chart of letters in the terminal, no file.")] = False,
    out: Annotated[
        Path | None,
        typer.Option("--out", help="The figure: its ending says PNG, SVG or PDF. Else beside the logbook."),
    ] = None,
    overwrite: Overwrite = False,
) -> None:
    """Draw how each cost grows, or another view, with a panel for each family."""
    from ...report.documents.findings.chart import charts
    from ...report.documents.findings.headlines import caption
    from ...report.figure.views import save, usual_view

    asked = reading(named, at, family)
    pixels = pixels_of(size)
    target = asked.book.path.with_suffix(".png") if out is None else out
    guard(None if as_text else target, overwrite)
    findings = asked.part().analysis.findings(asked.size)
    if as_text:
        console = results()
        for chart in charts(findings, console.width):
            console.print(chart, markup=False, highlight=False)
        return
    findings = findings if workload is None else findings.weighed(workload)
    shown = view or (View.WORKLOAD if workload is not None else usual_view(findings))
    for written in save(findings, target, shown.value, linear, pixels, dark):
        typer.echo(f"figure: {written}")
    typer.echo(f"caption: {caption(findings, shown.value)}")


def growth(
    named: Named = None,
    family: Family = None,
    at: At = None,
    lines: Annotated[bool, typer.Option("--lines", help="Which lines of the code the growth comes from.")] = False,
    form: Format = Form.TEXT,
    out: Out = None,
    overwrite: Overwrite = False,
) -> None:
    """Growth in depth: every order that was tried, residuals and local exponents by size."""
    guard(out, overwrite)
    asked = reading(named, at, family)
    analysis = asked.book.analysis
    found = analysis.lines_in_depth if lines else analysis.growth_in_depth
    deliver(found(asked.contenders), form, out, overwrite)


def crossover(
    named: Named = None,
    family: Family = None,
    at: At = None,
    form: Format = Form.TEXT,
    out: Out = None,
    overwrite: Overwrite = False,
) -> None:
    """Two contenders in depth, or one against all others: every crossover, who leads where, the ratio at each size."""
    guard(out, overwrite)
    asked = reading(named, at, family)
    deliver(asked.book.analysis.pairs_in_depth(asked.contenders), form, out, overwrite)


def forecast(
    named: Named = None,
    at: Annotated[
        str | None,
        typer.Option("--at", help="A size: what will it cost? Of two sizes n=1e6,k=64, or k=64 beside --within."),
    ] = None,
    within: Annotated[str | None, typer.Option("--within", help="A time: how large may the input be?")] = None,
    family: Family = None,
    form: Format = Form.TEXT,
    out: Out = None,
    overwrite: Overwrite = False,
) -> None:
    """Forecast what a size not measured will cost, or how large an input a time allows."""
    guard(out, overwrite)
    asked = reading(named, None, family)
    found = asked.book.analysis.forecast({} if at is None else placed(at), within, asked.contenders)
    deliver(found, form, out, overwrite)


def contrast(
    logbooks: SeveralNamed,
    family: Family = None,
    at: At = None,
    fail_on_slower: FailOnSlower = None,
    junit: Annotated[Path | None, typer.Option("--junit", metavar="FILE", help="Also write JUnit XML.")] = None,
    anyway: Anyway = False,
    form: Format = Form.TEXT,
    out: Out = None,
    overwrite: Overwrite = False,
) -> None:
    """What changed between two logbooks, and is the change real? More than two: each step of the way."""
    from ...api import findings as api
    from ...report.text.junit import write_changes
    from ...results.tasks.gates import limit_of

    guard(out, overwrite)
    guard(junit, overwrite)
    shares = shares_of(fail_on_slower or [])
    (first, second, *more), contenders = readings(logbooks, at, family)
    found = api.contrast(first, second, *more, anyway=anyway).only(contenders)
    for reason in found.warnings:
        tell(f"warning: {reason}")
    deliver(found, form, out, overwrite)
    slower = [each for each in found.changes if each.slower_by(limit_of(each.metric, shares)) is not None]
    if junit is not None:
        write_changes(found.changes, found.broken, slower, junit)
        tell(f"JUnit XML: {junit}")
    stop_on(found.broken, slower, shares)


def across(
    logbooks: SeveralNamed,
    family: Family = None,
    at: At = None,
    form: Format = Form.TEXT,
    out: Out = None,
    overwrite: Overwrite = False,
) -> None:
    """What holds on several machines, or under several interpreters: each by itself, and all together."""
    from ...api import findings as api

    guard(out, overwrite)
    books, contenders = readings(logbooks, at, family)
    found = api.across(*books).only(contenders)
    deliver(found, form, out, overwrite)
    stop(found.broken)
