"""What people look at: the report as text, units, figures."""

from __future__ import annotations

import math
import re
from itertools import pairwise
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from made_up import any_logbook, written
from matplotlib import image
from msgspec.structs import replace

from logarithm.api.findings import read_logbook as shown_logbook
from logarithm.errors import LogarithmError
from logarithm.logbook.reading import read_logbook
from logarithm.logbook.records import (
    ClaimRecord,
    Close,
    ContenderRecord,
    Failure,
    FamilyRecord,
    Header,
    Note,
    StudyRecord,
    Trial,
)
from logarithm.logbook.writing import write_logbook
from logarithm.notation import numbers
from logarithm.report import units
from logarithm.report.documents.findings.headlines import caption, headline
from logarithm.report.documents.findings.tables import formula
from logarithm.report.figure.growth import draw_growth
from logarithm.report.figure.views import draw, save
from logarithm.report.present import rendered
from logarithm.results.findings import Findings
from logarithm.results.pairs import Standing
from logarithm.statistics.analysis import Analysis
from profiles import some


def text(found: Findings, width: int = 100, **choices: object) -> str:
    return rendered(found, "text", width, **choices)


SIZES = [8, 16, 32, 64, 128, 256, 512, 1024]


def test_nobody_leads_who_stands_alone(tmp_path: Path) -> None:
    laws = {("sweep", "bay", None): lambda n: 20 * n, ("grid", "pier", None): lambda n: 90 * n}
    more = (StudyRecord(name="made-up"), ContenderRecord("sweep"), ContenderRecord("grid"))
    shown = text(Analysis(written(tmp_path / "run.jsonl", laws, more=more)).findings())
    assert "leads" not in shown and "grid on pier" in shown and "µs a call at n = 512" in shown
    both = {**laws, ("grid", "bay", None): lambda n: 90 * n}
    shown = text(Analysis(written(tmp_path / "both.jsonl", both, more=more)).findings())
    assert "bay  sweep leads at every size" in shown and "pier  " not in shown


def findings(
    folder: Path, curves: dict[str, object], families: tuple[str, ...] = ("bay",), more: tuple = ()
) -> Findings:
    """The findings on made-up trials without noise: cost in nanoseconds from each curve."""
    trials = [
        Trial(contender=name, family=family, size=n, heat=heat, elapsed=law(n) * (1 + heat / 500))
        for name, law in curves.items()
        for family in families
        for n in SIZES
        for heat in range(1, 6)
    ]
    contenders = [ContenderRecord(name=name, baseline=name == "slow", claims=[ClaimRecord("n")]) for name in curves]
    path = folder / "made-up.jsonl"
    path.unlink(missing_ok=True)
    study = StudyRecord(name="made-up", question="Which is faster?")
    write_logbook(
        path, [Header(), study, *contenders, *(FamilyRecord(name=family) for family in families), *trials, *more]
    )
    return Analysis(read_logbook(path)).findings()


TWO = {"slow": lambda n: 10.0 * n * n, "steady_one": lambda n: 1000.0 * n}


def test_the_report_opens_with_the_answer(tmp_path: Path) -> None:
    shown = text(findings(tmp_path, TWO), 110)
    lines = [line.rstrip() for line in shown.splitlines()]
    assert lines[0] == "made-up · Which is faster?"
    assert lines[1].startswith("2 contenders · 1 family · n = 8 … 1024")
    answer = " ".join(" ".join(lines[3:5]).split())
    ahead = "13 × as fast as steady one, at 8", "10 × as fast as slow, at 1024"
    assert answer.startswith(f"bay slow leads up to n = 99 ({ahead[0]}); steady one leads from 100 on (10 × as fast")
    assert "steady one overtakes slow at n = 100 (" in shown
    assert "13 × slower at 8, 10 × as fast at 1024" in " ".join(shown.split())
    assert "n² contradicted" not in shown
    assert "claims contradicted: n of slow on bay from " in shown
    assert "logarithm report --all: all tables" in shown
    assert "Cost of a call" not in shown
    everything = text(findings(tmp_path, TWO), 110, everything=True)
    assert "2 contenders · 1 family · n = 8 … 1024 · 5 heats in 1 process" in everything
    order = [everything.index(title) for title in ("Crossovers", "Growth", "How many times as fast", "Cost of a call")]
    assert order == sorted(order)
    assert "share of its cost" in everything
    assert text(findings(tmp_path, TWO), only="growth").startswith("Growth\n")


