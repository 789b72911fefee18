"""Work spread over a real scheduler with two worker processes of this machine, one of which is killed in the middle."""

from __future__ import annotations

import csv
import io
import json
import os
import re
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path

import psutil
import pytest

distributed = pytest.importorskip("distributed", reason="the extra for clusters is not installed")

CLASS = """
from logarithm import Study, families
from beside import right
study = Study("peaks", sizes="8..64 *2")
study.family(families.decimals)
study.contender(right, name="reference", baseline=True)
study.submissions("handed-in/*.py", function="best", require="n log n")
"""
STUDY = """
from logarithm import Study, families
study = Study("depths", sizes="8..32 *2")
study.family(families.shuffled)
@study.contender
def parted(depths):
    if len(depths) < 2:
        return depths
    first, rest = depths[0], depths[1:]
    return parted([x for x in rest if x < first]) + [first] + parted([x for x in rest if not x < first])
@study.contender
def built_in(depths):
    return sorted(depths)
"""


@pytest.fixture(scope="module")
def scheduler(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """A scheduler with two workers, each a machine of its own as far as anyone can tell."""
    room = tmp_path_factory.mktemp("cluster")
    command = [sys.executable, "-m", "distributed.cli.dask_scheduler", "--port", "0", "--no-dashboard"]
    command += ["--scheduler-file", str(room / "scheduler.json")]
    quiet = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL, "cwd": room}
    running = [subprocess.Popen(command, **quiet)]
    deadline = time.monotonic() + 60
    while not (room / "scheduler.json").exists() and time.monotonic() < deadline:
        time.sleep(0.1)
    for number in range(2):
        command = [sys.executable, "-m", "distributed.cli.dask_worker", "--nthreads", "1", "--no-dashboard"]
        # Workers of one host are one machine.
        command += ["--host", "127.0.0.2"] if number and sys.platform == "linux" else []
        command += ["--resources", "clock=1", "--scheduler-file", str(room / "scheduler.json")]
        running.append(subprocess.Popen(command, **quiet))
    address = None
    while address is None and time.monotonic() < deadline:
        with suppress(ValueError, KeyError):
            address = json.loads((room / "scheduler.json").read_text())["address"]
    with distributed.Client(address, set_as_default=False) as client:
        client.wait_for_workers(2, timeout=60)
    yield str(address)
    for process in running[::-1]:
        process.terminate()
    for process in running:
        process.wait(timeout=20)


def handed_in(harbour, many: int) -> None:
    harbour.study(CLASS, name="class.py")
    (harbour.folder / "beside.py").write_text("def right(rises): return max(rises)\n")
    folder = harbour.folder / "handed-in"
    folder.mkdir()
    for number in range(many):
        body = "max(rises)" if number % 4 else "min(rises)"
        (folder / f"student{number}.py").write_text(f"def best(rises): return {body}\n")


def verdicts(text: str) -> dict[str, str]:
    return {row["submission"]: row["verdict"] for row in csv.DictReader(io.StringIO(text))}


def test_a_class_is_assessed_alike_here_and_on_a_cluster(harbour, scheduler: str) -> None:
    handed_in(harbour, 4)
    here = harbour.run("assess", "class.py", "--format", "csv")
    there = harbour.run("assess", "class.py", "--format", "csv", "--on", scheduler)
    assert (here.code, there.code) == (0, 0), there.err
    assert verdicts(here.out) == verdicts(there.out)
    assert len(verdicts(there.out)) == 4
    # What was unpacked there is gone with the workers; nothing lies beside the study.
    assert {path.name for path in harbour.folder.iterdir()} >= {"class.py", "beside.py", "handed-in", "logbooks"}


def test_a_worker_that_is_killed_loses_nothing(harbour, scheduler: str) -> None:
    handed_in(harbour, 8)
    killed = threading.Event()

    def kill() -> None:
        deadline = time.monotonic() + 60
        while time.monotonic() < deadline and not killed.is_set():
            books = (
                list((harbour.folder / "logbooks").glob("*.jsonl")) if (harbour.folder / "logbooks").exists() else []
            )
            if books and books[0].read_text().count('"kind":"assessed"') >= 2:
                workers = [
                    each
                    for each in psutil.process_iter(["cmdline"])
                    if "distributed.cli.dask_worker" in " ".join(each.info["cmdline"] or [])
                ]
                children = [child for each in workers for child in each.children()]
                busy = [each for each in children if "spawn_main" in " ".join(each.cmdline())]
                if busy:
                    os.kill(busy[0].pid, signal.SIGKILL)
                    killed.set()
            time.sleep(0.05)

    thread = threading.Thread(target=kill)
    thread.start()
    done = harbour.run("assess", "class.py", "--format", "csv", "--on", scheduler)
    killed.set()
    thread.join()
    assert done.code == 0, done.err
    assert sorted(verdicts(done.out).values()) == ["correct"] * 6 + ["incorrect"] * 2, done.out


