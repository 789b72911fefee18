"""Fresh inputs, warm processes and promises, by the installed command."""

from __future__ import annotations

import json
import sys


def test_a_trial_takes_inputs_in_turn_and_some_beside_repeat_one(harbour) -> None:
    harbour.stored("repeated")
    trials = [each for each in harbour.records("trial") if each["heat"]]
    timed = [each for each in trials if each.get("metric", "time") == "time"]
    assert {each.get("instances", 1) > 1 for each in timed} == {True}
    repeated = [each for each in trials if each.get("metric") == "repeated"]
    assert "learns" in {each["contender"] for each in repeated}
    assert {each.get("instances", 1) for each in repeated} == {1}
    found = harbour.run("report", "--format", "json").json
    assert {row["leader"] for row in found["standings"]} == {"plain"}
    wide = harbour.run("export", "--wide").out
    assert len(wide.splitlines()[0].split(",")) == 4


def test_one_input_is_repeated_on_purpose(harbour) -> None:
    harbour.stored("repeated_on_purpose")
    assert {each.get("instances", 1) for each in harbour.records("trial")} == {1}
    found = harbour.run("report", "--format", "json").json
    assert {row["leader"] for row in found["standings"]} == {"learns"}
    harbour.study()
    assert "is not one of" in harbour.run("measure", "study.py", "--inputs", "stale").err


def test_a_promise_is_kept_in_every_process(harbour) -> None:
    harbour.stored("promises")
    trials = [each for each in harbour.records("trial") if each["heat"] and each.get("metric", "time") == "time"]
    assert len({each.get("process", 1) for each in trials}) > 1
    cost = {
        name: [t["elapsed"] / t["calls"] for t in trials if t["contender"] == name] for name in ("ashore", "add_up")
    }
    assert min(cost["ashore"]) > max(cost["add_up"])
    found = harbour.run("report", "--format", "json").json
    assert "promised" in found["study"]["yardsticks"]
    assert found["standings"][0]["leader"] == "add_up"


def test_a_program_is_judged_by_the_referee(harbour) -> None:
    more = f"""
study.program("zero", command=[{sys.executable!r}, "-c", "print(0)", "{{file}}"])
@study.referee
def fits(levels, answer): return abs(answer - sum(levels)) < 1e-6
"""
    done = harbour.run("rehearse", harbour.study(more=more), "--sizes", "8")
    assert done.code == 1
    assert "the referee rejects the answer of zero on rising, n = 8, seed 1: 0" in done.out


def test_a_run_is_gone_on_with_as_is_said(harbour) -> None:
    harbour.run("measure", harbour.study(), "--budget", "3s", "--out", "run.jsonl")
    path = harbour.folder / "run.jsonl"
    kept = [line for line in path.read_text().splitlines() if '"kind":"close"' not in line]
    # However quick the machine was: the last trial came at the end of the budget.
    last = max(at for at, line in enumerate(kept) if '"kind":"trial"' in line)
    kept[last] = json.dumps({**json.loads(kept[last]), "at": 2.9})
    path.write_text("\n".join(kept) + "\n")
    before = [each for each in map(json.loads, kept) if each["kind"] == "trial"]
    told = harbour.run("measure", "study.py", "--resume", "run.jsonl")
    assert (told.code, "give it a further one with --budget" in told.err) == (2, True)
    done = harbour.run("measure", "study.py", "--resume", "run.jsonl", "--budget", "3s", "--sizes", "96")
    assert done.code == 0, done.err
    after = [each for each in map(json.loads, path.read_text().splitlines()) if each["kind"] == "trial"]
    new = after[len(before) :]
    assert {each["size"] for each in new} >= {8, 16, 32, 64, 96}
    assert min(each.get("process", 1) for each in new) > max(each.get("process", 1) for each in before)
    assert min(each["heat"] for each in new if each["heat"]) > max(each["heat"] for each in before)
