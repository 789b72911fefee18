"""What is at fault in an exercise stops with file and line before anyone is judged; and who is judged how."""

from __future__ import annotations

import csv
import io
import os
import re
import shutil
import sys

import pytest

STUDY = """
from logarithm import Study
study = Study("swell", sizes="8..64 *2")
@study.family
def calm(n, rng):
    return [rng.randrange(-50, 51) for _ in range(n)]
@study.family
def rough(n, rng):
    return [rng.randrange(-500, 501) for _ in range(n)]
@study.contender(baseline=True)
def reference(rises):
    best = total = 0
    for rise in rises:
        total = max(total + rise, 0)
        best = max(best, total)
    return best
study.submissions("handed-in/*.py", function="best", require="n log n", marks={"right": 5, "order": 3, "time": (2, 3)})
"""
REFEREE = "@study.referee\ndef is_best(rises, answer):\n    "
PASS = """
def best(rises):
    top = total = 0
    for rise in rises:
        total = max(total + rise, 0)
        top = max(top, total)
    return top
"""
FAULTS = {
    "a name that is not there": ("best = total = 0", "best = totl", r"reference raises NameError.*\(study\.py:1\d\)"),
    "a family that raises": (
        "rng.randrange(-500, 501)",
        "rng.randrange(501, -500)",
        r"'rough' fails at n.*study\.py:9",
    ),
    "a family that raises at one size": (
        "    return [rng.randrange(-500",
        "    assert n < 50\n    return [rng.randrange(-500",
        r"'rough' fails at n.*AssertionError.*study\.py:9",
    ),
    "a family without an instance": (
        "    return [rng.randrange(-500",
        "    [rng.randrange(-500",
        "returns nothing at n",
    ),
    "a family with chance of its own": (
        "rng.randrange(-500, 501)",
        "__import__('random').randrange(501)",
        r"study\.py:7: the family 'rough' makes two different",
    ),
    "a reference that fails on some": (
        "best = total = 0",
        "best = total = 0\n    if len(rises) > 50: rises[900]",
        "IndexError",
    ),
    "a reference that is slow": (
        "best = total = 0",
        "import time; time.sleep(1.2 * (len(rises) > 50)); best = total = 0",
        r"study\.py:10: the reference takes 1\.2 s at n",
    ),
    "a reference that answers otherwise": (
        "    return best\n",
        "    import random\n    return best + random.random()\n",
        r"study\.py:10: the reference answers .* and then",
    ),
    "a reference that grows too fast": (
        "    return best\n",
        "    for _ in range(len(rises)):\n        for _ in range(len(rises)): pass\n    return best\n",
        r"study\.py:10: the reference's own work grows as n\^2",
    ),
    "a referee that raises": (
        "study.submissions",
        REFEREE + "return answer['best']\nstudy.submissions",
        r"referee raises on a right answer.*study\.py:\d\d",
    ),
    "a referee that refuses": (
        "study.submissions",
        REFEREE + "return answer > 9000\nstudy.submissions",
        r"study\.py:\d\d: the referee refuses the reference's own answer",
    ),
    "a function called otherwise": (
        'function="best"',
        'function="highest"',
        r"study\.py:17: the one file has no function 'highest'",
    ),
}


@pytest.mark.parametrize("name", FAULTS)
def test_a_fault_of_the_instructor_stops_with_file_and_line(harbour, name: str) -> None:
    old, new, told = FAULTS[name]
    assert old in STUDY
    harbour.study(STUDY.replace(old, new, 1))
    (harbour.folder / "handed-in").mkdir()
    (harbour.folder / "handed-in" / "anna.py").write_text(PASS)
    done = harbour.run("assess", "study.py")
    assert done.code == 2, done.out + done.err
    last = done.err.splitlines()[-1]
    assert re.search(told, last), last
    assert "study.py" in last
    assert not list((harbour.folder / "logbooks").glob("*.jsonl"))


