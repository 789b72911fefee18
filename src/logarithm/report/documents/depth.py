"""Pairs, growth, lines and forecasts in depth, as documents."""

from __future__ import annotations

from collections.abc import Sequence

from ...notation import numbers, words
from ...notation.orders import pretty
from ...notation.words import place, place_said
from ...results.pairs import TIE, PairFinding, Zone
from ...results.tasks.depth import GrowthInDepth, GrowthsInDepth, Lines, MapPair, PairInDepth, PairsInDepth
from ...results.tasks.forecast import NO_FORECAST, Ahead, Forecast
from .. import units
from ..document import DIM, Document, Line, Section, Span, Table, told
from .findings.lines import culprits, line_tables
from .findings.sentences import overtaking, taking
from .findings.special.maps import edge_said
from .findings.tables import formula

WITHIN = "within"  # what was measured
BEYOND = "beyond: so many times the largest size measured. A kink, a full cache or full memory may stand in between."


def pairs(found: PairsInDepth) -> Document:
    """Two contenders each: who leads where, every crossing, what is to be expected beyond, the ratio at each size."""
    on_map = [_map_pair(each, found.names) for each in found.on_map]
    return Document("", sections=[*(_pair(each, found.axis) for each in found.in_depth), *on_map])


def _map_pair(found: MapPair, names: Sequence[str]) -> Section:
    """Two contenders of a map: each boundary point by point, then the ratio at each measured place."""
    one, other = words.said(found.one), words.said(found.other)
    tables: list[Table] = []
    lines: list[Line] = [tuple(edge_said(each, names)) for each in found.boundaries]
    for edge in found.boundaries:
        across = next(name for name in names if name != edge.along)
        table = Table(
            (across, f"{edge.along} of the boundary", "95 %"),
            title=f"{words.said(edge.before)} below, {words.said(edge.after)} above",
        )
        for row in edge.curve:
            size, at, low, high = (numbers.crossing(row[name]) for name in (across, edge.along, "low", "high"))
            table.rows.append((size, at, f"{low} to {high}"))
        tables.append(table)
    ratios = Table((*names, f"{one} over {other}", "95 %"))
    for each in found.ratios:
        value, low, high = (numbers.number(end, 3) for end in (each.ratio.value, each.ratio.low, each.ratio.high))
        ratios.rows.append((numbers.size(each.first), numbers.size(each.second), f"{value} ×", f"{low} to {high}"))
    if not found.boundaries:
        lines = ["no boundary between them was found"]
    return Section("pair", f"{one} and {other} on {place_said(found.place)}", lines, [*tables, ratios])


def _pair(found: PairInDepth, axis: str) -> Section:
    pair = found.pair
    one, other = words.said(pair.one), words.said(pair.other)
    lines: list[Line] = [overtaking(each, axis) for each in found.crossovers]
    for zone in pair.zones:
        ends = f"{axis} = {numbers.size(_tidy(zone.start))} to {numbers.size(_tidy(zone.end))}"
        lines.append(f"{_holds(zone, pair)} over {ends}")
    if pair.ahead == "none" and axis == "n":
        lines.append("no crossover is to be expected up to ten times the largest size")
    elif pair.ahead == "open" and axis == "n":
        lines.append("what happens beyond the sizes measured is open")
    table = Table((axis, f"{one} over {other}", "95 %"))
    for row in found.ratios:
        value, low, high = (numbers.number(end, 3) for end in (row.ratio.value, row.ratio.low, row.ratio.high))
        table.rows.append((numbers.size(row.size), f"{value} ×", f"{low} to {high}"))
    where = place_said(pair.place)
    return Section("pair", f"{one} and {other} on {where}", lines, [table])


def _holds(zone: Zone, pair: PairFinding) -> str:
    """What holds of a pair over a range of sizes."""
    if zone.leader:
        return f"{words.said(zone.leader)} leads{_factor(zone, zone.leader == pair.one)}"
    if zone.verdict == TIE:
        return "it is a tie"
    return f"it is not known who leads ({taking(pair.one, pair.other, zone.low, zone.high)})"


def _factor(zone: Zone, is_one: bool) -> str:
    """How many times as fast the leader of a range is, the one of a pair whose cost is above in its ratio or not."""
    if zone.low <= 0 or zone.high is None:
        return ""
    least, most = (1 / zone.high, 1 / zone.low) if is_one else (zone.low, zone.high)
    return f", {numbers.number(least, 2)} to {numbers.number(most, 2)} times as fast,"


