"""After how many uses a dearer build pays: one table, a row for each pair that matters and a column for each size."""

from __future__ import annotations

from .....notation import numbers, words
from .....notation.sizes import Number
from .....results.findings import Findings
from .....results.pairs import AT_ONCE, NEVER, Breakeven
from .... import units
from ....document import Line, Table
from ..sentences import axis_of

SIZES_MOST, ROWS_MOST = 5, 8
FOOT = (
    "in brackets: the range that holds the number of uses in 95 of 100 cases; never: the other one is cheaper in both"
)


def breakeven(findings: Findings, everything: bool = False) -> Table:
    """How many uses it takes at some sizes, for pairs with the baseline and of contenders that lead; or for all."""
    pairs: dict[tuple[str, frozenset[str]], dict[Number, Breakeven]] = {}
    for each in findings.breakeven:
        names = frozenset((each.dearer, each.cheaper))
        if everything or _matters(names, findings):
            pairs.setdefault((each.family, names), {})[each.size] = each
    if not pairs:
        return Table(headings=None)
    every = sorted({size for rows in pairs.values() for size in rows})
    sizes = [every[at] for at in units.evenly(len(every), SIZES_MOST)]
    several = len(findings.study.families) > 1
    heads = [numbers.size(size) for size in sizes]
    heads[0] = f"{axis_of(findings)} = {heads[0]}"
    table = Table(("build", *(["family"] if several else []), *heads), numbers=1 + several, foot=FOOT)
    for (family, _), rows in [*pairs.items()][: None if everything else ROWS_MOST]:
        # The one that is dearer to build at most sizes comes first.
        dearer = [each.dearer for each in rows.values()]
        first = max(dict.fromkeys(dearer), key=dearer.count)
        other = next(name for each in rows.values() for name in (each.cheaper, each.dearer) if name != first)
        cells: list[Line] = [_uses(rows.get(size), first) for size in sizes]
        pair = f"{words.said(first)} against {words.said(other)}"
        table.rows.append((pair, *([words.name(family)] if several else []), *cells))
    return table


def _matters(names: frozenset[str], findings: Findings) -> bool:
    if findings.study.baseline in names:
        return True
    leaders = {each.cheapest for each in findings.standings if each.stage in ("build", "use")}
    return names <= leaders


def _uses(found: Breakeven | None, dearer: str) -> str:
    """How many uses it takes at one size, of the contender that the row is about."""
    if found is None:
        return units.NOTHING
    if found.dearer != dearer:
        # At this size it is the other one that is dearer to build.
        return {NEVER: AT_ONCE, AT_ONCE: NEVER}.get(found.verdict, "open")
    if found.verdict in (AT_ONCE, NEVER):
        return found.verdict
    if found.uses is None or found.low is None or found.high is None:
        return "open"
    return f"{numbers.crossing(found.uses)} ({numbers.crossing(found.low)} to {numbers.crossing(found.high)})"