@pytest.mark.parametrize("width", [60, 80, 100, 160])
def test_no_line_is_wider_than_the_terminal(tmp_path: Path, width: int) -> None:
    name = "a_contender_whose_name_is_forty_letters_l"
    found = findings(tmp_path, {**TWO, name: lambda n: 20.0 * n * n}, ("bay", "a_family_of_a_rather_long_name"))
    shown = text(found, width)
    assert max(map(len, shown.splitlines())) <= width
    assert "forty" in shown


def test_a_single_size_a_single_contender_and_only_failures_read_well(tmp_path: Path) -> None:
    alone = text(findings(tmp_path, {"alone": lambda n: 5.0 * n}))
    assert "leads" not in alone
    path = tmp_path / "few.jsonl"
    write_logbook(path, [Header(), Trial(contender="a", family="f", size=8, heat=1, elapsed=5.0)])
    assert "too few to name growth" in text(Analysis(read_logbook(path)).findings()).replace("\n", " ")
    broken = tmp_path / "broken.jsonl"
    failure = Failure(contender="a", family="f", size=8, reason="crash", detail="sunk")
    write_logbook(broken, [Header(), failure, Close(reason="finished", elapsed=1, heats=0, processes=1)])
    shown = text(Analysis(read_logbook(broken)).findings())
    assert "a on f: crash at n = 8 (sunk)" in shown
    with pytest.raises(Exception, match="nothing to draw"):
        save(Analysis(read_logbook(broken)).findings(), tmp_path / "none.png")


def test_failures_and_notes_are_told_with_names(tmp_path: Path) -> None:
    more = (
        Failure(contender="slow", family="bay", size=2048, reason="RecursionError", detail="too deep", works=1500),
        Note(
            topic="sizes", cause="budget", text="ends before n = 2048", contender="steady_one", family="bay", size=2048
        ),
        Close(reason="interrupted", elapsed=130, heats=5, processes=1),
    )
    shown = text(findings(tmp_path, TWO, more=more), 120)
    assert "slow on bay: works up to 1500, then RecursionError at n = 2048 (too deep)" in shown
    assert "ended early because the budget has no room for it: steady one on bay before n = 2048" in shown
    assert "steady one on bay: ends before n = 2048" in text(findings(tmp_path, TWO, more=more), everything=True)
    assert "2 min 10 s" in shown
    assert "interrupted" in shown


def test_names_cannot_write_into_the_terminal(tmp_path: Path) -> None:
    shown = text(findings(tmp_path, {"evil\x1b[31m\nname": lambda n: 5.0 * n, "[bold]b": lambda n: 7.0 * n}))
    assert "\x1b" not in shown
    assert "[bold]b" in shown


def test_yardsticks_are_shown_but_not_ranked(tmp_path: Path) -> None:
    path = tmp_path / "yard.jsonl"
    findings(tmp_path, TWO)
    lines = (
        (tmp_path / "made-up.jsonl").read_text().replace('"name":"steady_one"', '"name":"steady_one","yardstick":true')
    )
    path.write_text(lines)
    found = Analysis(read_logbook(path)).findings()
    assert {each.leader for each in found.standings} == {"slow"}
    assert "steady one" in text(found)
    assert "never leads" not in text(found)


