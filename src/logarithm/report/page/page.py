"""The report as one HTML file that needs nothing else: sentences, tables, figures as inline SVG."""

from __future__ import annotations

import io
import re
from typing import TYPE_CHECKING

from ...errors import LogarithmError
from ...results.findings import Findings
from .. import units
from ..contents import sections as parts
from ..figure import canvas
from ..figure.views import draw, sheets
from . import charts

if TYPE_CHECKING:
    from jinja2 import Environment

SIZES_SHOWN = 8
COORDINATE = re.compile(r"(?<=[\s,MLCQZz\"])(-?\d+\.\d{2})\d+")
# What is ink on white paper must be chalk on a dark screen: these colours become variables of the page.
VARIABLES = {canvas.INK: "ink", canvas.FAINT: "faint", canvas.SOFT: "soft", canvas.PAPER: "paper"} | {
    colour: f"curve-{number}" for number, colour in enumerate(canvas.COLOURS)
}
VIEWS = {
    "growth": "How each cost grows",
    "ratio": "How many times as fast as {reference}",
    "standings": "Who leads over which sizes",
}


def page(findings: Findings) -> str:
    """A whole HTML page. Everything that comes from a study or a logbook is escaped."""
    title, question, facts = parts.heading(findings)
    return (
        environment()
        .get_template("page.html")
        .render(
            title=title,
            question=question,
            facts=facts,
            sections=parts.sections(findings, everything=True, sizes_shown=SIZES_SHOWN),
            figures=figures(findings),
            chart=charts.embedded(charts.chart(findings)),
            run=findings.run,
            study=findings.study,
            elapsed=units.span(findings.run.elapsed) if findings.run.elapsed is not None else "",
        )
    )


def fragment(findings: Findings) -> str:
    """The answer, the growth table and the growth view, as a piece of HTML for a notebook."""
    title, question, facts = parts.heading(findings)
    wanted = [each for each in parts.sections(findings) if each.name in ("answer", "crossovers", "growth")]
    drawn = figures(findings, ("growth",))
    return (
        environment()
        .get_template("fragment.html")
        .render(title=title, question=question, facts=facts, sections=wanted, figures=drawn)
    )


def figures(findings: Findings, views: tuple[str, ...] = tuple(VIEWS)) -> list[tuple[str, str]]:
    """Title and inline SVG of each view that there is anything to draw for."""
    import matplotlib as mpl

    made = []
    for view in views:
        if view == "standings" and len(findings.study.contenders) < 2:
            continue
        for number, part in enumerate(sheets(findings)):
            try:
                drawn = draw(part, view)
            except LogarithmError:
                continue  # nothing to draw in this view
            stream = io.StringIO()
            with mpl.rc_context(canvas.SETTINGS):
                drawn.savefig(stream, format="svg", metadata={"Date": None})
            title = VIEWS[view].format(reference=units.said(findings.study.reference))
            made.append((title, inline(stream.getvalue(), f"{view}{number or ''}-")))
    return made


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


def environment() -> Environment:
    """The templates, in which everything is escaped and nothing may be missing."""
    from jinja2 import Environment, PackageLoader, StrictUndefined

    made = Environment(
        loader=PackageLoader("logarithm.report.page", "templates"),
        autoescape=True,
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    made.globals["light"] = {name: colour for colour, name in VARIABLES.items()}
    made.globals["dark"] = {name: canvas.DARK[colour] for colour, name in VARIABLES.items()}
    return made
