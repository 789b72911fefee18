"""Commands that show what a logbook holds."""

from __future__ import annotations

import enum
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from ..errors import LogarithmError, check_names, there
from .common import LogbookArgument, Overwrite, deliver, findings_of, guard, number, print_report, results

if TYPE_CHECKING:
    from ..results.findings import Findings


class Format(enum.StrEnum):
    """What a report can be written as."""

    TEXT = "text"
    JSON = "json"
    MARKDOWN = "markdown"
    HTML = "html"


class View(enum.StrEnum):
    """What a figure can show."""

    GROWTH = "growth"
    WORK = "work"
    RATIO = "ratio"
    SPREAD = "spread"
    STANDINGS = "standings"


def report(
    logbook: LogbookArgument = None,
    form: Annotated[Format, typer.Option("--format", help="How to write it.")] = Format.TEXT,
    section: Annotated[
        str | None, typer.Option("--section", help="One part only, such as growth, ratios, costs, notes or chart.")
    ] = None,
    everything: Annotated[bool, typer.Option("--all", help="Also what a first look leaves out.")] = False,
    out: Annotated[Path | None, typer.Option("--out", help="A file to write it to, not standard output.")] = None,
    overwrite: Overwrite = False,
) -> None:
    """Show everything found: growth, crossovers, standings."""
    from ..report.contents.sections import NAMES

    if section is not None and section not in NAMES:
        raise LogarithmError(f"a report has no section '{section}': {there(list(NAMES), 20)}")
    if out is not None:
        guard(out, overwrite)
    findings = findings_of(logbook)
    if out is None and form is Format.TEXT:
        print_report(findings, section, everything)
        return
    deliver(_written(findings, form, section, everything), out, "report")


def _written(findings: Findings, form: Format, section: str | None, everything: bool) -> str:
    if form is Format.JSON:
        return findings.json() + "\n"
    if form is Format.MARKDOWN:
        from ..report.text.markdown import markdown

        return markdown(findings, everything, section)
    if form is Format.HTML:
        from ..report.page.page import page

        return page(findings)
    from ..report.text.terminal import text

    return text(findings, only=section, everything=everything)


def plot(
    logbook: LogbookArgument = None,
    view: Annotated[View, typer.Option("--view", help="What to show.")] = View.GROWTH,
    linear: Annotated[bool, typer.Option("--linear", help="Linear axes, not logarithmic ones.")] = False,
    size: Annotated[str | None, typer.Option("--size", metavar="WIDExHIGH", help="Pixels, such as 1280x720.")] = None,
    dark: Annotated[bool, typer.Option("--dark", help="On dark paper, for a dark room.")] = False,
    family: Annotated[list[str] | None, typer.Option("--family", help="Only this family; may be repeated.")] = None,
    at: Annotated[str | None, typer.Option("--at", help="The size whose spread is shown; else the largest.")] = None,
    as_text: Annotated[bool, typer.Option("--text", help="A chart of letters in the terminal, no file.")] = False,
    out: Annotated[
        Path | None,
        typer.Option("--out", help="The figure: its ending says PNG, SVG or PDF. Else beside the logbook."),
    ] = None,
    overwrite: Overwrite = False,
) -> None:
    """Draw how each cost grows, or another view, with a panel for each family."""
    from ..logbook.reading import read_logbook
    from ..logbook.writing import newest
    from ..report.contents.headlines import caption
    from ..report.figure.views import save
    from ..report.text.chart import charts
    from ..statistics.analyse import analyse

    chosen = newest() if logbook is None else logbook
    read = read_logbook(chosen)
    check_names(chosen, "family", family, [each.name for each in read.families])
    at_size = None if at is None else number(at, "--at")
    pixels = None if size is None else _pixels(size)
    target = chosen.with_suffix(".png") if out is None else out
    if not as_text:
        guard(target, overwrite)
    findings = analyse(read, at_size)
    if family:
        findings = findings.only(family)
    if as_text:
        console = results()
        for chart in charts(findings, console.width):
            console.print(chart, markup=False, highlight=False)
        return
    for written in save(findings, target, view.value, linear, pixels, dark):
        typer.echo(f"figure: {written}")
    typer.echo(f"caption: {caption(findings, view.value)}")


def _pixels(text: str) -> tuple[int, int]:
    """Pixels as they were typed: 1280x720."""
    wide, _, high = text.lower().replace("×", "x").partition("x")
    if not (wide.strip().isdecimal() and high.strip().isdecimal()):
        raise LogarithmError(f"--size {text} is not a size in pixels: write for example --size 1280x720")
    pixels = int(wide), int(high)
    if not all(300 <= each <= 8000 for each in pixels):
        raise LogarithmError(f"--size {text}: a figure is 300 to 8000 pixels wide and high")
    return pixels
