"""Two sizes, by the installed command: asked, measured, told as a map and slice by slice, brought out and in again."""

from __future__ import annotations

import json
import math
import random
from pathlib import Path

import pytest
from tests.conftest import Harbour

from logarithm.logbook.records import AnyRecord, ClaimRecord, ContenderRecord, FamilyRecord, Header, StudyRecord, Trial
from logarithm.logbook.writing import write_logbook
from studies import MAP

FIRST, SECOND = [16, 64, 256, 1024, 4096], [1, 4, 16, 64, 256]
IN_TOML = """
name = "tides"
sizes = { n = "16..64 *2", k = "1..16 *4" }
where = "study.py:possible"

[[family]]
ready = "decimals"

[[contender]]
python = "study.py:heap"

[[contender]]
python = "study.py:look_again"
"""


def written(path: Path) -> None:
    """A logbook of made-up trials in which a heap leads where much is wanted of few, and costs n + k log n."""
    contenders = {"heap": lambda n, k: 40 * n + 60 * k * math.log2(n), "look_again": lambda n, k: 20 * n * k + 300}
    opening = StudyRecord(name="lowest-tides", names=["n", "k"], seconds=SECOND, sizes=FIRST, budget=8.0)
    claims = {"heap": "n + k log n", "look_again": "n k"}
    records: list[AnyRecord] = [Header(), opening]
    records += [ContenderRecord(name=name, claims=[ClaimRecord(claim)]) for name, claim in claims.items()]
    chance = random.Random(7)
    records += [
        Trial(
            contender=name,
            family="gauges",
            size=n,
            second=k,
            heat=heat,
            process=1 + heat // 3,
            elapsed=cost(n, k) * math.exp(chance.gauss(0, 0.01)),
        )
        for heat in range(1, 10)
        for n in FIRST
        for k in SECOND
        if k <= n
        for name, cost in contenders.items()
    ]
    write_logbook(path, [*records, FamilyRecord(name="gauges")])


@pytest.fixture(scope="module")
def told(tmp_path_factory: pytest.TempPathFactory) -> Harbour:
    harbour = Harbour(tmp_path_factory.mktemp("told"))
    harbour.study(MAP)
    written(harbour.folder / "a.jsonl")
    return harbour


@pytest.fixture(scope="module")
def measured(tmp_path_factory: pytest.TempPathFactory) -> Harbour:
    harbour = Harbour(tmp_path_factory.mktemp("tides"))
    harbour.study(MAP)
    done = harbour.run("measure", "study.py", "--budget", "12s", "--out", "a.jsonl", "--format", "json", "-q")
    assert done.code == 0, done.err
    return harbour


def test_a_run_of_two_sizes_names_laws_and_finds_the_boundary(measured: Harbour) -> None:
    trials = [json.loads(line) for line in (measured.folder / "a.jsonl").read_text().splitlines()]
    timed = [each for each in trials if each["kind"] == "trial"]
    assert {each["family"] for each in timed} == {"gauges"} and all(each["second"] <= each["size"] for each in timed)
    found = measured.run("report", "a.jsonl", "--format", "json").json
    orders = {each["contender"]: each["order"] for each in found["growth"]}
    assert set(orders) == {"heap", "look_again"} and {*found["growth"][0]["exponents"]} == {"n", "k"}
    assert {each["verdict"] for each in found["claims"]} <= {"holds", "undecided", "slower"}
    assert found["maps"][0]["names"] == ["n", "k"] and found["leads"]
    # As far as a run of this machine came: with many places to look at, looking again never leads.
    far = {each["leader"] for each in found["leads"] if each["second"] >= 32 and each["verdict"] == "leads"}
    assert far == {"heap"}


def test_a_map_is_told_in_every_form(told: Harbour) -> None:
    text = told.run("report", "a.jsonl", "--all").out
    assert "k \\ n" in text and "law" in text and "n = 16 … 4096, k = 1 … 256" in text
    assert "| law |" in told.run("report", "a.jsonl", "--all", "--format", "markdown").out
    assert told.run("report", "a.jsonl", "--format", "html", "--out", "map.html").code == 0
    page = (told.folder / "map.html").read_text(encoding="utf-8")
    assert 'id="map"' in page and "Who leads where" in page and "gauges, k = 16" in page
    for view, name in ((), "usual.svg"), (("--view", "growth"), "growth.svg"), (("--view", "ratio"), "ratio.svg"):
        assert told.run("plot", "a.jsonl", *view, "--out", name).code == 0
    assert "heap" in (told.folder / "usual.svg").read_text(encoding="utf-8")
    refused = told.run("plot", "a.jsonl", "--view", "standings", "--out", "standings.svg")
    assert refused.code == 2 and "no standings to draw" in refused.err


