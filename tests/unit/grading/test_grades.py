"""The table of a class from a logbook alone: verdicts, orders against what is asked, times, marks that stay open."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

import pytest

from logarithm.errors import AnalysisError
from logarithm.grading.grades import Worth, exceeds, grades_of
from logarithm.logbook.memory import Logbook, LogbookBuilder
from logarithm.logbook.records import Assessed, ContenderRecord, Failure, FamilyRecord, Header, Note, StudyRecord, Trial
from logarithm.results.tasks.grades import Grade

SIZES = (8, 16, 32, 64, 128, 256, 512)
Law = Callable[[float], float]
MARKS = {"right": (4.0, 2.0), "order": (3.0, 2.0), "time": (2.0, 1.5), "steps": (1.0, 2.0), "silent": (1.0, 2.0)}


def handed_in(
    work: Law,
    more: Sequence[Any] = (),
    times: float = 1.0,
    spread: float = 0.0,
    outside: Law | None = None,
    is_done: bool = True,
) -> Logbook:
    """One submission, asked for n log n, beside a reference that takes n steps and as many microseconds.

    It takes `times` as long as the reference, in five processes that differ by up to `spread`.
    """
    builder = LogbookBuilder(Path("class.jsonl"))
    builder.add(
        [
            Header(),
            StudyRecord(name="peaks"),
            ContenderRecord("reference", baseline=True),
            ContenderRecord("anna", handed_in=True, doc="anna.py", require="n log n", function="best", late="2 days"),
            FamilyRecord(name="bay"),
        ]
    )
    trials = []
    for n in SIZES:
        counts = {"anna": float(round(work(n))), "reference": 4.0 * n}
        trials += [
            Trial(who, "bay", n, 1, metric=each, value=counts[who]) for who in counts for each in ("steps", "work")
        ]
        if outside is not None:
            trials.append(Trial("anna", "bay", n, 1, metric="outside", value=outside(n)))
    for heat in range(1, 6):
        place = {"process": heat, "calls": 1}
        own = 1e6 * times * (1 + spread * (heat - 3) / 2)
        trials.append(Trial("anna", "bay", 512, heat, elapsed=own, **place))
        trials.append(Trial("anna", "bay", 512, heat, metric="reference", value=1e-3, **place))
    builder.add([*trials, *more, *([Assessed("anna")] if is_done else [])])
    return builder.logbook()


def graded(logbook: Logbook, **worth: Any) -> Grade:
    (row,) = grades_of(logbook, {"best": Worth("reference", families=["bay"], **worth)})
    return row


def loglinear(n: float) -> float:
    return 3 * n * math.log2(n) + 5


def square(n: float) -> float:
    return n * n / 4 + n


def test_what_is_right_and_grows_as_asked_has_all_marks() -> None:
    row = graded(handed_in(loglinear), marks=MARKS, cases={"nothing": 2.0})
    assert (row.verdict, row.requirement, row.orders) == ("correct", "meets", {"bay": "n log n"})
    assert (row.file, row.function, row.late, row.size, row.time_on) == ("anna.py", "best", "2 days", 512, "bay")
    assert row.time == pytest.approx(1, rel=0.05) and row.steps is not None and row.steps > 5
    assert (row.most, row.marks) == (13.0, 10.0)  # not those for steps, which are seven times as many, nor of the case
    answered = handed_in(loglinear, [Note(topic="case", text="", contender="anna", cause="nothing")])
    assert graded(answered, marks=MARKS, cases={"nothing": 2.0}).marks == 12.0


def test_what_grows_faster_has_no_marks_for_its_order() -> None:
    row = graded(handed_in(square), marks=MARKS)
    assert (row.requirement, row.exceeds, row.orders) == ("exceeds", ["bay"], {"bay": "n^2"})
    assert row.marks == 4.0 + 2.0 + 1.0 and row.open_parts == []
    assert exceeds("n log n", {"bay": ["n^2"]}) and not exceeds("n log n", {"bay": ["n^2", "n"]})
    assert not exceeds(None, {"bay": ["2^n"]})


@pytest.mark.parametrize(("rule", "marks"), [("ask", 8.0), ("give", 10.0)])
def test_marks_of_which_times_do_not_tell_stay_open(rule: str, marks: float) -> None:
    row = graded(handed_in(loglinear, times=1.5, spread=0.5), marks=MARKS, open_marks=rule)
    assert row.low is not None and row.high is not None and row.low < 1.5 < row.high
    assert row.open_parts == ["time"] and row.marks == marks


@pytest.mark.parametrize(
    ("record", "verdict", "detail", "marks"),
    [
        (Note(topic="incorrect", text="7, not 9", contender="anna", family="bay"), "incorrect", "7, not 9", 0.0),
        (Note(topic="broken", text="line 3: no colon", contender="anna"), "broken", "line 3: no colon", 0.0),
        (Note(topic="rule", text="imports os", contender="anna"), "not allowed", "imports os", 0.0),
        (Note(topic="case", text="None", contender="anna", cause="one"), "incorrect", "one: None", 4.0),
        (Failure(contender="anna", family="bay", size=64, reason="timeout"), "fails", "timeout on bay at n = 64", 0.0),
    ],
)
def test_what_is_not_right_says_why(record: Any, verdict: str, detail: str, marks: float) -> None:
    row = graded(handed_in(loglinear, [record]), marks=MARKS)
    assert (row.verdict, row.detail, row.marks) == (verdict, detail, marks)


def test_few_steps_do_not_hide_what_time_shows() -> None:
    quick = graded(handed_in(loglinear, outside=lambda n: 1e-6 * n))
    assert quick.requirement == "meets" and quick.traps == []
    hiding = graded(handed_in(loglinear, outside=lambda n: 1e-6 * n * n))
    assert hiding.requirement == "exceeds" and "work may be done where steps are not counted" in hiding.traps[0]
    slow = graded(handed_in(loglinear, times=90))
    assert slow.requirement == "open" and "more than 50 times as long as the reference" in slow.traps[0]


@pytest.mark.parametrize("topic", ["untimed", "started", "uncounted"])
def test_where_work_is_not_seen_meeting_an_order_is_open(topic: str) -> None:
    unsure = [Note(topic=topic, text="some of it is not seen", contender="anna")]
    row = graded(handed_in(loglinear, unsure, times=20.0))
    assert row.requirement == "open" and row.traps == ["some of it is not seen"]
    quick = graded(handed_in(loglinear, unsure, times=1.0))
    assert quick.requirement == ("meets" if topic == "started" else "open")


def test_traps_cost_their_part_only() -> None:
    prints = [Note(topic="trap", text="prints", contender="anna", cause="prints")]
    row = graded(handed_in(loglinear, prints), marks=MARKS)
    assert row.trap_kinds == ["prints"] and row.marks == 9.0


def test_who_was_not_looked_at_to_the_end_is_told() -> None:
    row = graded(handed_in(loglinear, is_done=False), marks=MARKS)
    assert (row.verdict, row.marks) == ("not assessed", 0.0)
    alone = LogbookBuilder(Path("run.jsonl"))
    alone.add([Header(), StudyRecord(name="tides"), ContenderRecord("sweep")])
    with pytest.raises(AnalysisError, match=r"run.jsonl is not the logbook of an assessment: make one with"):
        grades_of(alone.logbook(), {})
