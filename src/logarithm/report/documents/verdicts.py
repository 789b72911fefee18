"""Claims with their verdicts, as a document."""

from __future__ import annotations

from ...notation import numbers, words
from ...notation.orders import pretty
from ...results.tasks.gates import DISAGREES, Breach
from ...results.tasks.verdicts import Verdict, Verdicts
from .. import units
from ..document import BAD, DOUBT, VERDICTS, Document, Section, Span, Table, sections_of


def verdicts(found: Verdicts) -> Document:
    """A row for each claim."""
    claims = Section("claims", "", tables=[claims_table(found.rows)])
    broken = Section("broken", "", [Span(broken_said(each), BAD) for each in found.broken])
    return Document("", sections=sections_of(claims, broken))


def broken_said(each: Breach) -> str:
    """What fails, or is gone, in a sentence: "sweep on scattered works up to n = 100, then ValueError at n = 128"."""
    if each.reason == DISAGREES:
        return each.detail
    who = words.said(each.contender) + ("" if each.family is None else f" on {words.said(each.family)}")
    if each.size is None:
        return f"{who} is {each.reason}: {each.detail}" if each.detail else f"{who} is {each.reason}"
    works = "" if each.works is None else f"works up to {numbers.size(each.works)}, then "
    second = "" if each.second is None else f", {numbers.size(each.second)}"
    detail = f" ({each.detail})" if each.detail else ""
    return f"{who} {works}fails with {each.reason} at n = {numbers.size(each.size)}{second}{detail}"


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
    told += f", from n = {numbers.size(row.since)} on" if row.since is not None else ""
    return told + (f", judged up to n = {numbers.size(row.until)}" if row.until is not None else "")
