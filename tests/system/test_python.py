"""Everything from Python: a script, a notebook's cells, findings as tables and figures, expectations in tests."""

from __future__ import annotations

import json
import linecache
import os
import subprocess
import sys
from pathlib import Path

import pytest

from logarithm import Study, expect_faster, read_logbook
from logarithm.errors import LogarithmError, StudyError
from logarithm.study.files.cells import written_down

DOCS = Path(__file__).parents[2] / "docs"
SCRIPT = """
from logarithm import Study, contrast
study = Study("tide-gauge", sizes="8..64 *2")
@study.family
def rising(n, rng): return [rng.random() for _ in range(n)]
@study.contender(claim="n", baseline=True)
def add_up(levels): return sum(levels)
@study.contender
def again_and_again(levels):
    for _ in levels: total = sum(levels)
    return total
"""
GUARDED = """
if __name__ == "__main__":
    print(study.rehearse("8..32 *2"))
    found = study.measure(budget="5s", out="one.jsonl")
    print(found)
    assert list(found.to_frame()["contender"]) == ["add_up", "again_and_again"]
    assert len(found.to_frame("costs")) >= 8
    assert [*found.to_frame("standings").columns][:2] == ["family", "metric"]
    assert "value" in found.forecast(at=500).to_frame()
    found.plot("growth").savefig("growth.png")
    found.page("page.html")
    study.measure(budget="2s", out="two.jsonl", only="add_up", ceiling="1s", quiet=True)
    print(contrast("one.jsonl", "two.jsonl", anyway=True).to_frame()["contender"].tolist())
"""


SEARCHED = """
from logarithm import Study, across, import_table, race
study = Study("tide-marks", sizes="8..64 *2")
@study.family
def rising(n, rng): return sorted(rng.random() for _ in range(n))
@study.family
def mixed(n, rng): return [rng.random() for _ in range(n)]
@study.contender(claim="n", baseline=True)
def highest(levels): return max(levels)
@study.contender(claim={"mixed": "n^2"})
def by_hand(levels):
    top = levels[0]
    for level in levels:
        if level > top: top = level
    return top
if __name__ == "__main__":
    worst = study.worst("4s", only="by_hand", sizes="8..16", quiet=True)
    worst.keep("worst.json"); worst.plot().savefig("worst.png")
    assert worst.to_frame()["contender"].tolist() == ["by_hand", "by_hand"], worst
    walk = study.walk("by_hand", 4, family="mixed")
    walk.page("walk.html"); walk.plot().savefig("walk.png")
    assert len(walk.events) > 4 and "read levels[0]" in str(walk)
    verdicts = study.verify("4s", only="by_hand", quiet=True)
    assert [each.contender for each in verdicts] == ["by_hand"] and "verdict" in verdicts.to_frame()
    found = study.measure("8s", out="one.jsonl", quiet=True)
    assert study.measure("10s", resume="one.jsonl", quiet=True).run.trials >= found.run.trials
    assert "highest over by hand" in str(found.crossover("highest", "by_hand", family="mixed"))
    assert "candidates" in str(found.growth_in_depth("highest"))
    assert "How many times as fast" in str(found.report("ratios"))
    assert {"size", "family", "heat", "highest", "by_hand"} <= set(found.logbook().to_frame(wide=True))
    table = found.logbook().to_frame()
    timed = table[(table["metric"] == "time") & (table["heat"] > 0)]
    again = import_table(timed.drop(columns=["stage", "process"]), out="table.jsonl")
    assert set(again.to_frame()["contender"]) == {"highest", "by_hand"}
    assert set(across("one.jsonl", "one.jsonl").findings) == {"one"}
    raced = race(max, highest, family="decimals", sizes="8..32 *2", budget="4s", quiet=True)
    assert raced.study.reference == "max"
"""


def script(folder: Path, text: str) -> subprocess.CompletedProcess[str]:
    (folder / "script.py").write_text(text)
    env = {**os.environ, "MPLBACKEND": "agg"}
    return subprocess.run(
        [sys.executable, "script.py"], cwd=folder, capture_output=True, text=True, timeout=110, env=env
    )


def test_a_script_measures_its_own_study(tmp_path: Path) -> None:
    done = script(tmp_path, SCRIPT + GUARDED)
    assert done.returncode == 0, done.stderr
    for told in ("The answers agree", "grows as", "add up", "['add_up']"):
        assert told in done.stdout
    assert {"one.jsonl", "two.jsonl", "growth.png", "page.html"} <= {each.name for each in tmp_path.iterdir()}
    unguarded = script(tmp_path, SCRIPT + 'study.measure(budget="2s")\n')
    assert 'must stand under if __name__ == "__main__"' in unguarded.stderr


def test_searching_walking_verifying_and_comparing_from_python(tmp_path: Path) -> None:
    done = script(tmp_path, SEARCHED)
    assert done.returncode == 0, done.stderr
    written = {each.name for each in tmp_path.iterdir()}
    assert {"worst.json", "worst.png", "walk.html", "walk.png", "table.jsonl"} <= written


