"""Figures of many made findings: rings on both curves, whole curves, ticks enough, labels inside and apart."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from made_up import any_logbook, one_size, two_sizes, written

from logarithm.api.searches.worst import search_of
from logarithm.errors import LogarithmError
from logarithm.logbook.memory import Logbook
from logarithm.logbook.records import ContenderRecord, FamilyRecord, Searched, StudyRecord, Trial
from logarithm.report.figure.charts.worst import draw_worst
from logarithm.report.figure.labels import RIM
from logarithm.report.figure.ticks import linear_ticks, log_ticks
from logarithm.report.figure.views import draw
from logarithm.results.findings import Findings
from logarithm.results.tasks.worst import Search
from logarithm.statistics.analysis import Analysis
from profiles import some

Law = Callable[[float], float]
LONG = "looks_at_every_pair_of_buoys_again_and_again"
LAWS: list[Law] = [
    lambda n: 20 * n * n + 50,
    lambda n: 400 * n * math.log2(n + 1),
    lambda n: 9000 * n,
    lambda n: 60_000.0 + n,
    lambda n: 3 * n**1.5 + 5000,
    lambda n: 90 * n * n + 700 * n,
]


def made(folder: Path, many: int, sizes: list[int], scale: float, families: int, names: str) -> Findings:
    """Findings of so many contenders."""
    called = [f"{names}_{number}" for number in range(many)]

    def times(law: Law, by: float) -> Law:
        return lambda n: law(n) * by

    laws = {
        (name, f"bay_{family}", None): times(LAWS[at % 6], scale * (1 + at // 6) * (1 + family))
        for at, name in enumerate(called)
        for family in range(families)
    }
    more = (StudyRecord(name="made-up", question="?"), *(ContenderRecord(name=name) for name in called))
    return Analysis(written(folder / "run.jsonl", laws, sizes=sizes, more=more)).findings()


SIZES = {"one": [64], "two": [8, 512], "few": [8, 9, 10, 11, 12], "many": [8 * 2**at for at in range(9)]}
CASES = [
    *itertools.product((1, 2, 5), ("one", "two", "many"), (1.0,), (1,), ("scan",)),
    *itertools.product((12,), ("one", "many"), (1.0,), (1,), ("scan",)),
    *itertools.product((1, 3), ("one", "few", "many"), (1.0,), (3,), ("scan",)),
    *itertools.product((2,), ("many", "few", "two"), (1e-3, 1e6), (1,), ("scan",)),
    *itertools.product((2, 4), ("many", "two"), (1.0,), (2,), (LONG,)),
]


def shown_ticks(axis: Any) -> list[str]:
    low, high = sorted(axis.get_view_interval())
    rounding = 1e-9 * (high - low)
    places = list(axis.get_majorticklocs())
    written = zip(places, axis.get_major_formatter().format_ticks(places), strict=True)
    return [text for at, text in written if low - rounding <= at <= high + rounding and text]


def faults(figure: Any, findings: Findings, view: str) -> Iterator[str]:
    """What is wrong with a figure."""
    figure.draw_without_rendering()
    panels = [panel for panel in figure.axes if panel.get_visible()]
    for panel in panels:
        for name, axis in (("x", panel.xaxis), ("y", panel.yaxis)):
            ticks = shown_ticks(axis)
            are_names = any(tick in figure_names(findings) for tick in ticks)
            one_size = name == "x" and len({each.size for row in findings.costs for each in row.points}) == 1
            hidden = view == "standings" and (name == "y" or one_size)
            if not hidden and not are_names and len(ticks) < 3 and (ticks or not shared(panels, panel, name)):
                yield f"{name} has {len(ticks)} ticks: {ticks}"
            if len(set(ticks)) < len(ticks) or any("e+" in tick or "e-" in tick for tick in ticks):
                yield f"{name} has ticks that are no plain numbers, or alike: {ticks}"
    box = figure.bbox
    labels = [label for panel in panels for label in (panel.xaxis.label, panel.yaxis.label) if panel.axison]
    texts = [
        text
        for text in [*(text for panel in panels for text in panel.texts), *labels]
        if text.get_text() and text.get_visible()
    ]
    boxes = [(text.get_text(), text.get_window_extent()) for text in texts]
    for words, own in boxes:
        if own.x0 < box.x0 - 2 or own.x1 > box.x1 + 2 or own.y0 < box.y0 - 2 or own.y1 > box.y1 + 2:
            yield f"'{words}' is outside"
    for (one, here), (other, there) in itertools.combinations(boxes, 2):
        wide = min(here.x1, there.x1) - max(here.x0, there.x0)
        high = min(here.y1, there.y1) - max(here.y0, there.y0)
        if wide > 3 and high > 4:
            yield f"'{one}' lies on '{other}'"
    title = figure._suptitle.get_window_extent()
    if title.x1 > box.x1 + 1:
        yield f"the title is cut: {figure._suptitle.get_text()}"
    if view == "growth":
        yield from curve_faults(panels, findings)
    for panel in panels if view == "standings" else ():
        if sum(band.get_window_extent().width for band in panel.collections) < 5:
            yield "a panel is empty"
    alike = len({each.place[1:] for each in findings.costs}) == 1
    if alike and view in ("ratio", "standings") and len({round(panel.get_ylim()[1], 9) for panel in panels}) > 1:
        yield "panels have different axes"


def figure_names(findings: Findings) -> set[str]:
    from logarithm.report.figure import canvas

    return {canvas.plain(canvas.short(name)) for name in findings.study.contenders}


def shared(panels: list[Any], panel: Any, name: str) -> bool:
    """Whether the axis of a panel is that of the panel before it, whose ticks stand for both."""
    others = (panel.get_shared_x_axes() if name == "x" else panel.get_shared_y_axes()).get_siblings(panel)
    return len(others) > 1 and panel is not panels[0]


def curve_faults(panels: list[Any], findings: Findings) -> Iterator[str]:
    """Curves that do not reach over all sizes, and rings that hold not both of their curves."""
    for panel in panels:
        lines = [line for line in panel.get_lines() if not str(line.get_label()).startswith("_")]
        for line in lines:
            ends = {
                (above[0], above[-1])
                for each in findings.costs
                if each.contender.replace("_", " ") == line.get_label()
                and (above := [point.size for point in each.points if point.typical > 0])
            }
            x = line.get_xdata()
            if not any(x[0] <= low + 1e-3 * abs(low) and x[-1] >= high - 1e-3 * abs(high) for low, high in ends):
                yield f"the curve of {line.get_label()} ends early"
        for ring in (line for line in panel.get_lines() if line.get_label() == "_ring"):
            (x,), (y,) = ring.get_xdata(), ring.get_ydata()
            at = panel.transData.transform((x, y))[1]
            radius = (ring.get_markersize() + RIM) * panel.figure.dpi / 144
            inside = 0
            for line in lines:
                along = panel.transData.transform(line.get_xydata())
                height = np.interp(panel.transData.transform((x, y))[0], along[:, 0], along[:, 1])
                inside += abs(height - at) <= radius
            if inside < 2:
                yield f"the ring at {x:.3g} is on {inside} curves"


@pytest.mark.parametrize("case", some(CASES), ids=lambda case: "-".join(map(str, case))[:40])
def test_figures_are_whole(tmp_path: Path, case: tuple[int, str, float, int, str]) -> None:
    many, sizes, scale, families, names = case
    findings = made(tmp_path, many, SIZES[sizes], scale, families, names)
    turn = (("growth", False), ("ratio", False), ("growth", True), ("standings", False), ("growth", False))
    view, linear = turn[CASES.index(case) % len(turn)]
    try:
        figure = draw(findings, view, linear)
    except LogarithmError:
        figure = draw(findings, "growth")  # nobody to compare
        view = "growth"
    found = list(faults(figure, findings, view))
    assert not found, (view, linear, found)


@pytest.mark.parametrize("seed", some(range(8)))
def test_whatever_was_measured_can_be_drawn(tmp_path: Path, seed: int) -> None:
    findings = Analysis(any_logbook(tmp_path / "any.jsonl", seed)).findings()
    view = ("growth", "ratio", "standings", "spread")[seed % 4]
    try:
        figure = draw(findings, view)
    except LogarithmError:
        return
    found = [fault for fault in faults(figure, findings, view) if "lies on" not in fault]
    assert not found, (view, found)


def measured_twice(many: int) -> Logbook:
    """Contenders as they are and as they were."""
    names = [f"{LONG}_{at}" if many > 2 else f"scan_{at}" for at in range(many)]
    laws: Any = {}
    for at, name in enumerate(names):
        laws[name] = (900.0, 20.0 + at)
        laws[f"{name}@v1"] = (300.0, 60.0 + 30 * at)
    old = [ContenderRecord(f"{name}@v1", of=name, revision="v1", beside=name) for name in names]
    return one_size(laws, versions=False, records=[*map(ContenderRecord, names), *old])


def on_two_sizes(many: int, **more: Any) -> Findings:
    """Findings on a map."""
    costs = {(f"scan_{at}", None): partial(two_laws, at) for at in range(many)}
    return Analysis(two_sizes(costs, **more)).findings()


def two_laws(at: int, n: float, k: float) -> float:
    return (500 + 20 * n * k, 9000 + 30 * n, 400 + 600 * k + 9 * n, 50_000 + n / 9)[at % 4] * (1 + at // 4)


def weighed_by(found: Findings, folder: Path, calls: str) -> Findings:
    (folder / "calls.csv").write_text(calls)
    return found.weighed(folder / "calls.csv")


def a_search(folder: Path, many: int) -> Search:
    """What a search of so many contenders came to."""
    names = [f"scan_{at}" for at in range(many)]
    roles: dict[str, Law] = {"typical": lambda n: 3 * n, "worst": lambda n: n * n, "best": lambda n: n}
    more = (
        StudyRecord(name="made-up", question="?"),
        *(ContenderRecord(name=name) for name in names),
        *(FamilyRecord(name=role, role=role, of="bay") for role in roles),
        *(
            Trial(contender=name, family=role, size=n, heat=1, metric="work", value=float(cost(n)))
            for name in names
            for role, cost in roles.items()
            for n in SIZES["many"]
        ),
        *(
            Searched(contender=name, family="bay", metric="work", size=512, tries=90, typical=1536.0, most=262144.0)
            for name in names
        ),
    )
    return search_of(written(folder / "worst.jsonl", {}, more=more))


SIX = {f"version_{at}": (900.0, 90.0 / (1 + at)) for at in range(6)}
SPAN = "size,count\n10,5000\n100,900\n400,90\n"
MIX = {"mostly asked": {"find": 9, "add": 1}}
OTHER_VIEWS: dict[str, Callable[[Path], tuple[Findings, str]]] = {
    **{f"map-{many}": lambda _, many=many: (on_two_sizes(many), "map") for many in (2, 4, 9)},
    **{
        f"change-{many}": lambda _, many=many: (Analysis(measured_twice(many)).findings(), "change")
        for many in (1, 2, 4)
    },
    "versions": lambda _: (Analysis(one_size(SIX)).findings(), "versions"),
    "versions-2": lambda _: (Analysis(one_size(dict(list(SIX.items())[:2]))).findings(), "versions"),
    "versions-map": lambda _: (on_two_sizes(3, versions=["scan_0", "scan_1", "scan_2"]), "versions"),
    **{
        f"workload-{many}": lambda folder, many=many: (
            weighed_by(made(folder, many, SIZES["many"], 1.0, 1, "scan"), folder, SPAN),
            "workload",
        )
        for many in (1, 3, 12)
    },
    "mix": lambda _: (
        Analysis(
            two_sizes(
                {
                    ("kept", "add"): lambda n, k: 100 + n,
                    ("kept", "find"): lambda n, k: 200 + 10 * k,
                    (LONG, "add"): lambda n, k: 90,
                    (LONG, "find"): lambda n, k: 90 + 3 * n,
                },
                mixes=MIX,
            )
        ).findings(),
        "mix",
    ),
}


@pytest.mark.parametrize("name", some(OTHER_VIEWS))
def test_the_other_views_are_whole(tmp_path: Path, name: str) -> None:
    findings, view = OTHER_VIEWS[name](tmp_path)
    found = list(faults(draw(findings, view), findings, view))
    assert not found


@pytest.mark.parametrize("many", some([5, 2, 1]))
def test_figures_of_a_search_are_whole(tmp_path: Path, many: int) -> None:
    search = a_search(tmp_path, many)
    found = list(faults(draw_worst(search), search.findings, "worst"))
    assert not found


def test_ticks_are_three_at_least_and_round() -> None:
    for low, factor in itertools.product((1e-9, 0.037, 1.0, 977.0, 1e6), (1.02, 1.3, 4.0, 60.0, 1e4, 1e12)):
        for base in (2, 10):
            found = log_ticks(low, low * factor, base)
            assert 3 <= len(found) <= 9, (low, factor, base, found)
            assert found == sorted(set(found))
    assert linear_ticks(1, 4, whole=True) == [1, 2, 3, 4]
