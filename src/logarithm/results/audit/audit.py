"""The audit: every statement is held against the numbers it rests on, before it is shown.

Whoever concludes may be wrong: a rule that was not thought of, a case that nobody tried. So each kind of statement has
invariants that are simple enough to be right, and are looked at in one place, on the findings alone. What breaks one is
left out and named in `withheld`, with what it breaks. docs/method.md lists them; the letters here are those there.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any, TypeVar

import msgspec

from ..findings import Findings, GrowthFinding
from .growth import claim, growth
from .maps import boundary, lead
from .numbers import Numbers
from .pairs import breakeven, crossover, cutoff, overlapping, pair, safe, standing

F = TypeVar("F", bound=Findings)
CHECKS: dict[str, Callable[[Any, Numbers], Iterator[str]]] = {
    "pairs": pair,
    "crossovers": crossover,
    "standings": standing,
    "growth": growth,
    "claims": claim,
    "safe_choice": safe,
    "cutoffs": cutoff,
    "breakeven": breakeven,
    "boundaries": boundary,
    "leads": lead,
}
"""The invariants of each kind of statement: what they yield is broken."""


def audited(findings: F) -> F:
    """The findings without what breaks an invariant; that is named in `withheld`."""
    numbers = Numbers(findings)
    withheld: list[str] = []
    kept: dict[str, Any] = {}
    for name, check in CHECKS.items():
        rows = []
        for row in getattr(findings, name):
            breaches = [*check(row, numbers)]
            if not breaches:
                rows.append(row)
                continue
            withheld.append(f"{name}: {'; '.join(breaches)}: {row.cell()}")
            if isinstance(row, GrowthFinding):
                # Its costs and slope stand; its name does not.
                rows.append(msgspec.structs.replace(row, order=None, plausible=[], advice="no law that bears a check"))
        kept[name] = rows
    for row in overlapping(findings.standings):
        withheld.append(f"standings: F: ranges overlap: {row.cell()}")
        kept["standings"] = [each for each in kept["standings"] if each is not row]
    run = findings.run
    if run.settled and (run.unsettled or run.too_few):
        withheld.append("run: N: settled, with questions open")
        run = msgspec.structs.replace(run, settled=None)
    return msgspec.structs.replace(findings, **kept, run=run, withheld=withheld) if withheld else findings
