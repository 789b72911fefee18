"""Claims with their verdicts, as a document."""

from __future__ import annotations

from ...notation import numbers, words
from ...notation.orders import pretty
from ...results.verdicts import Verdict, Verdicts
from .. import units
from ..document import DOUBT, VERDICTS, Document, Section, Span, Table


def verdicts(found: Verdicts) -> Document:
    """A row for each claim."""
    return Document("", sections=[Section("claims", "", tables=[claims_table(found.rows)])])


def claims_table(rows: list[Verdict]) -> Table:
    """The verdicts as a table."""
    table = Table(("contender", "family", "claim", "verdict", "found"))
    for row in rows:
        verdict = Span(row.verdict, VERDICTS.get(row.verdict, DOUBT))
        names = words.name(row.contender), words.name(where(row))
        table.rows.append((*names, units.formula(row.claim), verdict, found_in(row)))
    return table


def where(row: Verdict) -> str:
    """What a claim is for: a family, with stage and metric where they are worth a word."""
    metric = row.metric if row.metric != "time" else None
    return ", ".join(part for part in (row.family, row.stage, metric) if part)


def found_in(row: Verdict) -> str:
    """What was found beside a claim."""
    told = units.formula(row.exact) if row.exact else ", ".join(map(pretty, row.orders)) or row.advice
    return told + (f", from n = {numbers.size(row.since)} on" if row.since is not None else "")
