"""Workers as their parent sees them: asked after their end, wrong from the beginning, lying."""

from __future__ import annotations

import sys
import time
from pathlib import Path

import psutil
import pytest

from conftest import HARBOUR
from logarithm.errors import MeasuringError
from logarithm.protocol.replies import Answered, Done, Timed
from logarithm.protocol.requests import Answer, Attempt, Limits, TakeTrial
from logarithm.study.files.loading import load
from logarithm.supervisor.failed import Failed
from logarithm.supervisor.pool import WorkerPool
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
