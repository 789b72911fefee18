"""A map of two sizes in words and tables: boundaries, laws, and a grid of who leads by how much."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import msgspec

from .....errors import one_line
from .....notation import numbers, words
from .....notation.orders import pretty
from .....notation.places import Place
from .....notation.words import place, place_said
from .....results.findings import Findings, GrowthFinding
from .....results.maps import Boundary, Lead, MapFinding
from .....results.pairs import LEADS, TIE
from .... import units
from ....document import DIM, STRONG, VERDICTS, Line, Section, Span, Table

SLICES_MOST = 6  # panels of a map
WHOLE = 1.5  # a boundary that ends nearer to the border of the map than this factor reaches it
FLAT = 0.1  # a slope in a size that does not matter
ACROSS_MOST, NAME_MOST = 5, 10  # sizes across a grid, and letters of a name in its cells


def sections(findings: Findings) -> list[Section]:
    """The sections of a map, in the order of reading."""
    return [
        Section("answer", "", list(answer(findings))),
        Section("growth", "Growth", list(_matters(findings)), [laws(findings)], tables_first=True),
        Section("ratios", "Who leads, and how many times as much the next one costs", tables=_grids(findings)),
        Section("costs", "Cost of a call", tables=_costs(findings)),
    ]


def answer(findings: Findings) -> Iterator[Line]:
    """Who leads where, a sentence for each boundary between two leaders; and who never does."""
    several = len({each.place for each in findings.maps}) > 1
    for each in findings.maps:
        own = [edge for edge in findings.boundaries if edge.place == each.place and edge.matters]
        where = f"{place(each.place)}: " if several else ""
        for edge in own:
            part = where_said(edge, each) if edge.law else ""  # without one, the line's ends are told
            yield (where, *edge_said(edge, findings.study.names), part)
        leading = [lead for lead in findings.leads if lead.place == each.place]
        alone = list(dict.fromkeys(lead.leader for lead in leading if lead.verdict == LEADS))
        if not own and len(alone) == 1 and all(lead.leader == alone[0] for lead in leading):
            yield (where, Span(words.said(alone[0]), STRONG), f" leads on the whole map{_factors(leading)}")
        elif not own:
            ties = [lead for lead in leading if lead.verdict == TIE]
            if len(ties) == len(leading) and ties:
                yield (where, Span(f"{words.listed([ties[0].leader, ties[0].next or ''])} tie on the whole map", DIM))
            elif not alone:
                yield (where, Span("not known who leads: a longer --budget tells more", DIM))
        seen = {name for lead in leading for name in (lead.leader, lead.next if lead.verdict != LEADS else "")}
        never = [name for name in each.contenders if name not in seen]
        if never:
            told = f"{words.listed(never, 4)} never {'leads' if len(never) == 1 else 'lead'}"
            yield (where, Span(told, DIM))


def _factors(leading: list[Lead]) -> str:
    """How far ahead a leader is, over all places."""
    found = [lead.factor.value for lead in leading if lead.factor is not None]
    if not found:
        return ""
    low, high = (numbers.number(each, 2) for each in (min(found), max(found)))
    return f", the next one costs {low} to {high} times as much" if low != high else f", the next one costs {low} ×"


def edge_said(edge: Boundary, names: Sequence[str]) -> Iterator[str | Span]:
    """A boundary in a sentence: "heap leads where k is below n / 9 (n / 10.4 to n / 8.0), sort above"."""
    yield Span(words.said(edge.before), STRONG)
    along = edge.along
    if edge.law is not None and edge.constant is not None:
        written, value = numbers.crossing if edge.constant.is_size else _short, edge.constant.value
        bound, *rest = edge.constant.bound.split(", ")
        low, at, high = (pretty(bound.format(written(each))) for each in (value.low, value.value, value.high))
        yield f" leads where {along} is below {at} ({low} to {high}){''.join(f', {each}' for each in rest)}"
    else:
        across = next(name for name in names if name != along)
        first, last = edge.curve[0], edge.curve[-1]
        yield f" leads below a line from {_spot(first, along, across)} to {_spot(last, along, across)}"
    yield ", "
    yield Span(words.said(edge.after), STRONG)
    yield " above"


def where_said(edge: Boundary, on: MapFinding) -> str:
    """Where a boundary ends or begins within its map: ", for n up to 1350"."""
    across, sizes = (on.names[0], on.first) if edge.along == on.names[1] else (on.names[1], on.second)
    first, last = edge.curve[0][across], edge.curve[-1][across]
    is_late, is_early = first > sizes[0] * WHOLE, last * WHOLE < sizes[-1]
    start, end = numbers.crossing(first), numbers.crossing(last)
    if is_late and is_early:
        return f", for {across} from {start} to {end}"
    return f", for {across} from {start} on" if is_late else f", for {across} up to {end}" if is_early else ""


def _spot(point: dict[str, float], along: str, across: str) -> str:
    low, high = numbers.crossing(point["low"]), numbers.crossing(point["high"])
    return (
        f"{along} = {numbers.crossing(point[along])} ({low} to {high}) at {across} = {numbers.crossing(point[across])}"
    )


def _short(value: float) -> str:
    return numbers.number(value, 2)


def _matters(findings: Findings) -> Iterator[Line]:
    """Which size a cost does not depend on: its law does not name it, and its slope is about nothing."""
    for each in findings.growth:
        for name in findings.study.names if each.order else ():
            slope = each.exponents.get(name)
            if slope is not None and name not in (each.order or "").split() and abs(slope.value) < FLAT:
                yield f"{words.said(each.contender)} on {place_said(each.place)}: {name} does not matter"


def laws(findings: Findings) -> Table:
    """How each cost grows in both sizes, with the verdict on its claim."""
    claims = {each.key: each for each in findings.claims}
    several = len({each.place for each in findings.growth}) > 1
    unsure = any(len(each.plausible) > 1 for each in findings.growth)
    names = findings.study.names
    more = (("claim", bool(claims)), ("not ruled out", unsure))
    table = Table(
        (
            "contender",
            *(["family"] if several else []),
            "law",
            "cost",
            *(f"exponent of {name}" for name in names),
            *(heading for heading, is_there in more if is_there),
        ),
        spare=tuple(f"exponent of {name}" for name in names),
        whole=("law",),
    )
    for each in findings.growth:
        claim = claims.get(each.key)
        verdict: Line = Span("no claim", DIM)
        if claim is not None:
            verdict = Span(f"{pretty(claim.claim)} {claim.verdict}", VERDICTS[claim.verdict])
        others = [pretty(other.order) for other in each.plausible[1:]]
        slopes = [each.exponents.get(name) for name in names]
        table.rows.append(
            (
                words.name(each.contender),
                *([place(each.place)] if several else []),
                pretty(each.order) if each.order else "open",
                cost_of(each),
                *("open" if slope is None else f"{slope.low:.2f} to {slope.high:.2f}" for slope in slopes),
                *([verdict] if claims else []),
                *([", ".join(others) or Span("no other" if each.order else "open", DIM)] if unsure else []),
            )
        )
    return table


def cost_of(each: GrowthFinding) -> str:
    """What each term of a law costs, with its unit; only the fixed cost and the terms of the law itself."""
    if each.order is None:
        return pretty(each.advice)
    told = sorted(
        (name for name in each.terms if name in ("1", *each.order.split(" + "))), key=lambda name: name != "1"
    )
    parts = []
    for name in told:
        weight = each.terms[name]
        unit = units.unit_for([weight], each.metric)
        value = unit.show(weight, 2).replace(" ", "\u00a0")
        parts.append(value if name == "1" else f"{value} · {pretty(name)}".replace("log ", "log₂ "))
    return " + ".join(parts)


def _grids(findings: Findings) -> list[Table]:
    """A grid for each family: the first size across, the second down, the leader and by how much."""
    return [_grid(each.place, findings) for each in findings.maps]


def _grid(where: Place, findings: Findings) -> Table:
    own = {(lead.first, lead.second): lead for lead in findings.leads if lead.place == where}
    first, second = (sorted({key[which] for key in own}) for which in (0, 1))
    # Sizes that were added near a boundary are for the figure; a grid has those that most values of the second share.
    common = [size for size in first if sum((size, other) in own for other in second) > 1] or first
    shown = [common[at] for at in units.evenly(len(common), ACROSS_MOST)]
    names = findings.study.names
    several = len(findings.maps) > 1
    table = Table(
        (f"{names[1]} \\ {names[0]}", *(numbers.size(size) for size in shown)),
        title=place(where) if several else "",
        whole=(f"{names[1]} \\ {names[0]}",),
        foot="~ a tie within 5 %; ? not known who leads; – not measured there",
    )
    for value in second:
        cells = [_cell(own.get((size, value))) for size in shown]
        table.rows.append((numbers.size(value), *cells))
    return table


def _cell(lead: Lead | None) -> Line:
    if lead is None:
        return units.NOTHING
    mark = {LEADS: "", TIE: "~ "}.get(lead.verdict, "? ")
    ahead = "" if lead.factor is None else f" {numbers.times(max(lead.factor.value, 1.0))}"
    return Span(f"{mark}{one_line(words.name(lead.leader), NAME_MOST)}{ahead}", "" if lead.verdict == LEADS else DIM)


def _costs(findings: Findings) -> list[Table]:
    """The cost of each contender at each measured place."""
    made = []
    for each in findings.maps:
        own = [lead for lead in findings.leads if lead.place == each.place]
        for name in each.contenders:
            at = {(lead.first, lead.second): lead.costs[name] for lead in own if name in lead.costs}
            if not at:
                continue
            first, second = (sorted({key[which] for key in at}) for which in (0, 1))
            unit = units.unit_for(at.values(), each.metric)
            shown = [first[index] for index in units.evenly(len(first), ACROSS_MOST)]
            names = findings.study.names
            table = Table(
                (f"{names[1]} \\ {names[0]}", *(numbers.size(size) for size in shown)),
                title=f"{words.name(name)} on {place_said(each.place)}" + (f", {unit.name}" if unit.name else ""),
                numbers=1,
            )
            for value in second:
                cells = [units.amount(at.get((size, value)), unit) for size in shown]
                table.rows.append((numbers.size(value), *cells))
            made.append(table)
    return made


def beside(findings: Findings) -> Findings:
    """A map as panels side by side: slices at some values of the second size, each named as a family of its own."""
    there = findings.study.second_values
    shown = [there[at] for at in units.evenly(len(there), SLICES_MOST)]
    name = findings.study.names[1]
    costs = [
        msgspec.structs.replace(each, family=f"{each.family}, {name} = {numbers.size(each.second)}")
        for each in findings.costs
        if each.second in shown and each.second is not None
    ]
    return msgspec.structs.replace(findings, costs=costs, growth=[])
