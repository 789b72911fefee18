"""The report as text: the answer in sentences, then the tables."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from itertools import pairwise

from rich.console import Console, Group, RenderableType
from rich.padding import Padding
from rich.table import Table
from rich.text import Text

from ..analysis.findings import (
    Cost,
    Costs,
    FailureFinding,
    Findings,
    GrowthFinding,
    NoteFinding,
    Number,
    Standing,
)
from ..orders import pretty
from . import units
from .comparing import axis_of as _axis
from .comparing import breakevens, choices, overtaking
from .comparing import place as _place

Place = tuple[str, str | None, str]

SIZES_SHOWN = 8


def render(findings: Findings) -> RenderableType:
    """The whole report."""
    parts: list[RenderableType] = [_head(findings)]
    answers = list(_answers(findings))
    if answers:
        parts.append(Group(*answers))
    parts += [part for part in _findings(findings) if part is not None]
    parts += [part for part in (_failures(findings), _notes(findings), _machine(findings)) if part is not None]
    spaced: list[RenderableType] = []
    for part in parts:
        spaced += [part, ""]
    return Group(*spaced[:-1])


def _findings(findings: Findings) -> Iterator[RenderableType | None]:
    yield _overtakings(findings)
    yield _choices(findings)
    yield breakevens(findings)
    yield _growth(findings)
    yield _costs(findings)


def text(findings: Findings, width: int = 100) -> str:
    """The report as plain text of at most `width` columns."""
    console = Console(width=width, color_system=None, force_terminal=False, markup=False, emoji=False, highlight=False)
    with console.capture() as captured:
        console.print(render(findings))
    return captured.get()


def _head(findings: Findings) -> RenderableType:
    study, run = findings.study, findings.run
    title = Text(units.name(study.name), style="bold")
    if study.question:
        title.append(f" · {study.question}", style="not bold")
    facts = [_count(len(study.contenders), "contender"), _count(len(study.families), "family", "families")]
    if run.sizes:
        axis = "n" if study.axis == "size" else study.axis
        low, high = run.sizes[0], run.sizes[-1]
        facts.append(
            f"{axis} = {units.size(low)} … {units.size(high)}" if low != high else f"{axis} = {units.size(low)}"
        )
    if run.heats:
        facts.append(f"{_count(run.heats, 'heat')} in {_count(run.lives, 'life', 'lives')}")
    if run.elapsed is not None:
        facts.append(units.span(run.elapsed))
    if run.weather:
        facts.append(f"machine {run.weather}")
    if run.reason == "interrupted":
        facts.append("interrupted")
    return Group(title, Text(" · ".join(facts), style="dim"))


def _answers(findings: Findings) -> Iterator[RenderableType]:
    """Who leads where, a line a family."""
    places: dict[Place, list[Standing]] = {}
    for standing in findings.standings:
        places.setdefault((standing.family, standing.stage, standing.metric), []).append(standing)
    table = Table.grid(padding=(0, 2))
    table.add_column(style="bold", no_wrap=True)
    table.add_column()
    for place, reigns in places.items():
        line = "; ".join(_reign(reign, len(reigns) == 1, findings) for reign in reigns)
        never = _never(place, reigns, findings)
        table.add_row(
            _place(place),
            line + (f"; {units.listed(never)} never {'leads' if len(never) == 1 else 'lead'}" if never else ""),
        )
    if places and len(findings.study.contenders) > 1:
        yield table


def _reign(reign: Standing, alone: bool, findings: Findings) -> str:
    leader = units.name(reign.leader)
    everyone = units.listed([reign.leader, *reign.tied])
    who = f"{everyone} cannot be told apart" if reign.tied else f"{leader} leads"
    here = [
        point.size
        for each in findings.costs
        if (each.family, each.stage, each.metric) == (reign.family, reign.stage, reign.metric)
        for point in each.points
    ]
    low, high = min(here), max(here)
    if alone:
        return f"{who} at every size"
    if reign.start <= low:
        return f"{who} up to {_axis(findings)} = {units.size(reign.end)}"
    if reign.end >= high:
        return f"{who} from {units.size(reign.start)} on"
    return f"{who} from {units.size(reign.start)} to {units.size(reign.end)}"


def _never(place: Place, reigns: list[Standing], findings: Findings) -> list[str]:
    """Contenders measured there that never lead nor tie for the lead."""
    seen = {name for reign in reigns for name in (reign.leader, *reign.tied)}
    present = [each.contender for each in findings.costs if (each.family, each.stage, each.metric) == place]
    return [name for name in present if name not in seen and name not in findings.study.yardsticks]


def _overtakings(findings: Findings) -> RenderableType | None:
    if not findings.crossovers:
        return None
    lines = [overtaking(crossover, findings) for crossover in findings.crossovers]
    return Group(Text("Crossovers", style="bold"), *map(_indented, lines))


def _indented(line: str) -> RenderableType:
    return Padding(Text(line), (0, 0, 0, 2))


def _choices(findings: Findings) -> RenderableType | None:
    lines = list(choices(findings))
    return Group(Text("Choice", style="bold"), *map(_indented, lines)) if lines else None


def _growth(findings: Findings) -> RenderableType | None:
    if not findings.growth:
        return None
    table = Table(
        title="Growth",
        title_justify="left",
        title_style="bold",
        box=None,
        padding=(0, 2, 0, 0),
        pad_edge=False,
    )
    for heading in ("contender", "family", "order", "cost", "tail exponent", "claim"):
        table.add_column(heading, header_style="dim", no_wrap=heading in ("order", "tail exponent"))
    claims = {(each.contender, each.family, each.stage): each for each in findings.claims}
    details: list[str] = []
    for growth in findings.growth:
        details += _regimes(growth)
        claim = claims.get((growth.contender, growth.family, growth.stage))
        told = f"{pretty(claim.claim)} {claim.verdict}" if claim else ""
        others = [pretty(each.order) for each in growth.plausible[1:]]
        if others:
            told += f"{'; ' if told else ''}{', '.join(others)} not ruled out"
        if claim and claim.since is not None:
            told += f" from {_axis(findings)} = {units.size(claim.since)} on"
        style = "red" if claim and claim.verdict == "contradicted" else ""
        exponent = growth.exponent
        table.add_row(
            units.name(growth.contender),
            _place((growth.family, growth.stage, growth.metric)),
            pretty(growth.order) if growth.order else "open",
            _cost_of(growth),
            f"{exponent.low:.2f} to {exponent.high:.2f}" if exponent else "",
            Text(told, style=style),
        )
    return Group(table, *map(_indented, details)) if details else table


def _regimes(growth: GrowthFinding) -> list[str]:
    """What there is to say of the stretches of one curve, and of how to know more."""
    who = f"{units.name(growth.contender)} on {_place((growth.family, growth.stage, growth.metric))}"
    told = []
    for one, other in pairwise(growth.regimes):
        border = units.size(float(f"{one.end:.2g}"))
        if one.why == "kink":
            told.append(f"{who}: {pretty(one.order)} up to about n = {border}, {pretty(other.order)} from there on")
        elif one.why == "step" and growth.step:
            more = f"{units.number(1 + growth.step[1], 2)} times as much"
            told.append(
                f"{who}: around n = {border} it comes to cost {more}; is a cache full, or does the method change?"
            )
        elif one.why == "fixed cost":
            told.append(f"{who}: up to about n = {border} most of it is the fixed cost")
    if growth.advice and growth.order:
        told.append(f"{who}: {pretty(growth.advice)}")
    return told


def formula(order: str, fixed: float, linear: float, scale: float, metric: str) -> str:
    """The fitted cost with units: "2.1 µs + 0.40 µs · n log₂ n"."""
    parts = []
    for value, factor in ((fixed, ""), (linear, "n")):
        if value > 0:
            parts.append(_amount(value, metric) + (f" · {factor}" if factor else ""))
    if scale > 0:
        named = "" if order == "1" else " · " + pretty(order).replace("log n", "log₂ n")
        is_tiny = scale < 1e-12 and metric == "time"
        parts.append((_tiny(scale) if is_tiny else _amount(scale, metric)) + named)
    return " + ".join(parts)


def _cost_of(growth: GrowthFinding) -> str:
    if growth.order is None:
        return growth.advice
    return formula(growth.order, growth.fixed or 0.0, growth.linear or 0.0, growth.scale or 0.0, growth.metric)


def _tiny(seconds: float) -> str:
    """A scale far below a nanosecond, as a power of ten: exponentials have such."""
    exponent = math.floor(math.log10(seconds))
    raised = str(exponent).translate(str.maketrans("-0123456789", "⁻⁰¹²³⁴⁵⁶⁷⁸⁹"))
    return f"{seconds / 10.0**exponent:.1f} · 10{raised} s"


def _amount(value: float, metric: str) -> str:
    return units.unit_for([value], metric).show(value, 2)


def _costs(findings: Findings) -> RenderableType | None:
    """The typical costs at some sizes, a table for each place, with a unit for each size."""
    places: dict[Place, list[Costs]] = {}
    for costs in findings.costs:
        places.setdefault((costs.family, costs.stage, costs.metric), []).append(costs)
    tables: list[RenderableType] = []
    for place, group in places.items():
        sizes = _chosen(sorted({point.size for costs in group for point in costs.points}))
        points = {(costs.contender, point.size): point for costs in group for point in costs.points}
        columns = [[points[name, size] for name in _names(group) if (name, size) in points] for size in sizes]
        fit = [units.unit_for((point.typical for point in column), place[2]) for column in columns]
        table = _table(f"Cost of a call on {_place(place)}", findings, sizes)
        table.add_row("", *(Text(unit.name, style="dim") for unit in fit))
        for name in _names(group):
            found = [points.get((name, size)) for size in sizes]
            cells = [
                units.number(point.typical / unit.size) if point else "–"
                for point, unit in zip(found, fit, strict=True)
            ]
            table.add_row(units.name(name), *cells)
        tables += [table, ""]
        compared = [name for name in _names(group) if any(points.get((name, size), BARE).ratio for size in sizes)]
        if compared and findings.study.baseline:
            table = _table(f"How many times as fast as {units.name(findings.study.baseline)}", findings, sizes)
            for name in compared:
                ratios = [points.get((name, size), BARE).ratio for size in sizes]
                table.add_row(units.name(name), *(units.times(ratio.value) if ratio else "–" for ratio in ratios))
            tables += [table, ""]
    return Group(*tables[:-1]) if tables else None


BARE = Cost(size=0, typical=0.0, low=0.0, high=0.0, heats=0)


def _names(group: list[Costs]) -> list[str]:
    return [costs.contender for costs in group]


def _table(title: str, findings: Findings, sizes: Sequence[float]) -> Table:
    """A table with a row for each contender and a column for each size."""
    style = {"title_justify": "left", "title_style": "bold", "box": None, "pad_edge": False}
    table = Table(title=title, padding=(0, 2, 0, 0), **style)  # type: ignore[arg-type]
    table.add_column(f"{_axis(findings)} =", header_style="dim", overflow="fold")
    for size in sizes:
        table.add_column(units.size(size), header_style="dim", justify="right", no_wrap=True)
    return table


def _chosen(sizes: list[Number]) -> list[Number]:
    """At most a few sizes, evenly along the ladder, both ends among them."""
    if len(sizes) <= SIZES_SHOWN:
        return sizes
    steps = [round(index * (len(sizes) - 1) / (SIZES_SHOWN - 1)) for index in range(SIZES_SHOWN)]
    return [sizes[step] for step in steps]


def _failures(findings: Findings) -> RenderableType | None:
    if not findings.failures:
        return None
    return Group(Text("Failures", style="bold"), *(_indented(_failure(each, findings)) for each in findings.failures))


def _failure(failure: FailureFinding, findings: Findings) -> str:
    works = f"works up to {units.size(failure.works)}, then " if failure.works is not None else ""
    detail = f" ({failure.detail})" if failure.detail else ""
    where = f"{_axis(findings)} = {units.size(failure.size)}"
    name, family = units.name(failure.contender), units.name(failure.family)
    return f"{name} on {family}: {works}{failure.reason} at {where}{detail}"


def _notes(findings: Findings) -> RenderableType | None:
    told: list[str] = [*map(note, findings.notes), *findings.warnings]
    if findings.run.weather == "noisy":
        told.append(
            f"the machine was noisy: its pace varied by {findings.run.spread:.2g} ×, and "
            f"{100 * (findings.run.disturbed or 0):.0f} % of the trials were set apart; intervals are wider for it"
        )
    if not told:
        return None
    return Group(Text("Notes", style="bold"), *map(_indented, told))


def note(found: NoteFinding) -> str:
    """A note in a sentence, with whom and what it is about."""
    about = units.name(found.contender) if found.contender else ""
    if found.family:
        about += f" on {units.name(found.family)}"
    return f"{about}: {found.text}" if about else found.text


def _machine(findings: Findings) -> RenderableType | None:
    machine = findings.machine
    facts = [str(machine[key]) for key in ("processor", "system", "python") if machine.get(key)]
    if machine.get("cores"):
        facts.insert(1, _count(machine["cores"], "core"))
    return Text(" · ".join(facts), style="dim") if facts else None


def _count(count: int, one: str, many: str | None = None) -> str:
    return f"{count} {one if count == 1 else many or one + 's'}"
