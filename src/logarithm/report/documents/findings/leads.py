"""Who leads where, in a line for each family: the answer that a report begins with."""

from __future__ import annotations

from itertools import groupby

from ....errors import named
from ....notation import numbers, words
from ....notation.places import Place
from ....notation.words import place
from ....results.findings import Findings
from ....results.pairs import Standing
from ...document import DIM, STRONG, Span, Table
from .sentences import axis_of, taking
from .tables import places

SAME = 1e-9
OVER_SHOWN = 2  # others that a leader is told to be ahead of
TOLD = 1.05  # times as fast as the next one: less is no number worth a word


def answers(findings: Findings, is_short: bool = False) -> Table:
    """Who leads where, a row a family; leaders stand out, and what is undecided does not. Short, without intervals."""
    table = Table(headings=None)
    if len(findings.study.contenders) < 2:
        return table
    costs = places(findings.costs)
    for where, standings in places(findings.standings).items():
        if len({each.contender for each in costs[where]}) < 2:
            continue  # nobody stands beside it
        told: list[str | Span] = []
        for _, group in groupby(standings, key=_who):
            parts = list(group)  # more than one where nothing is known of a size in between
            told += ["; "] if told else []
            spans = [span for span in (_span(each, where, findings) for each in parts) if span]
            told += _leads(max(parts, key=lambda each: each.ahead or 0.0), f" {named(spans)}".rstrip(), is_short)
        never = _never(where, standings, findings)
        if never:
            rest = f"{words.listed(never, 4)} never {'leads' if len(never) == 1 else 'lead'}"
            told += ["; ", Span(rest, DIM)]
        table.rows.append((place(where), tuple(told)))
    return table


def _who(standing: Standing) -> str | Standing:
    """What two standings share that are told as one: their leader, where it leads alone."""
    return standing.leader or standing


def _span(standing: Standing, where: Place, findings: Findings) -> str:
    """The sizes that a standing is about."""
    here = [point.size for each in places(findings.costs)[where] for point in each.points]
    low, high = min(here), max(here)
    axis, start, end = axis_of(findings), numbers.size(standing.start), numbers.size(standing.end)
    if low == high:
        return f"at {axis} = {numbers.size(low)}" if findings.study.axis == "size" else ""
    if standing.start <= low and standing.end >= high:
        return "at every size"
    if standing.start == standing.end:
        return f"at {axis} = {start}" if standing.start <= low else f"at {start}"
    if standing.start <= low:
        return f"up to {axis} = {end}"
    return f"from {start} on" if standing.end >= high else f"from {start} to {end}"


def _leads(standing: Standing, span: str, is_short: bool) -> list[str | Span]:
    """Who leads over a range of sizes, in pieces: one of them, several in a tie, or nobody knows who."""
    names = words.listed(standing.names, 4)
    if standing.rivals:
        first = standing.rivals[0]
        takes = taking(first.contender, standing.cheapest, first.low, first.high)
        return [Span(f"not known which of {names} leads{span} ({takes})", DIM)]
    if standing.tied:
        if not standing.within or standing.within < SAME:
            return [Span(f"{names} are equal{span}", DIM)]
        return [Span(f"{names} tie{span} (within {numbers.number(100 * standing.within, 2)} %)", DIM)]
    return [Span(words.said(standing.cheapest), STRONG), f" leads{span}", Span(_ahead(standing, is_short), DIM)]


def _ahead(standing: Standing, is_short: bool) -> str:
    """How far a leader is ahead: "(24 × as fast as catching (22 to 26), 5.0 × as flat, at 140)"."""
    over = [each for each in standing.over if each.factor >= TOLD][:OVER_SHOWN]
    if not over:
        return ""
    first, *others = over
    low, high = (numbers.number(end, 2) for end in (first.low, first.high))
    between = "" if is_short else f" ({low} to {high})"
    told = [f"{numbers.times(first.factor)} as fast as {words.said(first.contender)}{between}"]
    told += [f"{numbers.times(each.factor)} as {words.said(each.contender)}" for each in others]
    where = "" if standing.start == standing.end else f", at {numbers.size(first.size)}"
    return f" ({', '.join(told)}{where})"


def _never(where: Place, standings: list[Standing], findings: Findings) -> list[str]:
    """Contenders compared there that never lead nor tie for the lead, and of whom that is known."""
    seen = {name for each in standings for name in each.names}
    compared = {
        name for each in findings.pairs if each.place == where and each.smooth for name in (each.one, each.other)
    }
    present = [each.contender for each in places(findings.costs)[where] if each.contender in compared]
    return [name for name in present if name not in seen and name not in findings.study.yardsticks]
