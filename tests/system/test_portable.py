"""Systems that lack what Linux has: modules, signals, calls and files are hidden, and everything still works."""

from __future__ import annotations

import csv
import io
import sys
from functools import partial

import pytest

HIDING = """
import builtins, io, os, signal, sys
brought = builtins.__import__

def without(name, globals=None, *more, **named):
    if name in ("resource", "fcntl") and (globals or {}).get("__name__", "").startswith("logarithm"):
        raise ModuleNotFoundError(name)
    return brought(name, globals, *more, **named)

builtins.__import__ = without
for module, names in ((os, ("killpg", "wait4", "waitid", "sched_setaffinity", "sched_getaffinity", "setsid", "fork",
                            "getpgid", "geteuid")), (signal, ("SIGSTOP", "SIGCONT", "SIGUSR1"))):
    for name in names:
        if hasattr(module, name):
            delattr(module, name)

def ours(path):
    if not str(path).startswith("/proc"):
        return False
    frame, names = sys._getframe(2), []
    while frame is not None:
        names.append(frame.f_globals.get("__name__", ""))
        frame = frame.f_back
    nearest = next((name for name in names if name.startswith(("logarithm", "psutil"))), "")
    return nearest.startswith("logarithm")

def hidden(call):
    def called(path, *more, **named):
        if ours(path):
            raise FileNotFoundError(2, "No such file or directory", path)
        return call(path, *more, **named)
    return called

builtins.open = io.open = hidden(open)
os.scandir = hidden(os.scandir)
"""


STUDY = """
from logarithm import Study
study = Study("tide-gauge", sizes="8..64 *2")
@study.family(format="lines")
def rising(n, rng): return [rng.random() for _ in range(n)]
@study.contender(baseline=True)
def add_up(levels): return sum(levels)
study.agree(within=1e-9)
"""


@pytest.fixture
def elsewhere(harbour):
    (harbour.folder / "sitecustomize.py").write_text(HIDING)
    return harbour, partial(harbour.run, PYTHONPATH=str(harbour.folder))


def test_measuring_and_reporting(elsewhere) -> None:
    harbour, run = elsewhere
    command = [sys.executable, "-c", "import sys; print(sum(map(float, open(sys.argv[1]))))", "{file}"]
    harbour.study(STUDY, f'study.program("summed elsewhere", command={command!r})\n')
    done = run("measure", "study.py", "--budget", "6s", "--out", "run.jsonl")
    assert done.code == 0, done.err
    assert "add up" in done.out
    assert "summed elsewhere" in done.out
    assert "Failures" not in done.out
    assert run("report", "run.jsonl").code == 0
    assert run("rehearse", "study.py").code == 0


def test_assessing_asks_for_trust(elsewhere) -> None:
    harbour, run = elsewhere
    harbour.study(STUDY, 'study.submissions("handed-in/*.py", function="high", require="n")\n')
    (harbour.folder / "handed-in").mkdir()
    (harbour.folder / "handed-in" / "anna.py").write_text("def high(levels): return sum(levels)\n")
    (harbour.folder / "handed-in" / "loop.py").write_text("def high(levels):\n    while True: pass\n")
    told = run("assess", "study.py")
    assert (told.code, "say --trusted" in told.err) == (2, True), told.err
    done = run("assess", "study.py", "--trusted", "--format", "csv")
    rows = {row["submission"]: row["verdict"] for row in csv.DictReader(io.StringIO(done.out))}
    assert rows == {"anna": "correct", "loop": "fails"}, done.out + done.err
