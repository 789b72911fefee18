"""A result as one HTML file that needs nothing else: its document, a chart where it has one, figures as inline SVG."""

from __future__ import annotations

import io
import re
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any
from urllib.parse import quote

from ...errors import LogarithmError
from ...logbook.files import write_file
from ...notation import words
from ...results.base import Result
from ...results.findings import Findings
from ...results.tasks.grades import Class, Grade
from ...results.tasks.walk import Walk
from ..document import Document
from ..documents.findings.notes import how_measured
from ..documents.findings.whole import heading, sections
from ..documents.grades import class_view, submission, summary
from ..figure import canvas
from ..figure.views import draw, sheets
from ..figure.walks import draw_walk
from ..result_documents import document_of
from ..view import ON_PAGE, View
from . import charts
from .templating import VARIABLES, environment
from .walk import walk_page

if TYPE_CHECKING:
    from matplotlib.figure import Figure

SIZES_SHOWN = 8
COORDINATE = re.compile(r"(?<=[\s,MLCQZz\"])(-?\d+\.\d{2})\d+")
NAME_MOST = 60  # letters in a page's name


def page(result: Result) -> str:
    """A whole HTML page. Everything that comes from a study or a logbook is escaped."""
    if isinstance(result, Walk):
        return walk_page(result)
    if not isinstance(result, Findings):
        return written(document_of(result))
    document = heading(result)
    document.sections = [*sections(result, sizes_shown=SIZES_SHOWN), how_measured(result)]
    chart = charts.embedded(charts.chart(result))
    return written(document, chart, figures(result), result.study.source)


def written(
    document: Document,
    chart: dict[str, Any] | None = None,
    figures: list[tuple[str, str]] | None = None,
    source: str = "",
) -> str:
    """A document as a page.

    Args:
        document: what is to be read.
        chart: what the page's script draws, as `charts.embedded` gives it.
        figures: titles and inline SVG, for those without scripts and for paper.
        source: the text of the study.
    """
    # What has no title of its own comes before the chart: it is the answer.
    first = [each for each in document.sections if not each.title]
    rest = [each for each in document.sections if each.title]
    template = environment().get_template("page.html")
    return template.render(document=document, first=first, rest=rest, chart=chart, figures=figures or [], source=source)


def write_submissions(found: Class, folder: Path) -> None:
    """A short page for each submission, which can be handed back and tells nothing of others; and one of the class."""
    folder.mkdir(parents=True, exist_ok=True)
    taken, links = {"class"}, list[str]()
    for row in found.rows:
        name = _unique(re.sub(r"[^\w.-]", "-", row.name)[:NAME_MOST], taken)
        links.append(f"{name}.html")
        write_file(folder / links[-1], submission_page(row, found))
    write_file(folder / "class.html", class_page(found, links))


def class_page(found: Class, links: Sequence[str]) -> str:
    """The page of a class, for the instructor: the table with links to all pages, filters, how orders are spread."""
    seen = class_view(found)
    rows = [
        {"name": cells[0], "link": quote(link), "kinds": " ".join(kinds), "cells": cells[1:]}
        for (cells, kinds), link in zip(seen.rows, links, strict=True)
    ]
    return (
        environment()
        .get_template("class.html")
        .render(
            title=words.name(found.study),
            question=found.question,
            summary=summary(found.rows),
            told=found.weaknesses,
            rows=rows,
            headings=seen.headings,
            filters=seen.filters,
            spreads=seen.spreads,
            foot=seen.foot,
        )
    )


def submission_page(row: Grade, found: Class) -> str:
    """The page of one submission."""
    chart = charts.embedded(charts.chart_of(row)) if row.steps_at else None
    return written(submission(row, found), chart)


def _unique(name: str, taken: set[str]) -> str:
    """A name that no other page has, also where a file system takes large letters for small ones."""
    made, number = name, 1
    while made.lower() in taken:
        number += 1
        made = f"{name}-{number}"
    taken.add(made.lower())
    return made


def fragment(result: Result) -> str:
    """A piece of HTML for a notebook: of findings the answer, the growth table and the growth view; else all of it."""
    document, drawn = document_of(result), list[tuple[str, str]]()
    if isinstance(result, Findings):
        document.sections = [each for each in document.sections if each.name in ("answer", "crossovers", "growth")]
        drawn = figures(result, (View.GROWTH,))
    elif isinstance(result, Walk):
        drawn = [("", _svg_of(draw_walk(result), "walk-"))]
    return environment().get_template("fragment.html").render(document=document, figures=drawn)


def figures(findings: Findings, views: tuple[View, ...] = tuple(ON_PAGE)) -> list[tuple[str, str]]:
    """Title and inline SVG of each view that there is anything to draw for."""
    made = []
    for view in views:
        if view == View.STANDINGS and len(findings.study.contenders) < 2:
            continue
        for number, part in enumerate(sheets(findings)):
            try:
                drawn = draw(part, view)
            except LogarithmError:
                continue  # nothing to draw in this view
            title = ON_PAGE[view].format(reference=words.said(findings.study.reference))
            made.append((title, _svg_of(drawn, f"{view}{number or ''}-")))
    return made


def _svg_of(drawn: Figure, prefix: str) -> str:
    """A figure as an SVG to stand within a page."""
    import matplotlib as mpl

    stream = io.StringIO()
    with mpl.rc_context(canvas.SETTINGS):
        drawn.savefig(stream, format="svg", metadata={"Date": None})
    return inline(stream.getvalue(), prefix)


def inline(svg: str, prefix: str) -> str:
    """An SVG to stand within a page: without its prologue, with names of its own, coordinates to a hundredth.

    >>> inline('<?xml version="1.0"?><svg><path id="a" style="fill: #22262b"/></svg>', "x-")
    '<svg><path id="x-a" style="fill: var(--ink)"/></svg>'
    """
    body = svg[svg.index("<svg") :].strip()
    body = re.sub(r"<metadata>.*?</metadata>", "", body, flags=re.DOTALL)
    body = re.sub(r'\bid="', f'id="{prefix}', body)
    body = re.sub(r'(href="#|url\(#)', rf"\g<1>{prefix}", body)
    body = COORDINATE.sub(r"\1", body)
    for colour, name in VARIABLES.items():
        body = body.replace(colour, f"var(--{name})")
    return body
