"""Where things end: what is refused, what is left out, what is gone on with, each in one clear line."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from logarithm import Study, families
from logarithm.demos import DEMOS
from logarithm.drafts import OTHERS, STUDIES, draft_of
from logarithm.errors import LogarithmError, StudyError
from logarithm.logbook.reading import read_logbook, read_trials
from logarithm.logbook.records import ContenderRecord, FamilyRecord, Header, StudyRecord, Trial
from logarithm.logbook.writing import write_logbook
from logarithm.notation.metrics import metric_of
from logarithm.report.present import rendered
from logarithm.run.counters.counts import metrics_of, wanted
from logarithm.run.plan.settings import Settings
from logarithm.run.plan.track import tracks
from logarithm.statistics.analysis import Analysis
from logarithm.study.files.loading import load

MADE = [8, 16, 32, 64, 128]


def logbook(folder: Path, name: str = "run.jsonl", **laws: float) -> Path:
    """A logbook of made-up trials: for each contender a power of the size, in nanoseconds, in five heats."""
    trials = [
        Trial(contender=who, family="bay", size=n, heat=heat, elapsed=100 * n**power * (1 + heat / 1000))
        for heat in range(1, 6)
        for who, power in laws.items()
        for n in MADE
    ]
    path = folder / name
    write_logbook(path, [Header(), StudyRecord(name="tide"), *trials])
    return path


# --- what ships -------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("demo", DEMOS, ids=lambda demo: demo.name)
def test_the_contenders_of_every_demo_agree(harbour, demo) -> None:
    done = harbour.run("rehearse", demo.file, "--sizes", "4, 8, 16, 32", "--ceiling", "2s", "--budget", "20s")
    assert done.code == 0, done.err + done.out
    assert "The answers agree" in done.out
    assert "Traps" not in done.out


@pytest.mark.parametrize("about", [about for about in STUDIES if about not in ("worker", "class")])
def test_a_drafted_study_makes_claims_and_has_no_traps(harbour, about: str) -> None:
    assert harbour.run("draft", "mine.py", "--about", about).code == 0
    loaded = load(harbour.folder / "mine.py")
    assert any(contender.options.claims for contender in loaded.contenders)
    assert all(family.doc for family in loaded.families)
    assert "logarithm measure mine.py" in (harbour.folder / "mine.py").read_text()


@pytest.mark.parametrize("ending", OTHERS)
def test_a_draft_names_itself(ending: str) -> None:
    made = draft_of(Path(f"North Sea{ending}"))
    assert "{name}" not in made
    assert "{class}" not in made
    assert f"North Sea{ending}" in made or ending in (".rs", ".csv")


def test_what_cannot_be_drafted_is_told(harbour) -> None:
    assert "the ending of the name says what to write" in harbour.run("draft", "mine.txt").err
    assert "no draft is about 'fog'" in harbour.run("draft", "mine.py", "--about", "fog").err
    with pytest.raises(LogarithmError):
        draft_of(Path("mine"))


# --- reports and figures ----------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("arguments", "told"),
    [
        (("report", "--section", "poem"), "a report has no section 'poem'"),
        (("plot", "--view", "ratio", "--out", "x.gif"), "a figure is a PNG, SVG or PDF"),
        (("plot", "--view", "spread", "--at", "9", "--out", "x.png"), "no trials at that size"),
        (("plot", "--at", "soon", "--out", "x.png"), "is not a size"),
        (("plot", "--family", "bey", "--out", "x.png"), "did you mean 'bay'?"),
        (("crossover", "nobody"), "has no contender 'nobody'"),
        (("growth", "--family", "nowhere"), "has no family 'nowhere'"),
        (("forecast",), "say either --at SIZE"),
        (("forecast", "--at", "-1"), "is not a size"),
        (("contrast", "run.jsonl", "sunk.jsonl"), "there is no such logbook"),
        (("report", "study.py"), "is not a logbook"),
        (("verify",), "no contender makes a claim"),
        (("verify", "nobody"), "has no contender 'nobody'"),
        (("verify", "--family", "nowhere"), "has no family 'nowhere'"),
        (("contrast", "run.jsonl", "run.jsonl", "--family", "nowhere"), "has no family 'nowhere'"),
        (("contrast", "run.jsonl", "run.jsonl", "nobody"), "has no contender 'nobody'"),
        (("contrast", "run.jsonl"), "name two logbooks at least"),
        (("across", "run.jsonl", "run.jsonl", "nobody"), "has no contender 'nobody'"),
        (("across", "run.jsonl", "run.jsonl", "--family", "nowhere"), "has no family 'nowhere'"),
        (("export", "--family", "nowhere"), "has no family 'nowhere'"),
    ],
)
def test_what_cannot_be_shown_is_told_in_one_line(harbour, arguments: tuple[str, ...], told: str) -> None:
    (harbour.folder / "logbooks").mkdir()
    harbour.study()
    path = logbook(harbour.folder / "logbooks", slow=2.0, quick=1.0)
    shutil.copy(path, harbour.folder / "run.jsonl")
    done = harbour.run(*arguments)
    assert (done.code, done.err.count("\n")) == (2, 1), done.err
    assert told in done.err


def test_nothing_is_overwritten_unasked(harbour) -> None:
    logbook(harbour.folder, slow=2.0, quick=1.0)
    for arguments in (("report", "run.jsonl", "--format", "html"), ("plot", "run.jsonl"), ("export", "run.jsonl")):
        out = {"report": "x.html", "plot": "x.svg", "export": "x.csv"}[arguments[0]]
        assert harbour.run(*arguments, "--out", out).code == 0
        before = (harbour.folder / out).read_bytes()
        refused = harbour.run(*arguments, "--out", out)
        assert (refused.code, "exists: choose another name" in refused.err) == (2, True)
        assert (harbour.folder / out).read_bytes() == before
        assert harbour.run(*arguments, "--out", out, "--overwrite").code == 0


def test_one_part_of_a_report_is_shown_alone(harbour) -> None:
    logbook(harbour.folder, slow=2.0, quick=1.0)
    table = harbour.run("export", "run.jsonl", "slow", "--family", "bay").out
    assert ("slow,bay" in table, "quick" in table) == (True, False)
    change = harbour.run("contrast", "run.jsonl", "run.jsonl", "slow", "--family", "bay", "--anyway")
    assert (change.code, "slow on bay" in change.out, "quick on bay" in change.out) == (0, True, False), change.err
    shown = harbour.run("report", "run.jsonl", "--section", "growth").out
    assert shown.startswith("Growth")
    assert "Crossovers" not in shown
    assert (
        "there is nothing to report in this section" in harbour.run("report", "run.jsonl", "--section", "failures").out
    )
    chart = harbour.run("plot", "run.jsonl", "--text").out
    assert "a slow, b quick" in chart
    assert harbour.run("report", "run.jsonl", "--format", "markdown", "--section", "growth").out.count("## ") == 1


def test_several_metrics_stand_side_by_side(tmp_path: Path) -> None:
    path = tmp_path / "run.jsonl"
    trials = [
        Trial(contender="pairs", family="bay", size=n, heat=heat, metric=metric, elapsed=9.0 * n * n, value=value)
        for heat in (1, 2, 3)
        for n in MADE
        for metric, value in (("time", None), ("looks", n * (n - 1) / 2))
    ]
    write_logbook(path, [Header(), *trials])
    found = Analysis(read_logbook(path)).findings()
    assert [(row.metric, row.exact) for row in found.growth] == [("time", None), ("looks", "n*(n-1)/2")]
    shown = rendered(found, "text", 100)
    assert "exactly n(n−1)/2" in shown
    assert "pairs grows as exactly n(n−1)/2 on looks" in shown


def test_a_count_that_is_nought_everywhere_is_no_trouble(tmp_path: Path) -> None:
    path = tmp_path / "run.jsonl"
    trials = [
        Trial(contender=who, family="bay", size=n, heat=heat, metric="swaps", value=value * n)
        for heat in (1, 2)
        for who, value in (("calm", 0), ("rough", 2))
        for n in MADE
    ]
    write_logbook(path, [Header(), *trials])
    found = Analysis(read_logbook(path)).findings()
    assert [row.exact for row in found.growth] == ["0", "2*n"]
    assert [row.leader for row in found.standings]
    assert rendered(found, "text")


def test_a_later_record_of_a_contender_replaces_an_earlier_one(tmp_path: Path) -> None:
    path = tmp_path / "run.jsonl"
    records = [Header(), FamilyRecord(name="bay"), ContenderRecord(name="tug"), ContenderRecord(name="sail")]
    write_logbook(path, [*records, ContenderRecord(name="tug", startup=0.25)])
    read = read_logbook(path)
    assert [(each.name, each.startup) for each in read.contenders] == [("tug", 0.25), ("sail", None)]


# --- studies ----------------------------------------------------------------------------------------------------------


def study(**options) -> Study:
    made = Study("tide", sizes="8..64 *2")
    made.family(families.decimals)
    made.contender(max, name="highest", **options)
    return made


def test_claims_may_be_orders_or_exact_formulas() -> None:
    made = study(claim={"comparisons": "n(n-1)/2", "steps": "O(n)", "decimals": "n"})
    made.check()
    claims = {claim.where: claim.order for claim in made.contenders[0].options.claims}
    assert claims == {"comparisons": "n(n-1)/2", "steps": "n", "decimals": "n"}
    with pytest.raises(StudyError, match="is not an order"):
        study(claim={"comparisons": "n(n-1)/2 +"})
    with pytest.raises(StudyError, match=r"a tally is made known by study\.count"):
        study(claim={"looks": "n"}).check()
    counted = study(claim={"looks": "n"})
    counted.count("looks")
    counted.check()


@pytest.mark.parametrize(
    ("wrong", "told"),
    [
        (lambda made: made.program("x"), "needs either command="),
        (lambda made: made.program("x", command="ls -l"), "must be a list of arguments"),
        (lambda made: made.program("x", command=[]), "is empty"),
        (lambda made: made.program("highest", command=["x"]), "two contenders are named 'highest'"),
        (lambda made: made.family(families.points, format="xml"), "instances cannot be written as format='xml'"),
        (lambda made: made.count(""), "name what to count"),
        (lambda made: made.count("time"), "name what to count"),
        (lambda made: made.agree(within=2), "is not a tolerance"),
        (lambda made: made.vary(" ", "1..2"), "vary needs the name"),
    ],
)
def test_a_study_says_what_is_wrong_with_it(wrong, told: str) -> None:
    with pytest.raises(StudyError, match=told.replace("?", r"\?")):
        wrong(study())


def test_what_is_counted_follows_from_what_is_asked() -> None:
    made = study()
    made.count("comparisons", "looks")
    assert metrics_of(made, Settings()) == ("time", "comparisons", "looks")
    assert metrics_of(made, Settings(metrics=("steps",))) == ("steps",)
    assert [metric_of(metric).way for metric in ("memory", "allocations", "steps", "looks")] == [
        "memory",
        "memory",
        "steps",
        "tallies",
    ]
    assert wanted(made, Settings()).kinds == ("tallies",)
    assert wanted(made, Settings()).wraps == "values"
    assert wanted(made, Settings(metrics=("time", "reads"))).wraps == "all"
    assert wanted(made, Settings(metrics=("steps",))).kinds == ("hidden", "steps")
    assert wanted(made, Settings(metrics=("time",))).kinds == ()


def test_levels_reach_the_arguments_of_a_program() -> None:
    made = study()
    made.program("C", command=["x", "{opt}"], build=["cc", "{opt}"], levels={"opt": ["-O0", "-O2"]})
    assert [contender.name for contender in made.contenders[1:]] == ["C[opt=-O0]", "C[opt=-O2]"]
    assert made.contenders[1].program is not None
    assert made.contenders[1].program.tools == ("cc", "x")


def test_what_was_handed_in_is_not_measured_among_the_others(tmp_path: Path) -> None:
    (tmp_path / "anna.py").write_text("def best(levels): return max(levels)\n")
    source = "from logarithm import Study, families\nstudy = Study('class', sizes='8, 16')\n"
    source += "study.family(families.decimals)\nstudy.contender(max, name='reference', baseline=True)\n"
    (tmp_path / "study.py").write_text(source + "study.submissions('a*.py', function='best', require='n')\n")
    made = load(tmp_path / "study.py")
    assert [contender.name for contender in made.contenders] == ["reference", "anna"]
    assert [track.contender.name for track in tracks(made, Settings())] == ["reference"]
    named = tracks(made, Settings(contenders=("anna",)))
    assert [(track.contender.name, track.contender.require) for track in named] == [("anna", "n")]


# --- runs -------------------------------------------------------------------------------------------------------------


def test_sizes_that_were_added_are_there_when_a_run_is_gone_on_with(harbour) -> None:
    """A run that was cut off after sizes were added between the others goes on with them."""
    path = harbour.study()
    done = harbour.run("measure", "study.py", "--budget", "3s", "--sizes", "8, 64", "--out", "run.jsonl")
    assert done.code == 0, done.err
    book = harbour.folder / "run.jsonl"
    lines = [json.loads(line) for line in book.read_text().splitlines()]
    added = [{**line, "size": 24} for line in lines if line["kind"] == "trial" and line["size"] == 64]
    kept = [line for line in lines if line["kind"] != "close"]
    kept = [{**line, "budget": 8.0} if line["kind"] == "study" else line for line in kept]
    book.write_text("".join(json.dumps(line) + "\n" for line in [*kept, *added]))
    heats = max(trial.heat for trial in read_trials(book))
    done = harbour.run("measure", path.name, "--resume", "run.jsonl")
    assert done.code == 0, done.err
    later = {trial.size for trial in read_trials(book) if trial.heat > heats}
    assert later == {8, 24, 64}


FENCED = """
def best(levels):
    with open("deck.bin", "wb") as file:
        for _ in range(64):
            file.write(b"x" * 2**20)
    return max(levels)
