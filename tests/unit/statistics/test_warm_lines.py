"""What a new process costs before it is at full speed, and the lines that growth comes from, on made-up records."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest
from made_up import written

from logarithm.logbook.memory import Logbook
from logarithm.logbook.reading import read_logbook
from logarithm.logbook.records import ContenderRecord, Header, HiddenRecord, LinesRecord, StudyRecord, Trial
from logarithm.logbook.writing import write_logbook
from logarithm.report.present import rendered
from logarithm.results.side_findings import WarmUpFinding
from logarithm.statistics.analysis import Analysis
from logarithm.statistics.work.lines import lines


def cold(tmp_path: Path, factor: float, calls: int = 400, processes: int = 4, quicker: float = 0.5) -> Logbook:
    """A contender whose first readings in each process cost `factor` as much; the other takes 1/quicker its time."""
    readings = [
        Trial("fast", "bay", 512, 1, metric="warmup", process=process, calls=calls, elapsed=calls * 1e4 * slow)
        for process in range(1, processes + 1)
        for slow in (factor, (factor + 1) / 2, 1.0, 1.02, 0.99)
    ]
    laws = {("fast", "bay", None): lambda n: 20 * n, ("plain", "bay", None): lambda n: 20 * n / quicker}
    more = (StudyRecord(name="made-up"), ContenderRecord(name="fast"), ContenderRecord(name="plain"))
    return written(tmp_path / "run.jsonl", laws, more=(*more, *readings))


def test_warming_up_is_told_with_what_it_costs_and_when_that_is_repaid(tmp_path: Path) -> None:
    (found,) = Analysis(cold(tmp_path, 3.0)).findings().warmups
    # Two readings above full speed: 400 calls of 10 µs each, at three times and at twice the cost.
    assert found.cold == pytest.approx(3.0, rel=0.05) and found.calls == 800
    assert found.extra == pytest.approx(400 * 1e-5 * 3, rel=0.05) and found.seconds == pytest.approx(0.02, rel=0.05)
    saved = 20e-9 * 512
    assert (found.over, found.at) == ("plain", 512)
    assert found.repaid == pytest.approx(found.extra / saved, rel=0.1)
    assert "full speed" in rendered(Analysis(read_logbook(tmp_path / "run.jsonl")).findings(), "text")


@pytest.mark.parametrize(
    ("factor", "calls", "processes"),
    [(1.1, 400, 4), (3.0, 4, 4), (3.0, 400, 2)],
    ids=["hardly colder", "next to nothing", "two processes"],
)
def test_what_is_no_warming_up_is_not_told(tmp_path: Path, factor: float, calls: int, processes: int) -> None:
    assert Analysis(cold(tmp_path, factor, calls, processes)).findings().warmups == []


def test_where_nobody_is_slower_it_is_never_repaid(tmp_path: Path) -> None:
    (found,) = Analysis(cold(tmp_path, 3.0, quicker=2.0)).findings().warmups
    assert isinstance(found, WarmUpFinding) and found.repaid is None and found.over is None


# --- lines ------------------------------------------------------------------------------------------------------------

SCAN, SORT, ADD = ("tides.py", 7), ("tides.py", 9), ("tides.py", 3)


def counted_lines(tmp_path: Path, hidden: list[HiddenRecord] | None = None) -> Logbook:
    """A line that runs n(n-1)/2 times, one with a sort in it, one that runs once."""
    records = [
        LinesRecord(
            contender="sweep",
            family="bay",
            size=n,
            lines=[
                (*ADD, "total = 0", 1, 1),
                (*SCAN, "total += one", n * (n - 1) // 2, n * (n - 1) // 2),
                (*SORT, "levels.sort()", 1, 1),
            ],
            operations=[(*SORT, "levels.sort()", "items compared", round(n * math.log2(n)))],
        )
        for n in (8, 16, 32, 64, 128)
    ]
    path = tmp_path / "lines.jsonl"
    write_logbook(path, [Header(), StudyRecord(name="made-up"), ContenderRecord("sweep"), *records, *(hidden or [])])
    return read_logbook(path)


def test_the_line_that_growth_comes_from_is_the_steepest_with_a_share(tmp_path: Path) -> None:
    found = lines(counted_lines(tmp_path))
    assert (found[0].line, found[0].order) == (7, "n^2")
    steepest, sort = found[0], next(row for row in found if row.line == 9)
    assert steepest.culprit and steepest.exact == "n*(n-1)/2" and not sort.culprit
    assert sort.known is not None and (sort.known.kind, sort.known.amount) == ("items compared", 128 * 7)
    assert sum(row.share for row in found) == pytest.approx(1, abs=0.02)
    assert all(row.line != 3 for row in found)  # a line that runs once is not worth a row


@pytest.mark.parametrize(("rises", "is_native"), [(64, True), (1, False)])
def test_an_operation_that_becomes_dearer_is_blamed_where_nobody_counts_it(
    tmp_path: Path, rises: int, is_native: bool
) -> None:
    hidden = [
        HiddenRecord(
            contender="sweep",
            family="bay",
            size=n,
            spent={"turned": (40_000 * times, 40), "len": (400, 40)},
            places=[("tides.py", 11, "turned(levels)", 40_000 * times, 40), ("tides.py", 12, "len(levels)", 400, 40)],
        )
        for n, times in ((8, 1), (128, rises))
    ]
    found = lines(counted_lines(tmp_path, hidden))
    native = [row for row in found if row.operation]
    assert [row.line for row in native] == ([11] if is_native else [])
    assert [row.line for row in found if row.culprit] == ([11] if is_native else [7])
    if is_native:
        assert native[0].spent > 0.9 and np.diff([each[1] for each in native[0].each])[0] > 0
