"""The table of a class as text, CSV and HTML, and a short page for each submission."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Sequence
from pathlib import Path

from rich.console import Group, RenderableType
from rich.table import Table as Grid
from rich.text import Text

from ...errors import counted
from ...grading.grades import CORRECT, Row
from ...logbook.files import write_file
from ...notation.orders import pretty
from .. import units
from ..contents.lines import culprit, tables
from ..text.terminal import plainly
from . import charts
from .page import environment

NAME_MOST = 60  # letters in a page's name
TONES = {"correct": "green", "incorrect": "red", "fails": "red", "broken": "red", "exceeds": "dark_orange"}


def headings(rows: Sequence[Row]) -> list[str]:
    """The columns of the table."""
    families = list(dict.fromkeys(family for row in rows for family in row.orders))
    marks = ["marks"] if any(row.marks is not None for row in rows) else []
    return ["submission", "verdict", *families, "order asked for", "time", "steps", *marks, "detail"]


def cells(row: Row, columns: Sequence[str]) -> list[str]:
    """One row of the table as text."""
    families = columns[2 : columns.index("order asked for")]
    orders = [pretty(row.orders.get(family, "")) for family in families]
    time = units.times(row.time) if row.time else ""
    steps = units.times(row.steps) if row.steps else ""
    detail = "; ".join(part for part in (row.detail, *row.traps) if part)
    marks = [f"{row.marks:g}" if row.marks is not None else ""] if "marks" in columns else []
    return [row.name, row.verdict, *orders, row.requirement, time, steps, *marks, detail]


def summary(rows: Sequence[Row]) -> str:
    """The class in a line."""
    counts = {
        verdict: sum(row.verdict == verdict for row in rows) for verdict in dict.fromkeys(r.verdict for r in rows)
    }
    words = {verdict: "fail" if verdict == "fails" and counts[verdict] > 1 else verdict for verdict in sorted(counts)}
    told = ", ".join(f"{counts[verdict]} {word}" for verdict, word in words.items())
    exceeding = sum(row.requirement == "exceeds" for row in rows)
    faster = f"; {exceeding} {'grows' if exceeding == 1 else 'grow'} faster than asked" if exceeding else ""
    return f"{counted(len(rows), 'submission')}: {told}{faster}"


def render(title: str, rows: Sequence[Row]) -> RenderableType:
    """The table for a terminal."""
    columns = headings(rows)
    grid = Grid(box=None, padding=(0, 2, 0, 0), pad_edge=False)
    for heading in columns:
        grid.add_column(units.name(heading), header_style="dim", overflow="fold")
    for row in rows:
        made = cells(row, columns)
        shown = [units.name(made[0]), *(cell or units.NOTHING for cell in made[1:-1]), made[-1]]
        grid.add_row(*(Text(cell, style=TONES.get(cell, "dim" if cell == units.NOTHING else "")) for cell in shown))
    return Group(Text(title, style="bold"), Text(summary(rows)), "", grid, Text(_told(rows), style="dim"))


def _told(rows: Sequence[Row]) -> str:
    """What the cells of the table mean, and why some are empty."""
    size = next((row.size for row in rows if row.size), None)
    told = ["orders are those of steps"] if any(row.orders for row in rows) else []
    if size:
        told.append(f"time and steps: times those of the reference at n = {units.size(size)}")
    if any(row.verdict != CORRECT for row in rows):
        told.append(f"{units.NOTHING} only what is right is counted and timed")
    return "; ".join(told)


def as_text(title: str, rows: Sequence[Row], width: int = 120) -> str:
    """The table as plain text."""
    return plainly(render(title, rows), width)


def as_csv(rows: Sequence[Row]) -> str:
    """The table as CSV; a cell that a spreadsheet would take for a formula has an apostrophe in front."""
    columns = headings(rows)
    stream = io.StringIO()
    writer = csv.writer(stream, lineterminator="\n")
    writer.writerow(columns)
    for row in rows:
        plain = cells(row, columns)
        at = columns.index("time")
        plain[at : at + 2] = ["" if value is None else f"{value:.4g}" for value in (row.time, row.steps)]
        writer.writerow([f"'{cell}" if cell.startswith(("=", "+", "-", "@", "\t", "\r")) else cell for cell in plain])
    return stream.getvalue()


def as_html(title: str, rows: Sequence[Row]) -> str:
    """The table as one HTML file that needs nothing else."""
    columns = headings(rows)
    table = [[cell or units.NOTHING for cell in cells(row, columns)[:-1]] + cells(row, columns)[-1:] for row in rows]
    found = environment().get_template("class.html")
    whole = {"title": title, "summary": summary(rows), "columns": columns, "rows": table, "told": _told(rows)}
    return found.render(**whole, single=None, chart=charts.embedded(charts.Chart("n", True, "", [])))


def write_pages(title: str, rows: Sequence[Row], folder: Path, question: str = "") -> None:
    """A short page for each submission, which can be handed back; it tells nothing of other submissions."""
    folder.mkdir(parents=True, exist_ok=True)
    template = environment().get_template("class.html")
    taken: set[str] = set()
    for row in rows:
        name = _unique(re.sub(r"[^\w.-]", "-", row.name)[:NAME_MOST], taken)
        single = {
            "verdict": row.verdict,
            "question": question,
            "require": pretty(row.require),
            "file": row.file,
            "detail": row.detail,
            "orders": [(units.name(family), pretty(order) or "open") for family, order in row.orders.items()],
            "requirement": row.requirement,
            "exceeds": [units.name(family) for family in row.exceeds],
            "time": units.times(row.time) if row.time else "",
            "interval": f"{units.times(row.low)} to {units.times(row.high)}" if row.low and row.high else "",
            "steps": units.times(row.steps) if row.steps else "",
            "size": units.size(row.size) if row.size else "",
            "traps": row.traps,
            "marks": f"{row.marks:g}" if row.marks is not None else "",
            "culprits": [f"on {units.name(each.family)}: {culprit(each)}" for each in row.lines if each.culprit],
            "tables": tables(row.lines),
        }
        text = template.render(
            title=row.name,
            summary=title,
            columns=[],
            rows=[],
            told="",
            single=single,
            chart=charts.embedded(charts.chart_of(row)) if row.steps_at else None,
        )
        write_file(folder / f"{name}.html", text)


def _unique(name: str, taken: set[str]) -> str:
    """A name that no other page has, also where a file system takes large letters for small ones."""
    made, number = name, 1
    while made.lower() in taken:
        number += 1
        made = f"{name}-{number}"
    taken.add(made.lower())
    return made
