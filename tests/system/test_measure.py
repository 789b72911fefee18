from __future__ import annotations

import json
import re
import signal
import subprocess
import sys
import time

import psutil
import pytest

from conftest import COMMAND, HARBOUR
from logarithm.notation import encoding
from logarithm.protocol import answers

SHORT = ("--budget", "10s")
WORKERS = {"logarithm.worker.serve", "logarithm.worker.template"}


def test_from_a_study_to_a_report(harbour) -> None:
    done = harbour.run("measure", harbour.study(), "--budget", "12s")
    assert done.code == 0, done.err
    assert "add up leads" in done.out
    assert "logbooks/tide-gauge-" in done.err
    kinds = {kind: harbour.records(kind) for kind in ("study", "machine", "contender", "family", "trial", "close")}
    assert all(kinds.values())
    assert {trial["size"] for trial in kinds["trial"] if "metric" not in trial} >= {8, 16, 32, 64}
    assert kinds["close"][0]["reason"] == "finished"
    assert kinds["close"][0]["elapsed"] < 13
    trial = [each for each in kinds["trial"] if "metric" not in each][-1]  # counted work may stand behind it
    assert trial["elapsed"] > trial["overhead"] > 0
    assert trial["calls"] >= 1


def test_the_findings_as_json_and_a_figure(harbour) -> None:
    harbour.stored("gauge")
    found = harbour.run("report", "--format", "json").json
    assert (found["format"], found["version"]) == ("logarithm-findings", 2)
    keys = {"growth", "crossovers", "standings", "breakeven", "claims", "failures"}
    assert keys <= set(found)
    assert {row["verdict"] for row in found["claims"]} <= {"holds", "contradicted", "undecided"}
    assert found["standings"][0]["leader"] == "add_up"
    for kind, head in (("png", b"\x89PNG"), ("svg", b"<?xml"), ("pdf", b"%PDF")):
        assert harbour.run("plot", "--out", f"tide.{kind}").code == 0
        assert (harbour.folder / f"tide.{kind}").read_bytes().startswith(head)
    again = harbour.run("plot", "--out", "tide.png")
    assert again.code == 2
    assert "exists" in again.err
    assert harbour.run("plot", "--out", "tide.png", "--overwrite").code == 0
    assert "PNG, SVG or PDF" in harbour.run("plot", "--out", "tide.txt").err


def test_files_that_are_named_like_the_standard_library_break_nothing(harbour) -> None:
    for name in ("queue", "copy", "random", "statistics", "heapq", "threading", "json"):
        (harbour.folder / f"{name}.py").write_text("SHADOW = True\n")
    (harbour.folder / "tables.py").write_text("def total(levels):\n    return sum(levels)\n")
    more = "import tables\nstudy.contender(tables.total, name='from_a_module')\n"
    done = harbour.run("measure", harbour.study(more=more), "--budget", "2s", "-q", PYTHONHASHSEED="1")
    assert done.code == 0, done.err
    assert "from_a_module" in harbour.run("report", "--format", "json", PYTHONHASHSEED="1").out


DISAGREES = """
@study.contender
def off_by_one(levels):
    return sum(levels[1:])
"""


def test_disagreement_stops_before_measuring(harbour) -> None:
    done = harbour.run("measure", harbour.study(more=DISAGREES), *SHORT)
    assert done.code == 1
    assert "off_by_one disagrees with add_up on rising, n = 8, seed 1: " in done.err
    assert not list(harbour.folder.glob("logbooks/*.jsonl"))  # nothing was measured, and nothing is left
    done = harbour.run("measure", harbour.study(more=DISAGREES), *SHORT, "--anyway")
    assert done.code == 0
    assert "off by one: off_by_one disagrees" in done.out
    assert harbour.records("trial")


def test_a_referee_judges(harbour) -> None:
    referee = "@study.referee\ndef close_enough(levels, answer):\n    return abs(answer - sum(levels)) < 0.5\n"
    done = harbour.run("measure", harbour.study(more=DISAGREES + referee), *SHORT, "--sizes", "8, 16")
    assert done.code == 1
    assert "the referee rejects the answer of off_by_one" in done.err