"""
NETWORK = """
import socket
def best(levels):
    with socket.create_connection(("127.0.0.1", PORT), timeout=2): pass
    return max(levels)
"""


@pytest.mark.skipif(sys.platform != "linux", reason="needs the limits of Linux")
def test_what_was_handed_in_is_fenced(harbour) -> None:
    import socket

    with socket.create_server(("127.0.0.1", 0)) as server:
        (harbour.folder / "handed-in").mkdir()
        (harbour.folder / "handed-in" / "writes.py").write_text(FENCED)
        port = str(server.getsockname()[1])
        (harbour.folder / "handed-in" / "calls.py").write_text(NETWORK.replace("PORT", port))
        source = "from logarithm import Study, families\nstudy = Study('class', sizes='8..32 *2')\n"
        source += "study.family(families.decimals)\nstudy.contender(max, name='reference', baseline=True)\n"
        harbour.study(source + "study.submissions('handed-in/*.py', function='best')\n")
        done = harbour.run("assess", "study.py", "--format", "csv")
    assert done.code == 0, done.err
    rows = {line.split(",")[0].strip('"'): line for line in done.out.splitlines()[1:]}
    assert ',"fails",' in rows["writes"]
    deck = harbour.folder / "deck.bin"
    assert not deck.exists() or deck.stat().st_size <= 16 * 2**20
    if ',"fails",' not in rows["calls"]:
        pytest.skip("this system does not let a process be kept from the network")
    assert "OSError" in rows["calls"] or "refused" in rows["calls"].lower() or "unreachable" in rows["calls"].lower()


def test_our_own_linear_algebra_has_one_thread_and_leaves_the_environment_alone(tmp_path) -> None:
    code = (
        "import os; before = dict(os.environ)\n"
        "from logarithm.statistics.analysis import Analysis\n"
        "import numpy as np; (np.ones((400, 400)) @ np.ones((400, 400))).sum()\n"
        "tasks = '/proc/self/task'\n"
        "print(dict(os.environ) == before, len(os.listdir(tasks)) if os.path.isdir(tasks) else 1)"
    )
    plain = {name: value for name, value in os.environ.items() if not name.endswith("_NUM_THREADS")}
    done = subprocess.run([sys.executable, "-c", code], cwd=tmp_path, capture_output=True, text=True, env=plain)
    assert done.stdout.split() == ["True", "1"], done.stderr
