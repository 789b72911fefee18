"""The templates of pages, and the colours that pages and figures share."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ..document import pieces, plain
from ..figure import canvas

if TYPE_CHECKING:
    from jinja2 import Environment

# What is ink on white paper must be chalk on a dark screen: these colours become variables of the page.
VARIABLES = {canvas.INK: "ink", canvas.FAINT: "faint", canvas.SOFT: "soft", canvas.PAPER: "paper"} | {
    colour: f"curve-{number}" for number, colour in enumerate(canvas.COLOURS)
}


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
    made.filters |= {"pieces": pieces, "plain": plain}
    made.globals["light"] = {name: colour for colour, name in VARIABLES.items()}
    made.globals["dark"] = {name: canvas.DARK[colour] for colour, name in VARIABLES.items()}
    return made
