"""Beside a program that wants the same processor: what it takes is taken off, and the report says so."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

from logarithm.protocol.scheduling import own_timing
from studies import BUSY

pytestmark = pytest.mark.skipif(
    not Path("/proc/self/schedstat").exists(), reason="this system does not tell of the queue for a processor"
)


@contextmanager
def burning(processors: list[int]) -> Iterator[None]:
    """A program that burns each of some processors."""
    code = "import os; os.sched_setaffinity(0, {%d})\nwhile True: pass"
    made = [subprocess.Popen([sys.executable, "-c", code % each]) for each in processors]
    time.sleep(0.3)
    try:
        yield
    finally:
        for each in made:
            each.kill()
            each.wait()


def test_where_others_have_the_processor_that_is_taken_off() -> None:
    here = sorted(os.sched_getaffinity(0))

    def timing() -> int:
        begun = time.perf_counter_ns()
        total = 0
        for each in range(2_000_000):
            total += each
        return time.perf_counter_ns() - begun

    with burning(here[-1:]):
        try:
            os.sched_setaffinity(0, {here[-1]})
            ran = time.thread_time_ns()
            own = own_timing(timing)
            assert own == pytest.approx(time.thread_time_ns() - ran, rel=0.15)

            def asleep() -> int:
                begun = time.perf_counter_ns()
                time.sleep(0.05)
                return time.perf_counter_ns() - begun

            # The longest of a few: how late one sleeper is woken is the system's affair.
            assert max(own_timing(asleep) for _ in range(5)) >= 45_000_000
        finally:
            os.sched_setaffinity(0, set(here))


def test_a_busy_machine_contradicts_no_true_claim_and_is_called_busy(harbour) -> None:
    harbour.study(BUSY)
    with burning(sorted(os.sched_getaffinity(0))):
        done = harbour.run("measure", "study.py", "--budget", "8s", "--wait", "1s", "-q")
        machine = harbour.run("machine")
    assert done.code == 0, done.err
    assert "no calmer moment came within 1 s" in done.err
    found = harbour.run("report", "--format", "json").json
    assert found["run"]["noise"] == "busy"
    assert found["run"]["others"] > 0.1
    assert "contradicted" not in {each["verdict"] for each in found["claims"]}
    waiting = [note["contender"] for note in found["notes"] if "waiting" in note["text"]]
    assert waiting == ["nap"]
    nap = next(each for each in found["costs"] if each["contender"] == "nap")
    assert min(point["typical"] for point in nap["points"]) >= 0.0015
    heading = " ".join(done.out.split())
    assert "machine busy: other programs" in heading
    assert "The machine is busy" in machine.out
    trials = [each for each in harbour.records("trial") if each.get("metric", "time") == "time"]
    assert all("queued" in each for each in trials)
