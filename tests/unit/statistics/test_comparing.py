"""Crossovers beyond what was measured, choices, break-even, what changed between logbooks, sizes to add."""

from __future__ import annotations

import math
from pathlib import Path

import pytest
from made_up import SIZES, Laws, written

from logarithm.logbook.records import ContenderRecord, Machine, StudyRecord, Trial
from logarithm.statistics.analysis import Analysis


def test_a_crossover_beyond_the_sizes_is_forecast_and_said_to_be(tmp_path: Path, harbour) -> None:
    laws: Laws = {("low", "bay", None): lambda n: 10 * n * n, ("high", "bay", None): lambda n: 20_000 * n}  # at 2000
    found = Analysis(written(tmp_path / "run.jsonl", laws)).findings()
    (crossover,) = found.crossovers
    assert (crossover.basis, crossover.before, crossover.after) == ("forecast", "low", "high")
    assert crossover.low < 2000 < (crossover.high or math.inf)
    assert crossover.size == pytest.approx(2000, rel=0.15)
    assert [pair.ahead for pair in found.pairs] == ["crossover"]
    told = harbour.run("crossover", "run.jsonl")
    assert "high is forecast to overtake low at about n = " in told.out
    assert "beyond the sizes measured" in told.out


def test_no_crossover_is_to_be_expected_of_parallel_curves(tmp_path: Path, harbour) -> None:
    laws: Laws = {("one", "bay", None): lambda n: 10 * n, ("other", "bay", None): lambda n: 30 * n}
    found = Analysis(written(tmp_path / "run.jsonl", laws)).findings()
    assert not found.crossovers
    assert (
        "no crossover is to be expected up to ten times the largest size" in harbour.run("crossover", "run.jsonl").out
    )


def test_the_safe_choice_and_the_cutoff_of_a_hybrid(tmp_path: Path) -> None:
    laws: Laws = {}
    for family, at in (("ebb", 50), ("flood", 100)):
        laws["pairs", family, None] = lambda n, at=at: 1000 * n / at
        laws["table", family, None] = lambda n: 1000.0
    laws["lucky", "ebb", None] = lambda n: 500.0
    laws["lucky", "flood", None] = lambda n: 500.0 * n
    found = Analysis(written(tmp_path / "run.jsonl", laws)).findings()
    assert [safe.contender for safe in found.safe_choice] == ["pairs", "table"]
    (cutoff,) = [each for each in found.cutoffs if {each.before, each.after} == {"pairs", "table"}]
    assert sorted(cutoff.families) == ["ebb", "flood"]
    assert 50 <= cutoff.size <= 100
    assert cutoff.worst < 2.1


