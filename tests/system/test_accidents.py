"""What goes wrong outside: an interruption, a full disk, an interpreter that breaks down, code that always fails."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from conftest import COMMAND
from logarithm.logbook.reading import read_logbook
from logarithm.logbook.records import Failure, Header, StudyRecord, Trial
from logarithm.logbook.writing import write_logbook
from logarithm.statistics.analysis import Analysis

CLASS = """
from logarithm import Study
study = Study("surf", sizes="8..64 *2")
@study.family
def waves(n, rng): return [rng.random() for _ in range(n)]
@study.contender(baseline=True)
def reference(waves): return max(waves)
study.submissions("handed-in/*.py", function="highest", require="n")
"""
DAWDLES = "import time\ndef highest(waves):\n    time.sleep(1.5)\n    return max(waves)\n"
STUDY = """
from logarithm import Study
study = Study("surf", sizes="8..64 *2")
@study.family
def waves(n, rng): return [rng.random() for _ in range(n)]
@study.contender(baseline=True)
def reference(waves): return max(waves)
"""
BREAKS = """
@study.contender
def breaks(waves):
    if len(waves) >= 32:
        import ctypes
        ctypes.string_at(0)
    return max(waves)
"""
FAILS = """
@study.contender
def fails(waves): raise RuntimeError("the tide is out")
"""


@pytest.mark.skipif(sys.platform == "win32", reason="there are no such signals")
def test_an_assessment_that_is_interrupted_ends_at_once_and_says_how_to_go_on(harbour) -> None:
    harbour.study(CLASS)
    (harbour.folder / "handed-in").mkdir()
    (harbour.folder / "handed-in" / "abel.py").write_text(DAWDLES)
    process = subprocess.Popen(
        [COMMAND, "assess", "study.py", "--trusted"],
        cwd=harbour.folder,
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
        preexec_fn=lambda: signal.signal(signal.SIGINT, signal.SIG_DFL),
    )
    until = time.monotonic() + 60
    while not list(harbour.folder.glob("logbooks/*.jsonl")) and time.monotonic() < until:
        time.sleep(0.1)
    time.sleep(1.0)
    process.send_signal(signal.SIGINT)
    _, told = process.communicate(timeout=30)
    assert process.returncode == 130, told
    assert "interrupted; go on with logarithm assess study.py --resume logbooks/surf-" in told
    assert "Traceback" not in told


@pytest.mark.skipif(not hasattr(os, "fork"), reason="there is no bound on the size of a file")
def test_a_full_disk_is_told_and_what_was_measured_stays(harbour) -> None:
    harbour.study(STUDY)
    command = f"ulimit -f 8; exec {COMMAND} measure study.py --budget 6s --whole-budget --out run.jsonl"
    done = subprocess.run(["bash", "-c", command], cwd=harbour.folder, capture_output=True, text=True, timeout=60)
    assert done.returncode == 2, done.stderr
    assert "run.jsonl cannot be written any further" in done.stderr
    assert "go on with --resume" in done.stderr
    assert len(read_logbook(harbour.folder / "run.jsonl").trials) > 0


def test_where_an_interpreter_breaks_down_its_line_is_told(harbour) -> None:
    harbour.study(STUDY, BREAKS)
    done = harbour.run("measure", "study.py", "--budget", "4s", "--out", "run.jsonl", "-q")
    assert done.code == 1, done.err  # a contender fails
    (failure,) = [each for each in read_logbook(harbour.folder / "run.jsonl").failures if each.contender == "breaks"]
    assert failure.size <= 64
    assert "study.py:13" in failure.detail, failure


def test_a_family_that_fails_is_named_with_its_line(harbour) -> None:
    harbour.study(STUDY.replace("return [rng.random() for _ in range(n)]", 'raise ValueError("no water")'))
    for command in ("measure", "rehearse"):
        done = harbour.run(command, "study.py", "--budget", "2s")
        assert done.code == 2
        assert "the family 'waves' fails at n = 8, seed 1: ValueError: no water (study.py:5)" in done.err


def test_where_nothing_works_the_exit_code_says_so(harbour) -> None:
    harbour.study(STUDY.replace("return max(waves)", 'raise RuntimeError("ebb")'), FAILS)
    done = harbour.run("measure", "study.py", "--budget", "2s", "-q")
    assert done.code == 2
    assert "nothing was measured: no contender works at its smallest size" in done.err
    assert "RuntimeError" in done.out


def test_what_fails_at_a_size_is_not_forecast_beyond_it(tmp_path: Path) -> None:
    trials = [
        Trial(contender="surge", family="bay", size=n, heat=heat, process=1, calls=1, elapsed=100.0 * n)
        for n in (8, 16, 32, 64, 128, 256)
        for heat in range(1, 6)
    ]
    failure = Failure(contender="surge", family="bay", size=512, reason="RecursionError", detail="", works=511)
    path = tmp_path / "run.jsonl"
    write_logbook(path, [Header(), StudyRecord(name="tide"), *trials, failure])
    (beyond,) = Analysis(read_logbook(path)).forecast({"": 1e6}).rows
    assert (beyond.value, beyond.fails) == (None, 512)
    (within,) = Analysis(read_logbook(path)).forecast({"": 400}).rows
    assert within.value == pytest.approx(40e-6, rel=0.05)
