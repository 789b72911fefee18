"""Claims and their verdicts, as rows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from rich.console import RenderableType
from rich.table import Table
from rich.text import Text

from ...notation.orders import pretty
from ...results.findings import ClaimFinding, Findings
from .. import units

TONES = {"contradicted": "red", "holds": "green"}


@dataclass(frozen=True, slots=True)
class Verdict:
    """A claim in words, and whether it fails the whole."""

    contender: str
    where: str
    claim: str
    verdict: str
    found: str
    fails: bool

    @classmethod
    def of(cls, claim: ClaimFinding, findings: Findings, fails: bool) -> Verdict:
        """A claim with what was found beside it."""
        key = claim.contender, claim.family, claim.stage, claim.metric
        growths = {(each.contender, each.family, each.stage, each.metric): each for each in findings.growth}
        growth = growths.get(key) or growths[(*key[:3], "time")]
        found = ", ".join(pretty(each.order) for each in growth.plausible) or growth.advice
        found = units.formula(growth.exact) if growth.exact else found
        since = f", from n = {units.size(claim.since)} on" if claim.since is not None else ""
        metric = claim.metric if claim.metric != "time" else None
        where = ", ".join(part for part in (claim.family, claim.stage, metric) if part)
        return cls(claim.contender, where, units.formula(claim.claim), claim.verdict, found + since, fails)


def verdicts(rows: Sequence[Verdict]) -> RenderableType:
    """The verdicts as a table."""
    table = Table(box=None, padding=(0, 2, 0, 0), pad_edge=False)
    for heading in ("contender", "family", "claim", "verdict", "found"):
        table.add_column(heading, header_style="dim")
    for row in rows:
        style = TONES.get(row.verdict, "dark_orange")
        names = units.name(row.contender), units.name(row.where)
        table.add_row(*names, row.claim, Text(row.verdict, style=style), row.found)
    return table
