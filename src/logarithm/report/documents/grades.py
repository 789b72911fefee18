"""A class as a document, as CSV, and a document for each submission, to hand back."""

from __future__ import annotations

import csv
import io
import math
import re
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from ...errors import counted
from ...notation import numbers, words
from ...notation.orders import parse, pretty
from ...results.tasks.grades import CORRECT, EXCEEDS, Class, Grade
from .. import units
from ..document import BAD, DIM, DOUBT, GOOD, Document, Line, Section, Span, Table, sections_of, told
from .findings.lines import culprit, line_tables

TONES = {
    **dict.fromkeys(("correct", "meets"), GOOD),
    **dict.fromkeys(("incorrect", "fails", "broken", "not allowed", "exceeds"), BAD),
    "open": DOUBT,
}
REQUIRED = {
    "meets": "within what is asked",
    "exceeds": "grows faster than asked",
    "open": "whether it is within what is asked is open",
}
SLOW = 2.0  # times the time of the reference, from which on a submission is among the slow ones
FACTORS = (
    (1.2, "up to 1.2 ×"),
    (2.0, "1.2 to 2 ×"),
    (5.0, "2 to 5 ×"),
    (20.0, "5 to 20 ×"),
    (math.inf, "more than 20 ×"),
)
BAR_REM = 14.0  # the longest bar
FORMULA = re.compile(r"(^|[;|\t])(\s*)(?=[=+\-@\t\r\u2212\uff1d\uff0b\uff0d\uff20\ufe62\ufe63\ufe66\ufe6b])")
"""Where a spreadsheet would take a cell, or what a semicolon makes one, for a formula."""


def grades(found: Class) -> Document:
    """The class in a line, and a row for each submission."""
    columns = headings(found)
    table = Table(tuple(words.name(column) for column in columns), foot=_meaning(found.rows) or " ")
    for row in found.rows:
        name, *middle, detail = cells(row, columns, len(found.functions) > 1)
        shown: list[Line] = [Span(cell, TONES.get(cell, "")) if cell else Span(units.NOTHING, DIM) for cell in middle]
        table.rows.append((words.name(name), *shown, detail))
    weak = told(found.weaknesses)
    whole = Section("class", "", [summary(found.rows)], [table])
    return Document(words.name(found.study), sections=sections_of(weak, whole, _together(found)))


def _together(found: Class) -> Section:
    """The marks of each person for all functions, where there are several."""
    table = Table(("handed in by", "marks"), foot=" ")
    if len(found.functions) > 1 and any(row.most for row in found.rows):
        for person, (given, most) in found.totals().items():
            table.rows.append((person, f"{given:g} of {most:g}"))
    return Section("together", "All functions together", tables=[table] if table.rows else [])


def headings(found: Class) -> list[str]:
    """The columns of the table."""
    marks = ["marks"] if any(row.marks is not None for row in found.rows) else []
    marks += ["open"] if any(row.open_parts for row in found.rows) else []
    marks = [*(["cases"] if any(row.cases for row in found.rows) else []), *marks]
    return ["submission", "verdict", *found.families, "required order", "time", "steps", *marks, "detail"]


def cells(row: Grade, columns: Sequence[str], several: bool = False) -> list[str]:
    """One row of the table as text; where functions are worth `several` marks, each with how many there are."""
    families = columns[2 : columns.index("required order")]
    orders = [pretty(row.orders.get(family, "")) for family in families]
    time = _beside(row.time, row.low, row.high)
    if row.time and len(families) > 1:
        time += f" on {words.said(row.time_on)}"
    steps = _beside(row.steps, row.steps_low, row.steps_high)
    detail = "; ".join(part for part in (row.detail, *row.traps) if part)
    of = f" of {row.most:g}" if several else ""
    marks = [f"{row.marks:g}{of}" if row.marks is not None else ""] if "marks" in columns else []
    if "cases" in columns:
        marks = [f"{sum(not each for each in row.cases.values())} of {len(row.cases)}" if row.cases else "", *marks]
    marks += [", ".join(row.open_parts)] if "open" in columns else []
    return [row.name, row.verdict, *orders, row.requirement, time, steps, *marks, detail]


def _beside(value: float | None, low: float | None, high: float | None) -> str:
    """How many times the reference's something is, with its range where that says more."""
    if not value:
        return ""
    ends = [] if low is None or high is None else [numbers.number(each, 2) for each in (low, high)]
    between = f" ({ends[0]} to {ends[1]})" if ends and ends[0] != ends[1] else ""
    return numbers.times(value) + between


def summary(rows: Sequence[Grade]) -> str:
    """The class in a line."""
    counts = {
        verdict: sum(row.verdict == verdict for row in rows) for verdict in dict.fromkeys(r.verdict for r in rows)
    }
    named = {verdict: "fail" if verdict == "fails" and counts[verdict] > 1 else verdict for verdict in sorted(counts)}
    listed = ", ".join(f"{counts[verdict]} {word}" for verdict, word in named.items())
    exceeding = sum(row.requirement == EXCEEDS for row in rows)
    faster = f"; {exceeding} {'grows' if exceeding == 1 else 'grow'} faster than asked" if exceeding else ""
    return f"{counted(len(rows), 'submission')}: {listed}{faster}"


def _meaning(rows: Sequence[Grade]) -> str:
    """What the cells of the table mean, and why some are empty."""
    size = next((row.size for row in rows if row.size), None)
    parts = (
        ["orders are those of steps, and of what known operations do inside them"]
        if any(row.orders for row in rows)
        else []
    )
    if size:
        parts.append("time and steps: times those of the reference, on the family on which that is most")
    if len(worth := {row.most for row in rows if row.most}) == 1:
        parts.append(f"marks: of {worth.pop():g}")
    if any(row.verdict != CORRECT for row in rows):
        parts.append(f"{units.NOTHING} only what is right is counted and timed")
    return "; ".join(parts)