def test_the_notebook_of_the_docs_runs(tmp_path: Path) -> None:
    cells = json.loads((DOCS / "notebook.ipynb").read_text(encoding="utf-8"))["cells"]
    runner = [
        "import linecache, types, sys",
        "main = types.ModuleType('__main__'); sys.modules['__main__'] = main",
        "def run(number, text):",
        "    name = f'<cell {number}>'",
        "    linecache.cache[name] = (len(text), None, text.splitlines(True), name)",
        "    exec(compile(text, name, 'exec'), main.__dict__)",
        *(f"run({at}, {''.join(c['source'])!r})" for at, c in enumerate(cells) if c["cell_type"] == "code"),
        "sys.stdout.write(main.found._repr_html_()[:400])",
        "sys.stdout.write(main.walked._repr_html_())",
        "sys.stdout.write(str(main.found.plot('ratio')._repr_png_()[:4]))",
        "try: main.study.measure(only=['by_lop'])",
        "except Exception as error: sys.stdout.write(str(error._render_traceback_()))",
    ]
    done = script(tmp_path, "\n".join(runner))
    assert done.returncode == 0, done.stderr
    assert "The answers agree" in done.stdout
    assert "high-water" in done.stdout
    assert done.stdout.count("<svg") == 1 and "PNG" in done.stdout  # a walk and a figure show themselves
    assert " of module: " in done.stdout and "did you mean 'by_loop'?" in done.stdout
    assert (tmp_path / "high-water.html").exists()


def celled(text: str) -> Study:
    """The study of a cell."""
    name = f"<cell {abs(hash(text))}>"
    linecache.cache[name] = (len(text), None, text.splitlines(True), name)
    around: dict[str, object] = {"__name__": "__main__"}
    exec(compile(text, name, "exec"), around)
    return next(value for value in around.values() if isinstance(value, Study))


CELL = """
import math
from logarithm import Study, families, keeps
FAR = [1, 2.5, ("pier", None)]
def helper(x): return math.floor(x * FAR[0])
study = Study("cells", sizes="8..64 *2")
study.family(families.decimals)
@study.family(keeps=keeps.rising)
def rising(n, rng): return list(range(n))
@study.contender(claim="n", levels={"step": [1, 2]})
def by_hand(levels, step): return sum(helper(level) * step for level in levels)
@study.referee
def is_right(instance, answer): return answer >= 0
"""


def test_what_was_handed_in_goes_along_with_a_cell(tmp_path: Path) -> None:
    (tmp_path / "abel.py").write_text("def top(levels): return max(levels)\n")
    text = written_down(celled(CELL + f'study.submissions("{tmp_path}/*.py", function="top", require="n")'))
    around: dict[str, object] = {}
    exec(compile(text, "written.py", "exec"), around)
    again = around["study"]
    assert isinstance(again, Study)
    assert (again.contenders[-1].name, again.contenders[-1].require) == ("abel", "n")
    assert (
        again.contenders[-1].source
        == celled(CELL + f'study.submissions("{tmp_path}/*.py", function="top")').contenders[-1].source
    )


def test_cells_are_written_down_as_a_file_that_defines_the_same(tmp_path: Path) -> None:
    study = celled(CELL)
    around: dict[str, object] = {}
    exec(compile(written_down(study), "written.py", "exec"), around)
    again = around["study"]
    assert isinstance(again, Study)
    assert [each.name for each in again.contenders] == [each.name for each in study.contenders]
    assert [each.name for each in again.families] == ["decimals", "rising"]
    assert again.contenders[1].code([1.5, 2.5], **again.contenders[1].values) == 6
    assert again.families[0].instance(8, 1) == study.families[0].instance(8, 1)
    assert again.contenders[0].claim("rising", None) == "n"
    marked = celled(
        "from logarithm import Study\nstudy = Study('marked')\n_ = open\n"  # what a notebook showed last
        "@study.family\ndef watch(n, rng): return {'holds': [0 for _ in range(n)]}\n"
        "@study.contender\nclass Log:\n    def build(self, entries): self.entries = entries\n"
        "    @study.operation\n    def add(self):\n        for _ in range(2): self.entries.append(1)\n"
    )
    exec(compile(written_down(marked), "written.py", "exec"), around)
    found = around["study"]
    assert isinstance(found, Study) and found.contenders[0].options.operations == ("add",)
    told = CELL.replace('FAR = [1, 2.5, ("pier", None)]', "FAR = [open]")
    with pytest.raises(StudyError, match="'FAR' is a list, which cannot go along"):
        written_down(celled(told))


def test_what_python_users_get_wrong_is_told(tmp_path: Path) -> None:
    study = Study("tide", sizes="8..64 *2")
    study.family(lambda n, rng: [n], name="calm")
    study.contender(len)
    with pytest.raises(StudyError, match="a run has no option 'budgets': there are ceiling"):
        study.measure(budgets="3s")
    with pytest.raises(LogarithmError, match="there is no such logbook"):
        read_logbook("none.jsonl")


def ends(levels):
    low = high = levels[0]
    for level in levels:
        low, high = min(low, level), max(high, level)
    return high - low


def all_pairs(levels):
    return max(abs(one - other) for one in levels for other in levels)


def test_one_function_is_expected_to_be_faster_from_a_size_on() -> None:
    def levels(n, rng):
        return [rng.random() for _ in range(n)]

    expect_faster(ends, all_pairs, levels, since=16, until=64)
    with pytest.raises(AssertionError, match=r"all_pairs: work = \d+ at n = 16, ends: \d+; fewer expected from 16 on"):
        expect_faster(all_pairs, ends, levels, since=16, until=64)
    with pytest.raises(StudyError, match="done in compiled code, which is not counted"):
        expect_faster(max, ends, levels, since=16, until=64, metric="steps")
    expect_faster(max, ends, levels, since=16, until=64)