def test_no_contender_takes_the_run_down(harbour) -> None:
    done = harbour.stored("failing")
    failures = {record["contender"]: record for record in harbour.records("failure")}
    expected = {
        "raises": ("ValueError", 32),
        "leaves": ("exit", 16),
        "quits": ("SystemExit", 8),
        "sinks": ("crash", 16),
        "circles": ("timeout", 32),
        "babbles": ("nonsense", 8),
    }
    assert {name: (failure["reason"], failure["size"]) for name, failure in failures.items()} == expected
    assert failures["raises"]["detail"] == "aground on a sandbank"
    assert any("is driven to its end" in note["text"] for note in harbour.records("note"))
    reached = {trial["contender"] for trial in harbour.records("trial") if trial["size"] == 64}
    assert reached == {"add_up", "again_and_again", "loud", "lazy", "wrong_clock"}
    assert harbour.records("close")[0]["elapsed"] < 13
    assert re.search(r"sinks on rising: works up to \d+, then crash at n = 16", done.out)


def test_every_kind_of_contender_is_timed_to_its_end(harbour) -> None:
    harbour.stored("kinds")
    assert not harbour.records("failure")
    found = {(trial["contender"], trial.get("stage")) for trial in harbour.records("trial")}
    names = {"awaited", "ashore", "drained", "eats", "stepwise[step=1]", "stepwise[step=2]"}
    assert {(name, None) for name in names} | {("Table", "build"), ("Table", "use")} <= found
    disagreed = {note["contender"] for note in harbour.records("note") if note["topic"] == "disagreement"}
    assert disagreed == {"drained"}  # what it yields is a list of levels, not their sum


def test_interrupted_work_is_kept(harbour) -> None:
    harbour.study()
    command = [str(COMMAND), "measure", "study.py", "--budget", "60s"]
    # Where the tests run in the background, an interrupt is ignored by all that they start, unless it is let in again.
    process = subprocess.Popen(
        command,
        cwd=harbour.folder,
        stderr=subprocess.PIPE,
        stdout=subprocess.PIPE,
        preexec_fn=lambda: signal.signal(signal.SIGINT, signal.SIG_DFL),
    )
    deadline = time.monotonic() + 30
    while time.monotonic() < deadline:
        time.sleep(0.3)
        if (harbour.folder / "logbooks").exists() and [t for t in harbour.records("trial") if t["heat"] > 1]:
            break
    process.send_signal(signal.SIGINT)
    out, err = process.communicate(timeout=60)
    assert process.returncode == 130
    assert b"what was measured until then" in err
    assert b"interrupted" in out
    assert b"tide-gauge" in out
    assert harbour.records("close")[0]["reason"] == "interrupted"
    assert harbour.run("report").code == 0


@pytest.mark.skipif(sys.platform != "linux", reason="only Linux ends a child with its parent")
def test_workers_do_not_outlive_a_killed_parent(harbour) -> None:
    harbour.study(HARBOUR.replace("total = 0.0\n    for i", "while True: pass\n    for i"))
    command = [str(COMMAND), "measure", "study.py", "--budget", "60s", "--ceiling", "30s"]
    process = subprocess.Popen(command, cwd=harbour.folder, stderr=subprocess.DEVNULL, stdout=subprocess.DEVNULL)

    def workers() -> bool:
        listed = psutil.process_iter(["cmdline", "cwd"])
        return any(
            WORKERS & {*(each.info["cmdline"] or [])} and each.info["cwd"] == str(harbour.folder) for each in listed
        )

    def soon(wanted: bool) -> bool:
        deadline = time.monotonic() + 20
        while time.monotonic() < deadline and workers() is not wanted:
            time.sleep(0.1)
        return workers() is wanted

    assert soon(True)
    process.kill()
    process.wait()
    assert soon(False)


def test_only_what_is_asked_for_is_measured(harbour) -> None:
    harbour.run("measure", harbour.study(), *SHORT, "--only", "add_up", "--sizes", "5, 10")
    assert {(t["contender"], t["size"]) for t in harbour.records("trial")} == {("add_up", 5), ("add_up", 10)}
    for wrong in (("--only", "ebb"), ("--family", "ebb"), ("--budget", "soon"), ("--sizes", "9..8")):
        done = harbour.run("measure", "study.py", *wrong)
        assert (done.code, len(done.err.splitlines())) == (2, 1)