@dataclass(frozen=True, slots=True)
class ClassView:
    """The page of a class.

    Attributes:
        headings: of the columns.
        rows: the cells of each submission, with the filters that let it through.
        filters: by name, with how many they let through.
        spreads: titles, each with labels, how many submissions there are of it, and the length of a bar, in rem.
        foot: what the cells mean.
    """

    headings: list[str]
    rows: list[tuple[list[Line], list[str]]]
    filters: list[tuple[str, int]]
    spreads: list[tuple[str, list[tuple[str, int, float]]]]
    foot: str


def class_view(found: Class) -> ClassView:
    """What the page of a class shows."""
    columns = headings(found)
    rows: list[tuple[list[Line], list[str]]] = []
    for row in found.rows:
        name, *middle, detail = cells(row, columns, len(found.functions) > 1)
        shown: list[Line] = [Span(cell, TONES.get(cell, "")) if cell else Span(units.NOTHING, DIM) for cell in middle]
        is_slow = row.requirement == EXCEEDS or (row.low or 0.0) > SLOW
        kinds = {
            "wrong": row.verdict != CORRECT,
            "open": bool(row.open_parts) or row.requirement == "open",
            "slow": is_slow,
        }
        rows.append(([words.name(name), *shown, detail], [kind for kind, is_so in kinds.items() if is_so]))
    many = [(name, sum(name in kinds for _, kinds in rows)) for name in ("wrong", "open", "slow")]
    orders = [_worst([order for order in row.orders.values() if order]) for row in found.rows if row.orders]
    factors = [next((label for most, label in FACTORS if row.time < most), "") for row in found.rows if row.time]
    spreads = [
        ("How the work grows", _spread(orders)),
        ("Time, beside the reference", _spread(factors, [label for _, label in FACTORS])),
    ]
    return ClassView([words.name(each) for each in columns], rows, many, spreads, _meaning(found.rows))


def _worst(orders: Sequence[str]) -> str:
    """The steepest of some orders, as it is shown."""
    return pretty(max(orders, key=lambda order: parse(order).rank)) if orders else "open"


def _spread(labels: Sequence[str], order: Sequence[str] = ()) -> list[tuple[str, int, float]]:
    """How often there is each label, with the length of a bar."""
    counts = Counter(labels)
    named_so = [each for each in order if each in counts] or [label for label, _ in counts.most_common()]
    return [(each, counts[each], round(BAR_REM * counts[each] / max(counts.values()), 2)) for each in named_so]


def as_csv(found: Class) -> str:
    """The table as CSV, every field quoted; what a spreadsheet would take for a formula has an apostrophe in front."""
    columns = headings(found)
    stream = io.StringIO()
    writer = csv.writer(stream, lineterminator="\n", quoting=csv.QUOTE_ALL)
    writer.writerow(columns)
    for row in found.rows:
        made = cells(row, columns, len(found.functions) > 1)
        at = columns.index("time")
        made[at : at + 2] = ["" if value is None else f"{value:.4g}" for value in (row.time, row.steps)]
        writer.writerow([FORMULA.sub(r"\1\2'", cell) for cell in made])
    return stream.getvalue()


def submission(row: Grade, found: Class) -> Document:
    """What is handed back: one submission, and nothing of the others."""
    asked = f"asked for: {pretty(row.require)}" if row.require else ""
    facts = " · ".join(part for part in (found.question, asked, row.file) if part)
    verdict: list[str | Span] = [Span(row.verdict, TONES.get(row.verdict, ""))]
    if row.requirement:
        verdict += [", ", Span(REQUIRED[row.requirement], TONES[row.requirement])]
    first = Section("verdict", "", [tuple(verdict), *([row.detail] if row.detail else [])])
    rest = Section("details", "", list(_details(row)))
    tables = [Section("lines", "", tables=[table]) for table in line_tables(row.lines)]
    return Document(row.name, words.name(found.study), facts, sections_of(first, rest, *tables))


def _details(row: Grade) -> Iterator[Line]:
    for family, order in row.orders.items():
        grows = f"grows as {pretty(order) or 'open'}"
        yield f"on {words.name(family)} the work (steps, and what is done inside them) {grows}"
    if row.requirement == EXCEEDS:
        yield f"It grows faster than asked, on {', '.join(map(words.name, row.exceeds))}."
    if row.time:
        between = f" ({numbers.times(row.low)} to {numbers.times(row.high)})" if row.low and row.high else ""
        steps = f", and {numbers.times(row.steps)} its steps" if row.steps else ""
        at, where = numbers.size(row.size or 0), f" on {words.name(row.time_on)}" if len(row.orders) > 1 else ""
        yield f"at n = {at}{where} it takes {numbers.times(row.time)} the time of the reference{between}{steps}"
    if row.marks is not None:
        yield f"marks: {row.marks:g} of {row.most:g}"
    for name, why in row.cases.items():
        yield f"{name}: {why or 'right'}"
    if row.wrong_on and row.cases:
        yield f"not right on {', '.join(map(words.name, row.wrong_on))}"
    for part in row.open_parts:
        yield f"the marks for {part} are open: the measurements do not tell"
    yield from (f"on {words.name(each.family)}: {culprit(each)}" for each in row.lines if each.culprit)
    yield from (f"it {trap}" for trap in row.traps)