def test_one_slice_is_a_study_of_one_size(told: Harbour) -> None:
    part = told.run("report", "a.jsonl", "--at", "k=16").out
    assert "k \\ n" not in part and "grows as" in part
    assert told.run("growth", "a.jsonl", "heap", "--at", "k=16").code == 0
    assert "boundary" in told.run("crossover", "a.jsonl", "heap", "look_again").out
    assert "heap over" in told.run("crossover", "a.jsonl", "heap", "look_again", "--at", "k=64").out
    assert told.run("verify", "a.jsonl", "--at", "k=16").code == 0
    assert "n = 8000, k = 50" in told.run("forecast", "a.jsonl", "--at", "n=8000,k=50").out
    assert "at k = 50" in told.run("forecast", "a.jsonl", "--within", "1ms", "--at", "k=50").out
    for command, reason in (
        (("report", "a.jsonl", "--at", "k=17"), "was not measured at k = 17"),
        (("report", "a.jsonl", "--at", "m=1"), "has no size 'm': there are n and k"),
        (("forecast", "a.jsonl", "--at", "1e6"), "has two sizes: say --at n=1e6,k=64"),
        (("worst", "study.py"), "the study has two sizes: say at which k, such as --at k=1"),
        (("measure", "study.py", "--sizes", "m=8..64"), "the study has no size 'm': there are n and k"),
    ):
        done = told.run(*command)
        assert done.code == 2 and reason in done.err, done.err


def test_a_map_goes_out_and_comes_in_again(told: Harbour) -> None:
    assert told.run("export", "a.jsonl", "--out", "times.csv").code == 0
    heading = (told.folder / "times.csv").read_text().splitlines()[0]
    assert heading == "contender,family,stage,metric,second,size,heat,process,value"
    done = told.run("import", "times.csv", "--column", "second=second", "--out", "in.jsonl", "--format", "json")
    assert done.json["study"]["names"] == ["n", "second"] and done.json["maps"]
    assert "second" in told.run("export", "a.jsonl", "--wide").out.splitlines()[0]
    one = "contender,size,value\\nheap,8,1\\nheap,16,2\\nsort,8,1\\nsort,16,3\\n".replace("\\n", "\n")
    (told.folder / "one.csv").write_text(one)
    assert told.run("import", "one.csv", "--out", "one.jsonl").code == 0
    refused = told.run("contrast", "one.jsonl", "a.jsonl")
    assert refused.code == 2 and "their sizes are n alone, and n and k" in refused.err


def test_a_map_is_gone_on_with_walked_and_searched(measured: Harbour, tmp_path: Path) -> None:
    more = measured.run("measure", "study.py", "--resume", "a.jsonl", "--budget", "3s", "-q")
    assert more.code == 0, more.err
    walked = measured.run("walk", "study.py", "look_again", "--at", "k=2", "--size", "4")
    assert walked.code == 0 and "k = 2" in walked.out
    searched = measured.run(
        "worst", "study.py", "--at", "k=4", "--only", "look_again", "--budget", "4s", "--sizes", "8..16"
    )
    assert searched.code == 0 and "k=4" in searched.out, searched.err
    (measured.folder / "tides.toml").write_text(IN_TOML)
    rehearsed = measured.run("rehearse", "tides.toml", "--budget", "4s")
    assert rehearsed.code == 0 and "decimals[k=4]" in rehearsed.out, rehearsed.err
    raced = measured.run(
        "race", "study.py", "heap", "look_again", "--family", "decimals", "--budget", "3s", "-q", *SIZES
    )
    assert raced.code == 0 and "k \\ n" in raced.out, raced.err


SIZES = ("--sizes", "n=16..64 *2", "--sizes", "k=1..4 *2")
