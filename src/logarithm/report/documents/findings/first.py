"""The first screen of a report: the answer, how each cost grows, crossovers and choice, and what to do next.

All else is for those who ask: `report --all`, `--section`, or the page.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from ....errors import counted, named
from ....notation import numbers, words
from ....notation.metrics import TIMED
from ....notation.orders import pretty
from ....notation.words import place_said
from ....results.findings import ClaimFinding, Findings, GrowthFinding
from ... import units
from ...document import BAD, DIM, DOUBT, STRONG, Line, Section, Span, Table, sections_of
from .sentences import axis_of
from .tables import cost_of

LIKELY = 0.2  # the weight of a second order, from which on it is told beside the first
ROWS_MOST = 8  # lines that a section of the first screen has at most
WEIGHTS = {
    **{"answer": 3.0, "workload": 3.0, "changes": 3.0, "failures": 3.0, "growth": 2.0, "crossovers": 1.5},
    **{"choice": 1.5, "notes": 0.6},
}
"""How much more the lines of some sections are worth, where all are too many."""
LEAST = {"answer": 1, "growth": 1, "failures": 1}
"""Sections of which something is always shown; of others nothing, where there is no room."""
WHOLE_COMMAND = "logarithm report --all"


def growth_in_short(findings: Findings, several_families: bool) -> Iterator[Line]:
    """A line for each contender: its orders, the most common one first, and claims that do not hold."""
    own: dict[str, list[GrowthFinding]] = {}
    for each in findings.growth:
        own.setdefault(each.contender, []).append(each)
    for name, rows in own.items():
        known = [each for each in rows if each.order]
        if not known:
            continue
        yield (Span(words.said(name), STRONG), " grows as ", *_orders(known, len(rows), several_families))
    yield from _open(findings)
    yield from _claims(findings)


def _orders(rows: Sequence[GrowthFinding], many: int, several: bool) -> Iterator[str | Span]:
    """The orders of one contender, with where each holds unless it holds everywhere."""
    groups: dict[str, list[GrowthFinding]] = {}
    for each in rows:
        others = [other.order for other in each.plausible[1:2] if other.weight >= LIKELY]
        orders = " or ".join(pretty(order) for order in (each.order or "", *others))
        told = f"exactly {units.formula(each.exact)}" if each.exact is not None else orders
        groups.setdefault(told, []).append(each)
    for number, (order, own) in enumerate(sorted(groups.items(), key=lambda group: -len(group[1]))):
        where = f" on {named([_where(each, several) for each in own], 3)}"
        yield (", " if number else "") + order + (where if len(own) < many or own[0].metric not in TIMED else "")
    last = rows[0]
    if len(rows) == 1 and last.exact is None and last.scale:
        yield Span(f": {cost_of(last)}", DIM)


def _where(each: GrowthFinding, several: bool) -> str:
    """Where a growth was seen, without the family where there is only one."""
    parts = [words.said(each.family)] if several else []
    parts += [each.stage] if each.stage else []
    return " ".join([*parts, *([each.metric] if each.metric != "time" else [])]) or words.said(each.family)


def _open(findings: Findings) -> Iterator[Line]:
    """What has no order, with why; said once for all that share a reason."""
    reasons: dict[str, list[str]] = {}
    for each in findings.growth:
        if each.order is None:
            told = cost_of(each)
            reasons.setdefault(told, []).append(f"{words.said(each.contender)} on {place_said(each.place)}")
    for why, names in reasons.items():
        alike = len({each.contender for each in findings.growth}) > 1 and len(names) == len(findings.growth)
        yield f"no order is named: {why}" if alike or len(names) > 3 else f"{named(names, 3)}: {why}"


def _claims(findings: Findings) -> Iterator[Line]:
    """Claims that do not hold; else, in a word, that all do."""
    wrong = [each for each in findings.claims if each.verdict != "holds"]
    for verdict in dict.fromkeys(each.verdict for each in wrong):
        said = [
            f"{units.formula(each.claim)} of {words.said(each.contender)} on {place_said(each.place)}{_since(each)}"
            for each in wrong
            if each.verdict == verdict
        ]
        tone = DOUBT if verdict == "undecided" else BAD
        yield (Span(f"claims {verdict}", tone), f": {named(said, 3)}")
    if findings.claims and not wrong:
        yield Span(f"{counted(len(findings.claims), 'claim')} hold" + ("s" if len(findings.claims) == 1 else ""), DIM)


def _since(claim: ClaimFinding) -> str:
    return "" if claim.since is None else f" from {numbers.size(claim.since)} on"


def costs_in_short(findings: Findings) -> Table:
    """What a call costs at the largest size, where nobody stands beside a contender or there is one size."""
    table = Table(None)
    axis = axis_of(findings)
    for each in findings.costs:
        if each.points:
            last = each.points[-1]
            unit = units.unit_for([last.typical], each.metric)
            metric = "" if each.metric in TIMED else f" {each.metric}"
            cost = f"{unit.show(last.typical, 3)}{metric} a call at {axis} = {numbers.size(last.size)}"
            table.rows.append(
                (f"{words.name(each.contender)} on {place_said((each.family, each.stage, 'time'))}", cost)
            )
    return table


def next_steps(findings: Findings, notes: int) -> Section:
    """What to do next; so many notes had no room."""
    run, lines = findings.run, list[str]()
    if run.unsettled:
        settle = counted(len(run.unsettled), "open question")
        file = findings.study.file
        longer = (
            f"logarithm measure {file} --resume {run.logbook} --budget 1m" if file else "run it with a larger --budget"
        )
        lines.append(f"{settle}: {longer}")
    more = f" and {counted(notes, 'note')}" if notes else ""
    lines.append(f"{WHOLE_COMMAND}: all tables{more} · logarithm growth, crossover: one question in depth")
    lines.append("logarithm plot: figures · logarithm report --format html --out page.html: a page")
    rows: list[tuple[Line, ...]] = [(Span("next:" if not at else "", DIM), line) for at, line in enumerate(lines)]
    return Section("next", "", tables=[Table(None, rows)])


def shortened(sections: Sequence[Section], rows: Mapping[str, int]) -> list[Section]:
    """Sections of at most so many lines and rows each; what is left out is counted, with the command that shows it."""
    for each in sections:
        keep = rows.get(each.name, ROWS_MOST)
        left = max(0, len(each.lines) - keep)
        del each.lines[keep:]
        for table in each.tables:
            left += max(0, len(table.rows) - keep)
            del table.rows[keep:]
        if left and keep:
            each.tables_first = each.tables_first or not each.lines
            each.lines.append(Span(f"… {left} more: logarithm report --section {each.name}", DIM))
    return sections_of(*sections)


def one_less(sections: Sequence[Section], rows: Mapping[str, int]) -> dict[str, int] | None:
    """How many lines each section may have, one less for the one that has most for what it weighs; None at the end."""
    held = {}
    for each in sections:
        longest = max([len(each.lines), *(len(table.rows) for table in each.tables)])
        held[each.name] = min(longest, rows.get(each.name, ROWS_MOST)) if each.name != "next" else 0
    dear = {name: many / WEIGHTS.get(name, 1.0) for name, many in held.items() if many > LEAST.get(name, 0)}
    if not dear:
        return None
    name = max(dear, key=dear.__getitem__)
    return {**rows, name: held[name] - 1}