def _tidy(size: float) -> float:
    return round(size) if size >= 10 else float(f"{size:.2g}")


def growth(found: GrowthsInDepth) -> Document:
    """Curve by curve: every candidate, the residuals and local exponents by size, and the two exponents."""
    return Document("", sections=[_curve(each) for each in found.curves])


def _curve(found: GrowthInDepth) -> Section:
    tried = Table(("order", "weight", "cost", "typical miss", "largest miss"), title="candidates")
    for each in found.candidates:
        weight = f"{each.weight:.2f}" if each.weight else Span("ruled out", DIM)
        cost = formula(each.order, each.fixed, each.linear, each.scale, found.metric)
        tried.rows.append((pretty(each.order), weight, cost, f"{100 * each.miss:.1f} %", f"{100 * each.misfit:.0f} %"))
    unit = units.unit_for((row.cost for row in found.sizes), found.metric)
    sizes = Table(("n", f"cost, {unit.name}".rstrip(", "), "off the first choice", "local exponent"), title="by size")
    for row in found.sizes:
        off: Line = Span("not fitted", DIM) if row.residual is None else f"{100 * row.residual:+.1f} %"
        cost = numbers.number(row.cost / unit.size)
        sizes.rows.append((numbers.size(row.size), cost, off, f"{row.exponent:.2f}"))
    slope, law = found.exponent, found.law
    lines: list[Line] = [
        f"slope at the upper end, as measured: {slope.value:.2f} ({slope.low:.2f} to {slope.high:.2f}); "
        f"of the law behind it, if caches bend it: {law.low:.2f} to {law.high:.2f}",
        *([pretty(found.advice)] if found.advice else []),
    ]
    title = f"{words.name(found.contender)} on {place(found.place)}"
    return Section("growth", title, lines, [tried, sizes], tables_first=True)


def lines(found: Lines) -> Document:
    """Which lines of the code the growth comes from."""
    return Document("", sections=[Section("lines", "", list(culprits(found.lines)), line_tables(found.lines))])


def forecast(found: Forecast) -> Document:
    """Forecasts, a table a metric."""
    tables: dict[str, Table] = {}
    for each in found.rows:
        what = f"{each.metric} at {_spot(found)}" if found.at is not None else _span(found)
        table = tables.setdefault(each.metric, Table(("contender", "family", what, "95 %", "beyond")))
        table.rows.append((words.name(each.contender), words.name(each.family), *_ahead(each, found.at is not None)))
        table.foot = (
            BEYOND
            if any(row.value is not None and row.beyond > 1 for row in found.rows if row.metric == each.metric)
            else " "
        )
    section = Section("forecast", "", tables=list(tables.values()))
    return Document("", sections=[section] if tables else [told(["there is nothing to forecast"])])


def _spot(found: Forecast) -> str:
    """The place that is asked about, in one size or two."""
    if found.second is None:
        return f"n = {numbers.size(found.at or 0)}"
    first = "" if found.at is None else f"{found.names[0]} = {numbers.size(found.at)}, "
    return f"{first}{found.names[1]} = {numbers.size(found.second)}"


def _span(found: Forecast) -> str:
    seconds = found.within or 0.0
    limit = units.unit_for([seconds]).show(seconds, 2)
    return f"n within {limit}" if found.second is None else f"{found.names[0]} within {limit} at {_spot(found)}"


def _ahead(each: Ahead, is_cost: bool) -> tuple[str, str, str]:
    """The value, its interval, and how far beyond what was measured it lies, or why there is none."""
    if each.fails is not None:
        return "none", units.NOTHING, f"it fails at n = {numbers.size(each.fails)}"
    if each.value is None or each.low is None:
        return "none", units.NOTHING, NO_FORECAST[each.why]
    if each.exact:
        return numbers.whole(each.value), f"exactly {units.formula(each.exact)}", "exact"
    unit = units.unit_for([each.value], each.metric)
    value, low = (unit.show(part, 2) if is_cost else _size(part) for part in (each.value, each.low))
    high = "" if each.high is None else unit.show(each.high, 2) if is_cost else _size(each.high)
    far = f"{numbers.number(each.beyond, 2)} ×"
    told = f"more than {value}" if each.is_least else value
    return told, f"{low} to {high}" if high else f"{low} or more", far if each.beyond > 1 else WITHIN


def _size(size: float) -> str:
    return numbers.whole(float(f"{size:.3g}"))