@given(st.lists(st.floats(1e-9, 1e3), min_size=1, max_size=9))
def test_a_unit_makes_its_middle_value_readable(values: list[float]) -> None:
    unit = units.unit_for(values)
    middle = sorted(values)[len(values) // 2]
    assert 0.99 <= middle / unit.size < 1000.01 or unit.name == "s"


@given(st.floats(1e-12, 1e12))
def test_numbers_keep_three_digits_and_have_no_exponent(value: float) -> None:
    shown = numbers.number(value)
    assert "e" not in shown
    assert float(shown.replace("\xa0", "")) == pytest.approx(value, rel=0.006)


def test_formulas_have_units() -> None:
    plain = formula("n log n", 2.1e-6, 0.0, 4.0e-7, "time").replace("\xa0", " ")
    assert plain == "2.1 µs + 400 ns · n log₂ n"
    assert formula("n^2", 0.0, 3e-9, 5e-9, "time") == "3.0\xa0ns · n + 5.0\xa0ns · n²"
    assert formula("1", 0.0, 0.0, 5e-9, "time") == "5.0\xa0ns"
    assert formula("2^n", 0.0, 0.0, 3e-14, "time") == "3.0 · 10⁻¹⁴ s · 2ⁿ"
    assert formula("n", 0.0, 0.0, 2.0, "comparisons") == "2.0 · n"


CURVES = {f"contender_{number}": (lambda n, k=number: (1 + k / 50) * 10.0 * n) for number in range(6)}


def test_a_figure_has_a_panel_for_each_family_and_names_once(tmp_path: Path) -> None:
    figure = draw_growth(findings(tmp_path, CURVES, ("ebb", "flood", "slack", "storm")))
    panels = [panel for panel in figure.axes if panel.get_visible()]
    assert [panel.get_title(loc="left") for panel in panels] == ["ebb", "flood", "slack", "storm"]
    (legend,) = figure.legends
    assert [each.get_text() for each in legend.get_texts()] == [f"contender {number}" for number in range(6)]
    figure.draw_without_rendering()
    box = legend.get_window_extent()
    assert all(not box.overlaps(panel.get_window_extent()) for panel in panels)


def test_a_single_panel_has_names_at_the_ends_of_curves(tmp_path: Path) -> None:
    figure = draw_growth(findings(tmp_path, CURVES, ("ebb",)))
    figure.draw_without_rendering()
    labels = [each for each in figure.axes[0].texts if each.get_text().startswith("contender")]
    assert len(labels) == 6
    heights = sorted(each.get_window_extent().y0 for each in labels)
    # Curves all but the same: their labels still stand apart.
    assert all(later - earlier > 8 for earlier, later in pairwise(heights))


def test_many_families_go_to_further_files_and_paper_may_be_dark(tmp_path: Path) -> None:
    bays = tuple(f"bay {n}" for n in range(11))
    found = findings(tmp_path, {"ebb": lambda n: 5.0 * n, "tide": lambda n: 90.0 + n}, bays)
    written = save(found, tmp_path / "many.png", "growth", size=(1280, 720), dark=True)
    assert [path.name for path in written] == ["many.png", "many-2.png"]
    picture = image.imread(written[0])
    assert picture.shape[:2] == (720, 1280)
    assert picture[2, 2, :3].mean() < 0.2
    assert headline(found) == "tide overtakes ebb at n = 23 on bay 0"
    assert caption(found).startswith("tide overtakes ebb at n = 23 on bay 0. ")
    with pytest.raises(LogarithmError, match="there is no work to draw"):
        draw(found, "work")


def test_crossovers_are_marked_where_they_are(tmp_path: Path) -> None:
    figure = draw_growth(findings(tmp_path, TWO))
    rings = [line for line in figure.axes[0].get_lines() if line.get_marker() == "o" and len(line.get_xdata()) == 1]
    assert [float(ring.get_xdata()[0]) for ring in rings] == pytest.approx([100.0], rel=0.02)
    assert math.isclose(float(rings[0].get_ydata()[0]), 1e-4, rel_tol=0.2)
    assert any(each.get_text() == "n = 100" for each in figure.axes[0].texts)


def test_every_view_is_drawn_with_every_contender(tmp_path: Path) -> None:
    found = findings(tmp_path, {**TWO, "third": lambda n: 1000.0 * n}, ("ebb", "flood"))
    for view in ("growth", "ratio", "spread", "standings"):
        figure = draw(found, view)
        panels = [panel for panel in figure.axes if panel.get_visible()]
        assert [panel.get_title(loc="left").split(",")[0] for panel in panels] == ["ebb", "flood"]
    assert draw(found, "growth", linear=True).axes[0].get_yscale() == "linear"
    bands = [each.get_text() for each in draw(found, "standings").axes[0].texts]
    assert {"slow", "steady one", "third"} <= set(bands)  # the last two are tied
    ticks = [label.get_text() for label in draw(found, "spread").axes[0].get_yticklabels()]
    assert ticks == ["slow", "steady one", "third"]


def test_without_a_baseline_costs_are_shown_and_no_ratios(tmp_path: Path) -> None:
    shown = text(findings(tmp_path, {"ebb": lambda n: 5.0 * n, "flood": lambda n: 7.0 * n}), everything=True)
    assert "How many times as fast" not in shown
    assert "Cost of a call" in shown


def test_one_size_is_drawn_as_bars(tmp_path: Path) -> None:
    path = tmp_path / "one.jsonl"
    trials = [Trial(contender=c, family="bay", size=8, heat=h, elapsed=5.0 + h) for c in "ab" for h in range(3)]
    write_logbook(path, [Header(), *trials])
    assert len(draw(Analysis(read_logbook(path)).findings(), "growth").axes[0].patches) == 2


def test_a_chart_of_letters_rises(tmp_path: Path) -> None:
    chart = text(findings(tmp_path, {"alone": lambda n: 5.0 * n}), 70, only="chart").splitlines()
    columns = [line.index("a") for line in chart if "│" in line and "a" in line]
    assert columns == sorted(columns, reverse=True)
    assert any("n = 8" in line and "1024" in line for line in chart)


def test_markdown_has_no_markup_but_its_own(tmp_path: Path) -> None:
    shown = rendered(findings(tmp_path, {"a|b*c": lambda n: 5.0 * n, "<script>": lambda n: 9.0 * n}), "markdown")
    assert "a\\|b\\*c" in shown
    assert "<script>" not in shown
    rows = [line for line in shown.splitlines() if line.startswith("|")]
    assert rows


def test_findings_show_themselves_in_a_notebook(tmp_path: Path) -> None:
    findings(tmp_path, TWO)
    logbook = shown_logbook(tmp_path / "made-up.jsonl")
    html = logbook._repr_html_()
    assert "<svg" in html
    assert "steady one leads from 100 on" in re.sub("<[^>]*>", "", html)
    frame = logbook.to_frame()
    assert list(frame.columns) == ["contender", "family", "stage", "metric", "size", "heat", "process", "value"]
    assert len(frame) == 2 * len(SIZES) * 5


@pytest.mark.parametrize("seed", some(range(10)))
def test_the_first_screen_of_anything_has_thirty_lines(tmp_path: Path, seed: int) -> None:
    found = Analysis(any_logbook(tmp_path / "any.jsonl", seed)).findings()
    for width in (80, 100):
        shown = rendered(found, "text", width)
        assert shown.count("\n") <= 30, shown
        assert "logarithm report --all" in shown
    assert len(rendered(found, "text", 100, everything=True)) >= len(rendered(found, "text", 100))


def test_two_ranges_of_one_leader_are_told_in_one_phrase(tmp_path: Path) -> None:
    found = findings(tmp_path, TWO)
    parts = [Standing("bay", "time", None, low, high, "leads", "slow", "slow") for low, high in ((8, 32), (128, 1024))]
    shown = text(replace(found, standings=parts), 110)
    assert "slow leads up to n = 32 and from 128 on" in shown