def test_what_repeating_one_input_would_do_is_told(tmp_path: Path, harbour) -> None:
    laws: Laws = {("learns", "bay", None): lambda n: 300 * n, ("plain", "bay", None): lambda n: 100 * n}
    repeated = [
        Trial("learns", "bay", n, heat, (heat + 1) // 2, metric="repeated", elapsed=30.0 * n)
        for heat in range(1, 11)
        for n in SIZES
    ]
    found = Analysis(written(tmp_path / "run.jsonl", laws, more=tuple(repeated))).findings()
    assert {row.cheapest for row in found.standings} == {"plain"}
    (learned,) = found.repeated_inputs
    assert (learned.contender, learned.until) == ("learns", SIZES[-1])
    assert learned.ratio == pytest.approx(10, rel=0.1)
    told = " ".join(harbour.run("report", "run.jsonl").out.split())
    assert "cheaper at n = " in told
    assert "if one input is repeated: the processor has learnt it" in told


@pytest.mark.parametrize(
    ("build", "use", "verdict", "uses"),
    [
        (lambda n: 100 * n, lambda n: 10.0, "pays", lambda n: (100 * n - 50) / (n - 10)),
        (lambda n: 50.0, lambda n: 0.1 * n, "at once", lambda n: 0.0),
        (lambda n: 100 * n, lambda n: 5 * n, "never", lambda n: None),
    ],
)
def test_break_even(tmp_path: Path, build, use, verdict: str, uses) -> None:
    laws: Laws = {
        ("scan", "bay", "build"): lambda n: 50.0,
        ("scan", "bay", "use"): lambda n: n,
        ("table", "bay", "build"): build,
        ("table", "bay", "use"): use,
    }
    rows = [row for row in Analysis(written(tmp_path / "run.jsonl", laws)).findings().breakeven if row.size >= 64]
    assert {row.verdict for row in rows} == {verdict}
    for row in rows:
        expected = uses(row.size)
        assert row.uses == (None if expected is None else pytest.approx(expected, rel=0.1))
        if verdict == "pays":
            assert row.low <= expected <= row.high


def test_crossovers_along_an_axis_that_begins_at_nought(tmp_path: Path) -> None:
    laws: Laws = {("front", "bay", None): lambda n: 100 + 10 * n, ("back", "bay", None): lambda n: 1100 - 10 * n}
    sizes = list(range(0, 100, 9))
    more = (StudyRecord(name="seek", axis="position"),)
    found = Analysis(written(tmp_path / "run.jsonl", laws, sizes=sizes, more=more)).findings()
    (crossover,) = found.crossovers
    assert crossover.size == pytest.approx(50, abs=2)
    assert (crossover.before, found.growth[0].order if found.growth else None) == ("front", None)


def test_a_yardstick_is_compared_but_not_ranked(tmp_path: Path) -> None:
    laws: Laws = {("ours", "bay", None): lambda n: 20 * n, ("theirs", "bay", None): lambda n: 10 * n}
    more = (ContenderRecord(name="ours"), ContenderRecord(name="theirs", yardstick=True))
    found = Analysis(written(tmp_path / "run.jsonl", laws, more=more)).findings()
    assert {standing.leader for standing in found.standings} == {"ours"}
    assert [(pair.one, pair.other) for pair in found.pairs] == [("ours", "theirs")]


def test_a_real_change_is_told_from_none(tmp_path: Path, harbour) -> None:
    laws: Laws = {("sweep", "bay", None): lambda n: 50 * n, ("grid", "bay", None): lambda n: 80 * n}
    slower: Laws = {**laws, ("sweep", "bay", None): lambda n: 60 * n}
    written(tmp_path / "before.jsonl", laws)
    written(tmp_path / "same.jsonl", laws, seed=2)
    written(tmp_path / "slower.jsonl", slower, seed=3)
    calm = harbour.run("contrast", "before.jsonl", "same.jsonl", "--fail-on-slower", "10%")
    assert calm.code == 0
    assert "sweep on bay: no difference seen" in calm.out
    told = harbour.run("contrast", "before.jsonl", "slower.jsonl", "--fail-on-slower", "10%")
    assert told.code == 1
    assert "sweep on bay: 1.2 × slower over all sizes (cost 1.1" in told.out
    assert "grid on bay: no difference seen" in told.out
    assert harbour.run("contrast", "before.jsonl", "slower.jsonl", "--fail-on-slower", "40%").code == 0
    steps = harbour.run("contrast", "before.jsonl", "slower.jsonl", "same.jsonl")
    assert steps.code == 0
    assert "slower" in steps.out.splitlines()[1]


def test_a_change_of_order_and_a_crossover_that_moved(tmp_path: Path, harbour) -> None:
    laws: Laws = {("low", "bay", None): lambda n: 10 * n * n, ("high", "bay", None): lambda n: 900 * n}
    better: Laws = {**laws, ("high", "bay", None): lambda n: 300 * n}
    steeper: Laws = {**laws, ("high", "bay", None): lambda n: 20 * n**2}
    for name, each in (("before", laws), ("better", better), ("steeper", steeper)):
        written(tmp_path / f"{name}.jsonl", each)
    moved = harbour.run("contrast", "before.jsonl", "better.jsonl").out
    assert "the crossover of high over low on bay moved from n = 9" in moved
    assert "high on bay: 3.0 × as fast over all sizes" in moved
    assert "its order changed from n to n²" in harbour.run("contrast", "before.jsonl", "steeper.jsonl").out


def test_logbooks_that_do_not_belong_together(tmp_path: Path, harbour) -> None:
    laws: Laws = {("sweep", "bay", None): lambda n: 50 * n}
    for name, processor, python in (("one", "Tug", "3.11"), ("two", "Barge", "3.11"), ("three", "Tug", "3.13")):
        written(
            tmp_path / f"{name}.jsonl",
            laws,
            more=(StudyRecord(name="row"), Machine(processor=processor, python=python)),
        )
    written(tmp_path / "other.jsonl", {("rowing", "bay", None): lambda n: n})
    refused = harbour.run("contrast", "one.jsonl", "two.jsonl")
    assert (refused.code, refused.err.count("\n")) == (2, 1)
    assert "different processors: Tug, and Barge" in refused.err
    assert harbour.run("contrast", "one.jsonl", "two.jsonl", "--anyway").code == 0
    warned = harbour.run("contrast", "one.jsonl", "three.jsonl")
    assert (warned.code, warned.err) == (0, "warning: they come from different versions of Python: 3.11, and 3.13\n")
    assert "nothing can be compared" in harbour.run("contrast", "one.jsonl", "other.jsonl").err
    assert harbour.run("contrast", "one.jsonl").code == 2
    assert "is not a share" in harbour.run("contrast", "one.jsonl", "two.jsonl", "--fail-on-slower", "much").err