def test_answers_agree_as_people_mean_it() -> None:
    def agree(one: object, other: object, within: float = 0.0, unordered: bool = False) -> bool:
        return answers.agree(encoding.described(one), encoding.described(other), within, unordered)

    assert agree((1, 2), [1, 2])
    assert agree({1, 2}, {2, 1})
    assert agree({"a": [1.0]}, {"a": [1.0 + 1e-12]}, within=1e-9)
    assert agree([3, 1, 2], (1, 2, 3), unordered=True)
    assert agree(float("nan"), float("nan"))
    assert agree(10**5000, 10**5000)
    assert not agree(1.0, 1.0 + 1e-6, within=1e-9)
    assert not agree([1, 2], [1, 2, 3])
    assert not agree("1", 1)
    assert not agree(None, 0)
    assert not agree({"a": 1}, {"b": 1})
    assert len(answers.shown(encoding.described(list(range(1000))))) <= 102


def kill_after(harbour, heats: int, victim: str) -> None:
    """Start a run, and kill the parent or one of its workers once so many heats are in the logbook."""
    command = [str(COMMAND), "measure", "study.py", "--budget", "8s", "--out", "run.jsonl"]
    process = subprocess.Popen(command, cwd=harbour.folder, stderr=subprocess.DEVNULL, stdout=subprocess.DEVNULL)
    path = harbour.folder / "run.jsonl"
    deadline = time.monotonic() + 60
    while time.monotonic() < deadline:
        time.sleep(0.02)
        # With the first bytes the run is so far that it can be gone on with.
        if path.exists() and path.stat().st_size and max(trials_by_heat_of(path.read_bytes())) >= heats:
            break
    if victim == "parent":
        process.kill()
    else:
        for child in psutil.Process(process.pid).children()[:1]:
            child.kill()
    process.wait(timeout=60)


def trials_by_heat(harbour) -> dict[int, int]:
    heats: dict[int, int] = {}
    for line in (harbour.folder / "run.jsonl").read_bytes().splitlines():
        record = json.loads(line)
        if record["kind"] == "trial":
            heats[record["heat"]] = heats.get(record["heat"], 0) + 1
    return heats


@pytest.mark.parametrize("heats", [0, 2])
def test_a_killed_run_is_gone_on_with(harbour, heats: int) -> None:
    harbour.study()
    kill_after(harbour, heats, "parent")
    whole = (harbour.folder / "run.jsonl").read_bytes()
    assert whole.endswith(b"\n")
    (harbour.folder / "run.jsonl").write_bytes(whole + b'{"kind":"trial","cont')
    before = trials_by_heat_of(whole)
    done = harbour.run("measure", "study.py", "--resume", "run.jsonl")
    assert done.code == 0, done.err
    after = trials_by_heat(harbour)
    assert all(after[heat] >= count for heat, count in before.items() if heat)
    assert max(after) > max(before)
    assert json.loads((harbour.folder / "run.jsonl").read_bytes().splitlines()[-1])["reason"] == "finished"
    # Gone on with once more, it ends at once, or has no budget left.
    done = harbour.run("measure", "study.py", "--resume", "run.jsonl")
    assert done.code == 0 or "give it a further one with --budget" in done.err


def trials_by_heat_of(whole: bytes) -> dict[int, int]:
    records = [json.loads(line) for line in whole.splitlines() if line.endswith(b"}")]
    heats = [record["heat"] for record in records if record["kind"] == "trial"]
    return {heat: heats.count(heat) for heat in set(heats)} or {0: 0}


def test_a_killed_worker_is_replaced(harbour) -> None:
    harbour.study()
    kill_after(harbour, 1, "worker")
    heats = trials_by_heat(harbour)
    assert max(heats) >= 3
    done = harbour.run("report", "run.jsonl")
    assert done.code == 0
    assert not [line for line in done.out.splitlines() if line.startswith("Failures")]


def test_a_study_is_gone_on_with_by_what_its_code_says(harbour) -> None:
    harbour.run("measure", harbour.study(), "--budget", "2s", "--out", "run.jsonl")
    harbour.study(more="# a comment changes nothing\n")
    done = harbour.run("measure", "study.py", "--resume", "run.jsonl", "--budget", "2s")
    assert (done.code, "was edited" in done.out) == (0, False)
    # A logbook that does not know what its code said can only go on with the very same file.
    old = [json.loads(line) for line in (harbour.folder / "run.jsonl").read_bytes().splitlines()]
    lines = [json.dumps({key: each for key, each in record.items() if key != "code"}) for record in old]
    (harbour.folder / "old.jsonl").write_text("\n".join(lines) + "\n")
    harbour.study(more="# another\n")
    done = harbour.run("measure", "study.py", "--resume", "old.jsonl")
    assert (done.code, "not as it was" in done.err) == (2, True)
    assert "no such logbook" in harbour.run("measure", "study.py", "--resume", "other.jsonl").err
