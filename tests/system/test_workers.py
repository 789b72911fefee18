"""Workers as their parent sees them: asked after their end, wrong from the beginning, lying."""

from __future__ import annotations

import sys
import time
from pathlib import Path

import psutil
import pytest

from conftest import HARBOUR
from logarithm.errors import MeasuringError
from logarithm.notation.encoding import decoded
from logarithm.protocol.replies import Answered, Done, Timed
from logarithm.protocol.requests import Answer, Attempt, Limits, TakeTrial
from logarithm.study.files.loading import load
from logarithm.supervisor.failed import Failed
from logarithm.supervisor.pool import WorkerPool
from logarithm.supervisor.templates import ForkedProcess, Templates
from logarithm.supervisor.worker import Worker

LIES = """
@study.contender
def forges(levels):
    import json, os
    line = json.dumps({"kind": "Timed", "calls": 1, "elapsed": 1, "cpu": 1, "overhead": 0.0, "pace": [1, 1], "peak": 0})
    for descriptor in range(3, 20):
        try: os.write(descriptor, line.encode() + b"\\n")
        except OSError: pass
    return sum(levels)
"""


def worker(path: Path, name: str) -> Worker:
    return Worker(path, load(path).the_contender(name), 1, Limits())


def test_a_worker_that_is_asked_after_its_end_fails_with_a_reason(harbour) -> None:
    asked = worker(harbour.study(), "add_up")
    assert asked.ask(Answer("rising", 8, 1), Answered, 10.0).comparable
    asked.end()
    with pytest.raises(Failed) as told:
        asked.ask(Answer("rising", 8, 1), Answered, 10.0)
    assert told.value.reason in ("crash", "exit", "closed")


def test_a_greeting_that_is_an_error_leaves_no_process(harbour) -> None:
    path = harbour.study()
    asked = worker(path, "add_up")
    asked.end()
    path.write_text(HARBOUR.replace("def add_up", "def adds_up"))
    asked = Worker(path, asked.contender, 1, Limits())
    with pytest.raises(MeasuringError, match="no contender 'add_up'"):
        asked.greet()
    assert not asked.alive


def test_a_forged_reply_is_nonsense(harbour) -> None:
    asked = worker(harbour.study(more=LIES), "forges")
    with pytest.raises(Failed) as told:
        asked.ask(TakeTrial("rising", 8, 1, None, 10), Timed, 10.0, 10)
    assert told.value.reason == "nonsense"
    assert not asked.alive


@pytest.mark.skipif(sys.platform == "win32", reason="Windows has no such sessions")
def test_whatever_a_worker_started_ends_with_it(harbour) -> None:
    more = """
import subprocess, sys
@study.contender
def leaves_one(levels):
    subprocess.Popen([sys.executable, "-c", "import time; time.sleep(98.5)"], start_new_session=True)
    return sum(levels)
"""
    asked = worker(harbour.study(more=more), "leaves_one")
    asked.ask(Answer("rising", 8, 1), Answered, 10.0)
    asked.end()
    time.sleep(0.3)
    assert not [
        each for each in psutil.process_iter(["cmdline"]) if "time.sleep(98.5)" in str(each.info["cmdline"] or "")
    ]


def test_a_process_that_began_without_a_contender_can_still_ask_it(harbour) -> None:
    file = harbour.study()
    study = load(file)
    pool = WorkerPool(study, file, [study.the_contender("add_up")], 1, Limits(), set())
    try:
        for name in ("add_up", "again_and_again"):
            assert isinstance(pool.ask(name, Attempt("rising", 8, 1), Done, 20.0), Done)
    finally:
        pool.end()


# --- processes from templates -------------------------------------------------------------------------------------

LEAVING = """
import os, signal
@study.contender
def leaves(levels): os._exit(3)
@study.contender
def breaks_down(levels): os.kill(os.getpid(), signal.SIGSEGV)
@study.contender
def tells_its_seed(levels): return [hash("tide") % 1000, os.getpid()]
"""
FORKED = pytest.mark.skipif(sys.platform != "linux", reason="processes are forked on Linux only")


@pytest.fixture
def templates(harbour):
    made = Templates(harbour.study(more=LEAVING))
    yield made
    made.end()


def forked(templates: Templates, name: str, seed: int = 1) -> Worker:
    file = templates.study_file
    return Worker(file, load(file).the_contender(name), seed, Limits(), templates)


@FORKED
@pytest.mark.parametrize(
    ("name", "reason", "detail"),
    [("leaves", "exit", "exit code 3"), ("breaks_down", "crash", "Segmentation fault in breaks_down")],
)
def test_a_forked_process_that_leaves_says_how(templates, name: str, reason: str, detail: str) -> None:
    asked = forked(templates, name)
    assert isinstance(asked.process, ForkedProcess)
    with pytest.raises(Failed) as told:
        asked.ask(Answer("rising", 8, 1), Answered, 10.0)
    assert told.value.reason == reason
    assert detail in told.value.detail


@FORKED
def test_forked_processes_are_like_others_and_take_turns_at_hash_seeds(templates) -> None:
    workers = [forked(templates, "tells_its_seed", seed) for seed in (1, 2, 3, 4)]
    answers = [each.ask(Answer("rising", 8, 1), Answered, 10.0).answer for each in workers]
    seeds, processes = zip(*(decoded(each) for each in answers), strict=True)
    assert len(set(processes)) == 4
    assert seeds[0] == seeds[3] != seeds[1] != seeds[2]
    workers[0].end()
    assert not workers[0].alive
    assert workers[3].alive
    templates.end()
    assert not any(psutil.pid_exists(each.process.pid) and each.process.poll() is None for each in workers)


@FORKED
def test_a_study_that_runs_something_of_its_own_is_started_anew(harbour) -> None:
    more = "\nimport threading, time\nthreading.Thread(target=time.sleep, args=(60,), daemon=True).start()\n"
    templates = Templates(harbour.study(more=more))
    try:
        asked = forked(templates, "add_up")
        assert not isinstance(asked.process, ForkedProcess)
        assert templates.loading == (None, "")
        assert asked.ask(Answer("rising", 8, 1), Answered, 10.0).comparable
        asked.end()
    finally:
        templates.end()
