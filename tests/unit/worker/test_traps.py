"""What makes times false: earlier calls remembered, work that goes on after a call has returned."""

from __future__ import annotations

import threading
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

from logarithm.logbook.memory import LogbookBuilder
from logarithm.logbook.records import ContenderRecord, FamilyRecord, Header, Note, StudyRecord, Trial
from logarithm.statistics.analysis import Analysis
from logarithm.worker.remembering import remembered
from logarithm.worker.unfinished import is_alone, unfinished


def slow(levels: list[float]) -> float:
    return sum(abs(one - other) for one in levels for other in levels)


def made(number: int) -> list[float]:
    return [float(number + number * at % 7) for at in range(40)]


def test_what_is_remembered_by_object_or_by_value_is_seen() -> None:
    by_object: dict[int, float] = {}
    by_value: dict[tuple[float, ...], float] = {}

    def one(levels: list[float]) -> float:
        return by_object[id(levels)] if id(levels) in by_object else by_object.setdefault(id(levels), slow(levels))

    def other(levels: list[float]) -> float:
        key = tuple(levels)
        return by_value[key] if key in by_value else by_value.setdefault(key, slow(levels))

    for call in (one, other):
        # Inputs that were freed leave their places in memory to others.
        for number in range(20):
            call(made(number))
        assert "remembers" in remembered(call, made, range(100, 105), used_up=False)
    assert remembered(slow, made, range(5), used_up=False) == {}
    assert remembered(other, made, range(200, 205), used_up=True) != {}
    # Where calls in turn cost as much as new ones, nothing is tried further.
    assert remembered(other, made, range(300, 305), used_up=False, usual=1e9) == {}


def test_a_call_that_is_slow_after_the_making_of_its_input_is_not_remembered() -> None:
    was_made = False

    def make(number: int) -> list[float]:
        nonlocal was_made
        was_made = True
        return made(number)

    def after_another(levels: list[float]) -> float:
        nonlocal was_made
        slow(levels)
        if was_made:  # what else ran meanwhile took the place of this code
            was_made = False
            until = time.perf_counter() + 0.01
            while time.perf_counter() < until:
                pass
        return 0.0

    assert remembered(after_another, make, range(400, 410), used_up=False, usual=1.0) == {}


def test_work_that_goes_on_after_a_call_is_seen() -> None:
    def in_thread() -> None:
        threading.Thread(target=time.sleep, args=(0.02,), daemon=True).start()

    assert unfinished(in_thread) == {"unfinished": "a thread"}
    assert unfinished(lambda: slow(made(1))) == {}
    with ThreadPoolExecutor(1) as pool:
        assert pool.submit(slow, made(1)).result() > 0
        assert unfinished(lambda: pool.submit(slow, made(2)).result()) == {}
        assert not is_alone()


@pytest.mark.parametrize("cause", ["remembers", "unfinished"])
def test_nothing_follows_from_times_that_are_false(cause: str) -> None:
    builder = LogbookBuilder(Path("kept.jsonl"))
    opening = StudyRecord(name="bells", sizes=[8, 16, 32, 64, 128, 256], budget=9.0, metrics=["time"])
    names = {"kept": 1, "added": 7}
    builder.add([Header(), opening, *(ContenderRecord(name=name) for name in names), FamilyRecord(name="levels")])
    builder.add(
        [
            Trial(contender=name, family="levels", size=n, heat=heat, process=heat, calls=10, elapsed=slope * n * 1000)
            for name, slope in names.items()
            for n in opening.sizes or ()
            for heat in range(1, 7)
        ]
    )
    assert {row.leader for row in Analysis(builder.logbook()).findings().standings} == {"kept"}
    builder.add([Note(topic="trap", text="its time is false", contender="kept", cause=cause)])
    found = Analysis(builder.logbook()).findings()
    assert {row.leader for row in found.standings} == {"added"} and found.study.yardsticks == ["kept"]
    assert [row.order for row in found.growth] == [None, "n"] and not found.crossovers
    assert "see the notes" in found.growth[0].advice