def test_an_assessment_is_gone_on_with(harbour) -> None:
    handed_in(harbour, 4)
    whole = harbour.run("assess", "class.py", "--format", "csv")
    (book,) = (harbour.folder / "logbooks").glob("*.jsonl")
    lines = book.read_text().splitlines()
    seen = [at for at, line in enumerate(lines) if '"kind":"assessed"' in line]
    (harbour.folder / "part.jsonl").write_text("\n".join(lines[: seen[2] + 1]) + "\n")
    done = harbour.run("assess", "class.py", "--format", "csv", "--resume", "part.jsonl")
    assert done.code == 0, done.err
    assert verdicts(done.out) == verdicts(whole.out)
    assert (harbour.folder / "part.jsonl").read_text().count('"kind":"assessed"') == 5


def test_worst_cases_are_found_alike_here_and_on_a_cluster(harbour, scheduler: str) -> None:
    harbour.study(STUDY)
    options = ("--metric", "comparisons", "--sizes", "6, 9, 12", "--budget", "60s")
    here = harbour.run("worst", "study.py", *options, "--keep", "here.json")
    there = harbour.run("worst", "study.py", *options, "--keep", "there.json", "--on", scheduler)
    assert (here.code, there.code) == (0, 0), there.err
    assert (harbour.folder / "here.json").read_text() == (harbour.folder / "there.json").read_text()


def test_each_machine_measures_for_itself(harbour, scheduler: str) -> None:
    harbour.study(STUDY)
    done = harbour.run("measure", "study.py", "--budget", "4s", "--out", "run.jsonl", "--on", scheduler)
    assert done.code == 0, done.err
    books = sorted(harbour.folder.glob("run-*.jsonl"))
    assert len(books) == 2
    said = " ".join(done.out.split())
    assert "depths · 2 machines" in said
    assert "built in leads on all machines" in said or "noisy" in said or "busy" in said
    for book in books:
        kinds = [json.loads(line)["kind"] for line in book.read_text().splitlines()]
        assert {"machine", "study", "trial", "close"} <= set(kinds)
    assert "2 machines" in harbour.run("across", *books).out
    assert "two logbooks at least" in harbour.run("across", books[0]).err


@pytest.mark.parametrize("address", ["tcp://127.0.0.1:1", "nonsense"])
def test_a_cluster_that_does_not_answer_is_told_in_a_line(harbour, address: str) -> None:
    harbour.study(STUDY)
    done = harbour.run("worst", "study.py", "--on", address, "--budget", "5s")
    assert done.code == 2
    assert re.search(r"no cluster answers at ", done.err)
    assert len([line for line in done.err.splitlines() if line.startswith("logarithm:")]) == 1


def test_what_a_pack_holds_and_refuses(tmp_path: Path) -> None:
    from logarithm.errors import MeasuringError
    from logarithm.executors.bundle import Pack, packed, unpacked
    from logarithm.study.files.loading import load

    (tmp_path / "helm").mkdir()
    (tmp_path / "helm" / "__init__.py").write_text("from helm.wheel import turn\n")
    (tmp_path / "helm" / "wheel.py").write_text("def turn(depths): return depths\n")
    (tmp_path / "study.py").write_text("from helm import turn\n" + STUDY)
    pack = packed(load(tmp_path / "study.py"), tmp_path / "study.py")
    assert set(pack.files) == {"study.py", "helm/__init__.py", "helm/wheel.py"}
    there = tmp_path / "there"
    assert unpacked(pack, there).read_text() == (tmp_path / "study.py").read_text()
    with pytest.raises(MeasuringError, match="leads out of the folder"):
        unpacked(Pack("a", {"../a": b""}), there)