@pytest.mark.skipif(sys.platform != "linux", reason="links and pipes in a folder are those of Linux")
def test_marks_edges_and_files_that_are_none(harbour) -> None:
    harbour.study(STUDY)
    folder = harbour.folder / "handed-in"
    folder.mkdir()
    texts = {
        "anna": PASS,
        "Dörte": PASS + "\n\n",
        "edge": PASS.replace("top = total = 0", "top = total = 0\n    rises[0]"),
        "deep": "def best(rises):\n    def go(at, total, top):\n        if at == len(rises): return top\n"
        "        total = max(total + rises[at], 0)\n        return go(at + 1, total, max(top, total))\n"
        "    return go(0, 0, 0)\n",
        "ends": PASS.replace(
            "    top = total = 0", "    if len(rises) > 100: raise RecursionError\n    top = total = 0"
        ),
        "often": PASS.replace("    return top", "    calls.append(1)\n    return top + (len(calls) > 300)")
        + "calls = []\n",
        "pool": "from concurrent.futures import ProcessPoolExecutor\n"
        + PASS.replace("def best", "def one")
        + "pool = None\ndef best(rises):\n    global pool\n    pool = pool or ProcessPoolExecutor(1)\n"
        "    return pool.submit(one, rises).result()\n",
        "keys": "import ctypes\nasked = ctypes.CDLL(None).syscall\n"
        + PASS.replace(
            "    return top", "    assert asked(250, 0, -3, 0) < 0 and asked(319, b'x', 0) < 0\n    return top"
        ),
    }
    for name, text in texts.items():
        (folder / f"{name}.py").write_text(text)
    (folder / "link.py").symlink_to("anna.py")
    os.mkfifo(folder / "pipe.py")
    (folder / "large.py").write_text("#" * (2**20 + 1))
    (folder / "e20.PY").write_text(PASS)
    (folder / "bo\u202e.py").write_text("def best(rises): raise ValueError(';=1+2')\n")
    done = harbour.run("assess", "study.py", "--format", "csv")
    assert done.code == 0, done.err
    assert done.out.startswith('"submission","verdict"')
    rows = {row["submission"]: row for row in csv.DictReader(io.StringIO(done.out))}
    assert next(iter(rows)) == "anna" and list(rows).index("Dörte") < list(rows).index("edge")
    assert rows["anna"]["marks"] == rows["Dörte"]["marks"] == "10", done.out
    assert "n = 0" in rows["edge"]["detail"] and "for example with []" in rows["edge"]["detail"]
    assert rows["deep"]["required order"] == "meets", done.out
    assert rows["pool"]["verdict"] == "correct" and rows["pool"]["required order"] in ("meets", "open"), done.out
    assert rows["ends"]["verdict"] == "fails" and "RecursionError" in rows["ends"]["detail"]
    assert rows["often"]["verdict"] == "incorrect" and "answers" in rows["often"]["detail"]
    assert {rows[name]["verdict"] for name in ("link", "pipe", "large")} == {"broken"}
    assert rows["keys"]["verdict"] == "correct", rows["keys"]
    assert "bo\ufffd" in rows and ";'=1+2" in rows["bo\ufffd"]["detail"]
    assert "not assessed: e20.PY" in done.err


CASES = (
    STUDY.partition("study.submissions")[0].replace("8..64", "8..32")
    + """
study.case("nothing at all", [], answer=0, marks=2, shown=True)
study.case("one fall", [-3], marks=1)
study.submissions("handed-in/*.py", function="best", require="n log n",
    marks={"right": 10, "order": 3, "input": 1, "silent": 1}, imports=["math"])
"""
)


def test_cases_rules_and_what_students_get(harbour) -> None:
    harbour.study(CASES)
    folder = harbour.folder / "handed-in"
    folder.mkdir()
    texts = {
        "anna": PASS,
        "edge": PASS.replace("top = total = 0", "top = total = 0\n    rises[0]"),
        "half": PASS.replace("return top", "return top if top < 60 * len(rises) else 0"),
        "loud": PASS.replace("    return top", "    print(top)\n    rises.clear()\n    return top"),
        "rule": "import subprocess\n" + PASS,
    }
    for name, text in texts.items():
        (folder / f"{name}.py").write_text(text)
    done = harbour.run("assess", "study.py", "--format", "csv", "--pages", "back")
    assert done.code == 0, done.err
    rows = {row["submission"]: row for row in csv.DictReader(io.StringIO(done.out))}
    assert {name: row["marks"] for name, row in rows.items()} == {
        "anna": "18",
        "edge": "1",
        "half": "8",
        "loud": "16",
        "rule": "0",
    }, done.out
    assert rows["edge"]["cases"] == "1 of 2" and rows["rule"]["verdict"] == "not allowed"
    page = (harbour.folder / "back" / "class.html").read_text()
    assert 'href="anna.html"' in page and "wrong (3)" in page
    assert "marks: 8 of 18" in (harbour.folder / "back" / "half.html").read_text()
    assert harbour.run("assess", "study.py", "--hand-out", "out").code == 0
    given = (harbour.folder / "out" / "exercise.json").read_text()
    assert "nothing at all" in given and "one fall" not in given and "max(total" not in given
    assert "1 further case that you do not see" in (harbour.folder / "out" / "exercise.md").read_text()
    assert "exists" in harbour.run("assess", "study.py", "--hand-out", "out").err
    seen = {
        name: harbour.run("check", f"handed-in/{name}.py", "--exercise", "out/exercise.json")
        for name in ("anna", "edge", "rule")
    }
    assert {name: each.code for name, each in seen.items()} == {"anna": 0, "edge": 1, "rule": 1}
    assert "nothing at all: IndexError" in seen["edge"].out and "within what is asked" in seen["anna"].out
    assert "1 further case" in seen["anna"].out
    assert "there is no such exercise" in harbour.run("check", "handed-in/anna.py").err
    harbour.study(CASES.replace("answer=0", "answer=1"))
    assert re.search(
        r"study\.py:\d+: the case 'nothing at all' has the answer 1", harbour.run("assess", "study.py").err
    )


