"""Workloads: what calls cost in all, against sums by hand; files of calls; sizes that a program notes itself."""

from __future__ import annotations

import math
from pathlib import Path

import pytest
from made_up import written

import logarithm
from logarithm.errors import LogarithmError, TableError
from logarithm.logbook.exchange.calls import read_calls

SIZES = [8 * 2**step for step in range(10)]
LAWS = {("scan", "bay", None): lambda n: 20.0 * n, ("table", "bay", None): lambda n: 400.0 + 200.0 * math.log2(n)}


@pytest.fixture(scope="module")
def found(tmp_path_factory: pytest.TempPathFactory) -> logarithm.Findings:
    return logarithm.read_logbook(written(tmp_path_factory.mktemp("calls") / "run.jsonl", LAWS, sizes=SIZES)).findings()


def calls_in(path: Path, text: str) -> Path:
    path.write_text(text)
    return path


def test_the_total_is_the_sum_over_all_calls(found: logarithm.Findings, tmp_path: Path) -> None:
    rows = {10: 5000, 100: 900, 1000: 90}
    calls = calls_in(tmp_path / "calls.csv", "size,count\n" + "\n".join(f"{n},{many}" for n, many in rows.items()))
    weighed = found.weighed(calls)
    totals = {each.contender: each for each in weighed.workload}
    for name, law in ((key[0], law) for key, law in LAWS.items()):
        by_hand = sum(many * law(n) for n, many in rows.items()) * 1e-9
        total = totals[name]
        assert total.total == pytest.approx(by_hand, rel=0.1) and total.calls == 5990
        assert total.low is not None and total.high is not None and total.low <= by_hand * 1.05 <= total.high * 1.1
        assert total.forecast_share == 0
    best = min(totals, key=lambda name: totals[name].total or math.inf)
    assert weighed.weighing is not None and weighed.weighing.best[0] == best
    assert weighed.weighing.hybrid is not None and weighed.weighing.hybrid.before == "scan"
    assert "in all" in weighed.report("workload") and weighed.plot("workload").axes
    assert weighed.to_frame("workload").shape[0] == 2


def test_what_lies_beyond_the_sizes_is_a_forecast_and_far_beyond_none(
    found: logarithm.Findings, tmp_path: Path
) -> None:
    beyond = found.weighed(calls_in(tmp_path / "a.csv", "100\n9000\n")).workload
    assert all(each.forecast_share > 0.5 for each in beyond)
    far = found.weighed(calls_in(tmp_path / "b.csv", "100\n1e7\n"))
    assert [each.total for each in far.workload] == [None, None] and far.workload[0].at == 10_000_000
    assert "more than ten times the largest size" in far.report("workload")
    with pytest.raises(LogarithmError, match="there is no workload to draw"):
        found.plot("workload")


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("", "is empty"),
        ("a,b\n1,2\n", "has no column 'size'"),
        ("size,count\n8,soon\n", "line 2, column 'count': 'soon' is not a number above 0"),
        ("8\n-3\n", "line 2, column 'size': '-3' is not a number above 0"),
    ],
)
def test_a_file_that_is_none_of_calls_is_told(tmp_path: Path, text: str, told: str) -> None:
    with pytest.raises(TableError, match=told):
        read_calls(calls_in(tmp_path / "calls.csv", text))


def test_a_family_that_was_not_measured_is_told(found: logarithm.Findings, tmp_path: Path) -> None:
    with pytest.raises(LogarithmError, match="names the family 'storm'"):
        found.weighed(calls_in(tmp_path / "c.csv", "size,family\n8,storm\n"))


def test_a_program_notes_the_sizes_of_its_calls(tmp_path: Path) -> None:
    path = tmp_path / "noted.csv"
    highest = logarithm.note_calls(max, to=path)
    for size in (3, 3, 12_345):
        assert highest(list(range(size))) == size - 1
    highest.write_down()  # type: ignore[attr-defined]
    assert read_calls(path).counts == {(3.0, None, None): 2.0, (12_300.0, None, None): 1.0}
    some = logarithm.note_calls(max, to=path, share=0.5)
    for _ in range(400):
        some([1])
    some.write_down()  # type: ignore[attr-defined]
    assert 280 < read_calls(path).counts[1.0, None, None] < 520
    with pytest.raises(ValueError, match="share=0 is not a share"):
        logarithm.note_calls(max, share=0)
