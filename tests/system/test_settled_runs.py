"""Measuring until it is settled, and going on: with edited and added contenders, with little and with much said."""

from __future__ import annotations

import json
import re
import sys

import pytest

from studies import MOORINGS

ADDED = """
@study.contender
def at_once(ropes):
    return sum(ropes)
"""


def records(harbour, name: str, kind: str) -> list[dict]:
    lines = (harbour.folder / name).read_text(encoding="utf-8").splitlines()
    return [record for record in map(json.loads, lines) if record["kind"] == kind]


def timed(harbour, name: str) -> dict[str, int]:
    """How many trials each contender has in a logbook."""
    made: dict[str, int] = {}
    for trial in records(harbour, name, "trial"):
        if trial.get("metric", "time") == "time" and trial["heat"]:
            made[trial["contender"]] = made.get(trial["contender"], 0) + 1
    return made


@pytest.fixture
def measured(harbour):
    """A study that was measured into run.jsonl."""
    harbour.study(MOORINGS)
    done = harbour.run("measure", "study.py", "--budget", "20s", "--out", "run.jsonl", "-q")
    assert done.code == 0, done.err
    assert done.err == ""
    return harbour, done


def test_a_whole_budget_is_used_where_that_is_asked_for_and_what_is_decided_is_logged(harbour) -> None:
    harbour.study(MOORINGS)
    done = harbour.run("measure", "study.py", "--budget", "5s", "--out", "run.jsonl", "--whole-budget", "--verbose")
    (close,) = records(harbour, "run.jsonl", "close")
    assert 4.0 < close["elapsed"] < 5.5
    assert re.search(r"^ +\d+\.\d\d s  looked after process \d+", done.err, re.MULTILINE)


def test_going_on_with_what_is_settled_adds_a_little_and_loses_nothing(measured) -> None:
    harbour, _ = measured
    before = timed(harbour, "run.jsonl")
    done = harbour.run("measure", "study.py", "--resume", "run.jsonl", "--sizes", "48")
    assert done.code == 0, done.err
    after = timed(harbour, "run.jsonl")
    assert all(after[name] > before[name] for name in before)
    assert 48 in {trial["size"] for trial in records(harbour, "run.jsonl", "trial")}


def test_an_edited_contender_is_measured_anew_and_an_added_one_joins(measured) -> None:
    harbour, _ = measured
    before = timed(harbour, "run.jsonl")
    harbour.study(MOORINGS.replace("rope * 1.5", "rope * 1.5 * 1.5"), ADDED)
    done = harbour.run("measure", "study.py", "--resume", "run.jsonl")
    assert done.code == 0, done.err
    assert "each rope: was edited" in done.out
    after = timed(harbour, "run.jsonl")
    assert all(after[name] >= before[name] for name in before)
    assert after["at_once"] > 0
    found = harbour.run("report", "run.jsonl", "--format", "json").json
    heats = {row["contender"]: sum(point["rounds"] for point in row["points"]) for row in found["costs"]}
    # What was measured of the earlier version is in the file, and in no finding.
    assert heats["each_rope"] <= after["each_rope"] - before["each_rope"] + 10
    assert heats["each_pair"] >= before["each_pair"] / 2
    assert set(heats) == {"each_pair", "each_rope", "at_once"}


def test_another_machine_or_version_is_refused_in_a_line(measured) -> None:
    harbour, _ = measured
    whole = (harbour.folder / "run.jsonl").read_text(encoding="utf-8")
    for what, changed in (
        ("python", re.sub(r'"python":"[^"]*"', '"python":"CPython 3.0"', whole)),
        ("logarithm", re.sub(r'"software":"[^"]*"', '"software":"logarithm 0.0.1"', whole)),
    ):
        (harbour.folder / "other.jsonl").write_text(changed, encoding="utf-8")
        done = harbour.run("measure", "study.py", "--resume", "other.jsonl")
        assert done.code == 2
        assert what in done.err
        assert "measure it again" in done.err
        assert len(done.err.splitlines()) == 1


def test_a_program_that_never_greets_does_not_take_the_budget(harbour) -> None:
    (harbour.folder / "deaf.py").write_text("import time\ntime.sleep(60)\n")
    harbour.study(MOORINGS, f'study.program("deaf", worker=[{sys.executable!r}, "deaf.py"])\n')
    harbour.run("measure", "study.py", "--budget", "6s", "--out", "run.jsonl", "-q")
    closes = records(harbour, "run.jsonl", "close") if (harbour.folder / "run.jsonl").exists() else []
    assert all(close["elapsed"] < 6.6 for close in closes)


STEEP = """
from logarithm import Study
study = Study("channels")

@study.family
def buoys(n, rng):
    return n

@study.contender
def each_way(n):
    "Every buoy is passed on the left, on the right, or not at all."
    return 1 if n == 0 else each_way(n - 1) + each_way(n - 1) + each_way(n - 1)
"""


def test_steep_growth_is_looked_at_below_its_first_sizes(harbour) -> None:
    done = harbour.run("measure", harbour.study(STEEP), "--budget", "4s", "--format", "json", "-q")
    assert done.code == 0, done.err
    (costs,) = (each for each in done.json["costs"] if each["metric"] == "time")
    sizes = [point["size"] for point in costs["points"]]
    assert sizes == sorted(sizes) and len(sizes) >= 6 and sizes[0] < 8
    (growth,) = (each for each in done.json["growth"] if each["metric"] == "time")
    assert growth["order"] in ("3^n", None)  # a busy moment may leave it open
    (failure,) = done.json["failures"] or [None]
    assert failure is None or failure["size"] > 8  # a size that nobody asked for is none
