"""A class's submissions, and claims in continuous integration."""

from __future__ import annotations

import csv
import io
import subprocess
import sys
from xml.etree import ElementTree

CLASS = """
from logarithm import Study
study = Study("tides", sizes="8..256 *2")
@study.family
def gauge(n, rng): return [rng.randrange(-50, 51) for _ in range(n)]
@study.contender(baseline=True)
def reference(rises):
    best = total = 0
    for rise in rises:
        total = max(total + rise, 0)
        best = max(best, total)
    return best
study.submissions("handed-in/*.py", function="best", require="n log n")
"""
PASS = """
def best(rises):
    top = total = 0
    for rise in rises:
        total = max(total + rise, 0)
        top = max(top, total)
    return top
"""
PAIRS = """
def best(rises):
    days = range(len(rises))
    return max([0] + [sum(rises[i : j + 1]) for i in days for j in days])
"""
HANDED_IN = {
    "anna": PASS,
    "ben": PAIRS,
    "carl": "def best(rises):\n    return sum(rise for rise in rises if rise != 7)\n",
    "dora": PASS.replace("    top =", "    while len(rises) > 5: pass\n    top =", 1),
    "emil": "import no_such_module\n",
    "fay": "def finest(rises): return 0\n",
    "gus": "def best(rises):\n    return (rise for rise in rises)\n",
    "hal": PASS.replace("    return top", "    rises.clear()\n    return top"),
    "ida": "import os\ndef best(rises):\n    os._exit(3)\n",
    "=jo": PASS,
}


def handed_in(harbour) -> None:
    harbour.study(CLASS)
    (harbour.folder / "handed-in").mkdir()
    for name, text in HANDED_IN.items():
        (harbour.folder / "handed-in" / f"{name}.py").write_text(text)


def test_every_submission_is_told_apart_and_takes_nobody_down(harbour) -> None:
    handed_in(harbour)
    done = harbour.run("assess", "study.py", "--format", "csv", "--pages", "back")
    assert done.code == 0, done.err
    rows = {row["submission"]: row for row in csv.DictReader(io.StringIO(done.out))}
    verdicts = {name: row["verdict"] for name, row in rows.items()}
    assert verdicts == {
        **{"anna": "correct", "ben": "correct", "hal": "correct", "'=jo": "correct"},
        **{"carl": "incorrect", "gus": "incorrect", "dora": "fails", "ida": "fails", "emil": "broken", "fay": "broken"},
    }
    assert (rows["anna"]["gauge"], rows["anna"]["required order"]) == ("n", "meets")
    assert rows["ben"]["required order"] == "exceeds"
    assert float(rows["anna"]["steps"]) == 1.0
    assert 0.2 < float(rows["anna"]["time"]) < 5
    assert "answers -" in rows["carl"]["detail"] or "answers 0 to [7], where 7 is right" in rows["carl"]["detail"]
    assert "timeout" in rows["dora"]["detail"]
    assert "no_such_module" in rows["emil"]["detail"]
    assert "no function 'best'" in rows["fay"]["detail"]
    assert str(harbour.folder) not in done.out
    assert "changes its input" in rows["hal"]["detail"]
    pages = sorted(path.name for path in (harbour.folder / "back").iterdir())
    assert len(pages) == len(HANDED_IN) + 1  # and that of the class
    assert "It grows faster than asked" in (harbour.folder / "back" / "ben.html").read_text()
    assert harbour.run("assess", "study.py", "--pages", "back").code == 2
    assert ">incorrect</span>" in (harbour.folder / "back" / "class.html").read_text()


def test_a_class_needs_files_and_a_reference(harbour) -> None:
    harbour.study(CLASS)
    assert "nothing was handed in" in harbour.run("assess", "study.py").err
    harbour.study()
    told = harbour.run("assess", "study.py")
    assert (told.code, told.err.count("\n")) == (2, 1)
    assert "study.submissions(" in told.err


CLAIMS = """
from logarithm import Study
study = Study("claims", sizes="16..512 *2")
@study.family
def levels(n, rng): return [rng.random() for _ in range(n)]
@study.contender(claim={"comparisons": "n - 1", "steps": "CLAIM"})
def deepest(levels):
    best = levels[0]
    for at in range(1, len(levels)):
        if levels[at] > best: best = levels[at]
    return best
study.count("comparisons", "steps")
"""


def test_claims_in_continuous_integration(harbour) -> None:
    harbour.study(CLAIMS.replace("CLAIM", "n"))
    good = harbour.run("verify", "study.py", "--budget", "20s", "--junit", "good.xml")
    assert good.code == 0, good.err
    suite = ElementTree.parse(harbour.folder / "good.xml").getroot()[0]
    assert (suite.get("tests"), suite.get("failures")) == ("2", "0")
    harbour.study(CLAIMS.replace("CLAIM", "n^2"))
    slow = harbour.run("verify", "study.py", "--budget", "20s")
    assert (slow.code, "slower" in slow.out) == (0, True)
    assert harbour.run("verify", "--strict").code == 1
    harbour.study(CLAIMS.replace("CLAIM", "log n"))
    bad = harbour.run("verify", "study.py", "--budget", "30s", "--junit", "bad.xml")
    assert bad.code == 1
    assert "measured again, before it is believed: deepest" in bad.err
    suite = ElementTree.parse(harbour.folder / "bad.xml").getroot()[0]
    (failure,) = suite.iter("failure")
    assert "exit code 1: log n of deepest on levels, steps is contradicted" in bad.err
    assert "log n is contradicted; found n" in failure.get("message", "")
    assert harbour.run("verify", "study.py", "--junit", "bad.xml").code == 2  # nothing is overwritten unasked


def test_names_that_are_nearly_right_are_guessed(harbour) -> None:
    harbour.study()
    assert "did you mean 'add_up'?" in harbour.run("measure", "study.py", "--only", "add_upp").err
    assert "'measure'" in harbour.run("mesure", "study.py").err


AGAIN = """
from pathlib import Path
from logarithm.study.files.loading import load
if __name__ == "__main__":
    (logbook,) = Path("logbooks").glob("*.jsonl")
    seen = load(Path("class.py")).assess(resume=logbook, trusted=True, quiet=True)
    seen.pages("again")
    assert seen.to_frame()["required order"].tolist() == ["exceeds"]
    print(seen)
"""


def test_a_class_is_drafted_with_its_page_and_its_marks(harbour) -> None:
    assert harbour.run("draft", "class.py", "--about", "class").code == 0
    assert "def highest(rises" in (harbour.folder / "for-students.md").read_text()
    done = harbour.run("assess", "class.py", "--format", "csv", "--pages", "back", "--trusted")
    assert done.code == 0, done.err
    (row,) = csv.DictReader(io.StringIO(done.out))
    assert (row["verdict"], row["required order"], row["marks"]) == ("correct", "exceeds", "8")
    page = (harbour.folder / "back" / "example.html").read_text()
    for told in ("How high is the highest swell", "asked for: n log n", "grows faster than asked", "marks: 8 of 13"):
        assert told in page
    assert harbour.run("draft", "class.py", "--about", "class").code == 2
    # The same from Python; what was looked at is not looked at again.
    (harbour.folder / "again.py").write_text(AGAIN)
    again = subprocess.run([sys.executable, "again.py"], cwd=harbour.folder, capture_output=True, text=True, timeout=60)
    assert again.returncode == 0, again.stderr
    assert "1 submission: 1 correct; 1 grows faster than asked" in again.stdout
    assert (harbour.folder / "again" / "example.html").exists()
