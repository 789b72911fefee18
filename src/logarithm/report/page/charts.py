"""What the page's script draws: points, curves and crossovers by place, as plain data."""

from __future__ import annotations

import base64
import hashlib
import math
from collections.abc import Sequence
from importlib.resources import files
from typing import Any

import msgspec

from ...notation import numbers, words
from ...notation.orders import parse
from ...notation.places import Place
from ...notation.words import place
from ...results.findings import Costs, Findings
from ...results.maps import Boundary, MapFinding
from ...results.tasks.grades import Grade
from .. import units
from ..documents.findings.sentences import axis_of


class Line(msgspec.Struct):
    """One contender: points as [size, typical, low, high, heats], the curve as [size, cost], work as [size, count]."""

    name: str
    colour: int
    points: list[list[float]]
    curve: list[list[float]] = []
    work: list[list[float]] = []
    order: str = ""


class Crossing(msgspec.Struct):
    """Where `after` overtakes `before`, from `low` to `high`."""

    before: str
    after: str
    size: float
    low: float
    high: float | None
    forecast: bool


class Panel(msgspec.Struct):
    """A family, with stage and metric where these matter."""

    name: str
    metric: str
    lines: list[Line]
    crossings: list[Crossing] = []


class Map(msgspec.Struct):
    """A map, its fields as in `results.maps.MapFinding`; `panels` are the numbers of the panels of its `seconds`."""

    name: str
    metric: str
    names: list[str]
    first: list[float]
    second: list[float]
    contenders: list[str]
    colours: list[int]
    leader: list[list[int]]
    sure: list[list[float | None]]
    tied: list[list[bool]]
    costs: list[list[list[float | None]]]
    boundaries: list[Boundary]
    seconds: list[float]
    panels: list[int]


class Chart(msgspec.Struct):
    """All panels; `axis` is what is varied, a size where `logarithmic`; with `leads`, the page says who does at n."""

    axis: str
    logarithmic: bool
    reference: str
    panels: list[Panel]
    leads: bool = True
    maps: list[Map] = []


def chart(findings: Findings) -> Chart:
    """The chart of a report."""
    names = findings.study.contenders
    orders = {each.key: each.order for each in findings.growth}
    panels: dict[tuple[Place, float | None], Panel] = {}
    for costs in findings.costs:
        where = costs.place, costs.second
        # Of two sizes, a panel is a slice.
        slice_at = "" if costs.second is None else f", {findings.study.names[1]} = {numbers.size(costs.second)}"
        panel = panels.setdefault(where, Panel(place(costs.place) + slice_at, costs.metric, []))
        order = orders.get(costs.key) or ""
        panel.lines.append(_line(costs, names, units.formula(order) if order else ""))
    for crossing in findings.crossovers:
        panel = panels[crossing.place, None]
        before, after = words.name(crossing.before), words.name(crossing.after)
        found = Crossing(before, after, crossing.size, crossing.low, crossing.high, crossing.basis == "forecast")
        panel.crossings.append(found)
    return Chart(
        axis=axis_of(findings),
        logarithmic=findings.study.axis == "size",
        reference=words.name(findings.study.reference),
        panels=list(panels.values()),
        maps=[_map(each, findings, list(panels)) for each in findings.maps],
    )


def _map(found: MapFinding, findings: Findings, panels: Sequence[tuple[Place, float | None]]) -> Map:
    own = [(at, second) for at, (where, second) in enumerate(panels) if where == found.place and second is not None]
    return Map(
        name=place(found.place),
        metric=found.metric,
        names=found.names,
        first=found.first,
        second=found.second,
        contenders=[words.name(name) for name in found.contenders],
        colours=[findings.study.contenders.index(name) for name in found.contenders],
        leader=found.leader,
        sure=found.sure,
        tied=found.tied,
        costs=found.costs,
        boundaries=[each for each in findings.boundaries if each.place == found.place and each.matters],
        seconds=[second for _, second in own],
        panels=[at for at, _ in own],
    )


def _line(costs: Costs, names: Sequence[str], order: str) -> Line:
    points = [[float(p.size), p.typical, p.low, p.high, float(p.rounds)] for p in costs.points]
    return Line(words.name(costs.contender), names.index(costs.contender), points, costs.fitted, costs.work, order)


def chart_of(row: Grade) -> Chart:
    """The chart of one submission: its work, that of the reference, and growth as is asked for."""
    panels = []
    for family, steps in row.steps_at.items():
        lines = [Line("yours", 0, _counted(steps), steps, order=units.formula(row.orders.get(family) or ""))]
        if family in row.reference_at:
            theirs = row.reference_at[family]
            lines.append(Line("the reference", 1, _counted(theirs), theirs))
        steps = [[size, max(count, 1.0)] for size, count in steps]  # none at all has no place on a logarithmic axis
        if row.require and steps:
            allowed = _allowed(steps, row.require)
            lines.append(Line(f"growth as asked for, {units.formula(row.require)}", 2, [], allowed))
        panels.append(Panel(words.name(family), "work", lines))
    return Chart(axis="n", logarithmic=True, reference="the reference", panels=panels, leads=False)


def _counted(steps: Sequence[Sequence[float]]) -> list[list[float]]:
    return [[size, count, count, count, 1.0] for size, count in steps]


def _allowed(steps: Sequence[Sequence[float]], require: str) -> list[list[float]]:
    """The order that is asked for, through the first of some steps."""
    order = parse(require)
    first = math.log(steps[0][1]) - order.log_value(steps[0][0])
    return [[size, math.exp(min(first + order.log_value(size), 700.0))] for size, _ in steps]


def embedded(made: Chart) -> dict[str, Any]:
    """The chart as JSON that can stand in a page, with the script, its styles, and its hash for the page's policy."""
    data = msgspec.json.encode(made).decode()
    # Nothing in the data may end the element that it stands in.
    for sign in "<>&\u2028\u2029":
        data = data.replace(sign, f"\\u{ord(sign):04x}")
    script = _text("chart.js") + (_text("map.js") if made.maps else "")
    digest = base64.b64encode(hashlib.sha256(script.encode()).digest()).decode()
    return {
        "data": data,
        "script": script,
        "style": _text("chart.css"),
        "hash": f"sha256-{digest}",
        "is_map": bool(made.maps),
    }


def _text(name: str) -> str:
    return (files("logarithm.report.page") / "templates" / name).read_text(encoding="utf-8")