def test_names_come_from_a_table(harbour) -> None:
    harbour.study(STUDY.replace('require="n log n"', 'names="names.csv"').replace("8..64", "8..16"))
    folder = harbour.folder / "handed-in"
    folder.mkdir()
    for name in ("a1", "a2", "b"):
        (folder / f"{name}.py").write_text(PASS)
    table = harbour.folder / "names.csv"
    table.write_text("file,name,late\na1.py,Anna and Bo,\na2.py,Anna and Bo,\nb.py,Cem,2 days\n")
    done = harbour.run("assess", "study.py", "--format", "csv")
    assert [row["submission"] for row in csv.DictReader(io.StringIO(done.out))] == ["Anna and Bo", "Cem"]
    assert "late: Cem (2 days)" in done.err and "a1.py: a2.py was handed in later" in done.err
    table.write_text("who\nb.py\n")
    assert "has the columns file, name" in harbour.run("assess", "study.py").err


SEVERAL = """
from logarithm import Study
study = Study("harbour-day", sizes="4..64 *4")
@study.family
def tides(n, rng): return [rng.randrange(900) for _ in range(n)]
@study.family
def day(n, rng): return [("announce", rng.randrange(99)) for _ in range(n)] + [("next",)] * (n // 2)
@study.contender(baseline=True, families=["tides"])
def highest_of(heights): return max(heights, default=0)
@study.contender(families=["day"])
def due_of(calls):
    waiting, answers = [], []
    for name, *given in calls:
        waiting = sorted([*waiting, *given])
        answers.append(waiting.pop(0) if name == "next" else None)
    return answers
study.case("none", [], answer=0, marks=1, shown=True, function="highest")
study.submissions("in/*.*", function="highest", families=["tides"], require="n", marks={"right": 3, "order": 1})
study.submissions("in/*.py", function="DueNext", reference="due_of", operations=["announce", "next"], families=["day"],
                  marks={"right": 4})
"""
ANNA = """
from heapq import heappush, heappop
def highest(heights): return max(heights, default=0)
class DueNext:
    def __init__(self): self.times = []
    def announce(self, time): heappush(self.times, time)
    def next(self): return heappop(self.times)
"""
OTHERS = {
    "cy.c": (
        "cc",
        """#include <stddef.h>
long highest(const long *h, size_t n) { long best = 0; while (n--) best = h[n] > best ? h[n] : best; return best; }
""",
    ),
    "lies.js": (
        "node",
        "const own = JSON.parse; JSON.parse = (t) => { const v = own(t); v.most = Math.max(...v, 0); return v; };\n"
        "function highest(heights) { return heights.most; }\n",
    ),
    "di.js": ("node", "function highest(heights) { return heights[0]; }\n"),
    "ed.java": (
        "javac",
        "class E { static long highest(long[] h) { long b = 0; for (long x : h) b = Math.max(b, x); return b; } }\n",
    ),
}


def test_several_functions_a_class_and_other_languages(harbour) -> None:
    harbour.study(SEVERAL)
    (harbour.folder / "in").mkdir()
    (harbour.folder / "in" / "anna.py").write_text(ANNA)
    (harbour.folder / "in" / "bo.py").write_text(ANNA.replace("heappop(self.times)", "self.times.pop()"))
    there = {name: text for name, (tool, text) in OTHERS.items() if shutil.which(tool)}
    for name, text in there.items():
        (harbour.folder / "in" / name).write_text(text)
    done = harbour.run("assess", "study.py", "--format", "json", "--hand-out", "out")
    assert done.code == 0, done.err
    done = harbour.run("assess", "study.py", "--format", "json")
    rows = {row["name"]: row for row in done.json["rows"]}
    verdicts = {name: row["verdict"] for name, row in rows.items()}
    right = {
        "anna: highest": "correct",
        "anna: DueNext": "correct",
        "bo: highest": "correct",
        "bo: DueNext": "incorrect",
    }
    right |= {"cy: highest": "correct"} if "cy.c" in there else {}
    right |= {"di: highest": "incorrect", "lies: highest": "incorrect"} if "di.js" in there else {}
    right |= {"ed: highest": "correct"} if "ed.java" in there else {}
    assert verdicts == right
    assert (rows["anna: highest"]["marks"], rows["anna: DueNext"]["marks"], rows["bo: DueNext"]["marks"]) == (5, 4, 0)
    told = rows["cy: highest"] if "cy.c" in there else {"requirement": "open", "traps": ["written in C"]}
    assert told["requirement"] in ("open", "meets") and "written in C" in " ".join(told["traps"])
    shown = (harbour.folder / "out" / "exercise.md").read_text()
    assert "The class DueNext, made without arguments, with the methods announce and next." in shown
    mine = harbour.folder / "out" / "mine.py"
    mine.write_text(ANNA.replace("def next", "def following"))
    checked = harbour.run("check", "out/mine.py", "--exercise", "out/exercise.json")
    assert "DueNext has no method 'next'" in checked.out
