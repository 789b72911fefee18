from __future__ import annotations

import pytest

from conftest import HARBOUR

TRAPPED = """
import random
from concurrent.futures import ThreadPoolExecutor
kept = {}
@study.contender
def eats(levels):
    total = 0.0
    while levels: total += levels.pop()
    return total
@study.contender
def remembers(levels):
    if id(levels) not in kept: kept[id(levels)] = add_up(levels * 20) / 20, levels
    return kept[id(levels)][0]
@study.contender
def says(levels):
    print("fog"); return sum(levels)
@study.contender
def nothing(levels): sum(levels)
@study.contender
def fickle(levels): return sum(levels) + random.random()
@study.contender
def lazy(levels): return (level for level in levels)
@study.contender
def flat(levels): return 1.0
@study.contender
def sinks(levels):
    if len(levels) > 300: raise OverflowError("too deep")
    return sum(levels)
@study.contender
def resets(levels):
    import gc, sys, time
    time.perf_counter_ns = gc.collect = lambda *_: 0
    sys.stdout.close()
    return sum(levels)
@study.contender
def crowd(levels):
    with ThreadPoolExecutor(2) as pool: return sum(pool.map(float, levels))
"""


def test_every_trap_is_told(harbour) -> None:
    done = harbour.run("rehearse", harbour.study(more=TRAPPED), "--sizes", "8..512 *2")
    assert done.code == 1
    assert "The answers disagree." in done.out
    for told in (
        "nothing disagrees with add_up on rising, n = 8, seed 1: None against",
        "flat disagrees with add_up",
        "eats: changes its input",
        "remembers: remembers earlier calls",
        "says: prints 4 characters a call",
        "nothing: returns nothing",
        "fickle: gives different answers to one instance",
        "lazy: returns a generator, which is driven to its end inside the timing",
        "flat: takes ",
        "sinks on rising: OverflowError at 512 (too deep)",
        "resets: replaces perf_counter_ns, collect",
        "resets: closes standard output",
        "crowd: starts threads or processes",
    ):
        assert told in done.out.replace("\n  ", " "), told
    assert "add up: " not in done.out
    assert not (harbour.folder / "logbooks").exists()


def test_a_rehearsal_says_how_far_and_how_long(harbour) -> None:
    slow = "import time\n@study.contender\ndef doze(levels):\n    time.sleep(len(levels) / 200); return sum(levels)\n"
    done = harbour.run("rehearse", harbour.study(more=slow), "--ceiling", "240ms", "--sizes", "8..512 *2")
    assert done.code == 0
    assert "The answers agree" in done.out
    row = next(line.split() for line in done.out.splitlines() if line.startswith("doze"))
    assert row[2] == "32"
    assert "at 64 a call would take about" in done.out
    assert "a budget of 60 s gives about" in done.out


def test_a_draft_runs_and_is_not_overwritten(harbour) -> None:
    assert harbour.run("draft", "mine.py").code == 0
    assert "The answers agree" in harbour.run("rehearse", "mine.py").out
    again = harbour.run("draft", "mine.py")
    assert (again.code, "exists" in again.err) == (2, True)
    assert harbour.run("draft").code == 2
    assert harbour.run("draft", "mine.txt").code == 2
    listed = harbour.run("draft", "--families")
    assert "nearly_ascending" in listed.out
    assert "sparse_graph" in listed.out


def test_a_race_needs_no_study(harbour) -> None:
    (harbour.folder / "lamps.py").write_text(
        "def highest(levels): return max(levels)\n"
        "def last_in_order(levels): return sorted(levels)[-1]\n"
        "def wrong(levels): return min(levels)\n"
        "lamp = 3\n"
    )
    done = harbour.run(
        *("race", "lamps.py", "highest", "last_in_order", "--family", "shuffled", "--family", "descending"),
        *("--sizes", "8..64 *2", "--budget", "3s"),
    )
    assert done.code == 0, done.err
    assert "highest against last in order" in done.out
    assert {trial["family"] for trial in harbour.records("trial")} == {"shuffled", "descending"}
    for arguments, code, told in (
        (("lamps.py", "brightest"), 2, "there are highest, last_in_order and wrong"),
        (("lamps.py", "lamp"), 2, "no function 'lamp'"),
        (("lamps.py", "highest", "--family", "ebb"), 2, "no ready-made family 'ebb'"),
        (("./nowhere.py", "highest"), 2, "no such file"),
        (("lamps.py", "highest", "wrong", "--budget", "3s"), 1, "wrong disagrees with highest"),
    ):
        done = harbour.run("race", *arguments)
        assert (done.code, told in done.err) == (code, True)


def test_an_own_input_expressions_and_plain_functions_need_no_study(harbour) -> None:
    (harbour.folder / "lamps.py").write_text("def highest(levels): return max(levels, default=0)\n")
    (harbour.folder / "gauge.txt").write_text("3\n9\n4\n12\n7\n")
    own = harbour.run("race", "lamps.py", "highest", "--input", "gauge.txt", "--budget", "2s", "--format", "json").json
    assert (own["study"]["families"], own["run"]["sizes"]) == (["input"], [5, 5])
    (harbour.folder / "lit.py").write_text(
        "def lit(n, rng): return frozenset(range(n))\ndef lamp(n, rng): return rng.randrange(n)\n"
    )
    short = ("-e", "lamp in lit", "-e", "lit.issuperset((lamp,))", "--setup", "lit.py", "--sizes", "64, 512")
    found = harbour.run("race", *short, "--budget", "3s", "--format", "json").json
    cheap, dear = ([point["typical"] for point in row["points"]] for row in found["costs"])
    assert max(cheap) < min(dear) and found["study"]["contenders"][0] == "lamp in lit"
    walked = harbour.run("walk", "lamps.py", "highest", "--input", "[3, 1, 4]", "--format", "json").json
    assert walked["answer"] == "4"
    assert "highest on shuffled" in harbour.run("worst", "lamps.py", "highest", "--budget", "2s").out
    for arguments, told in (
        (("lamps.py", "highest", "--input", "[3, 1"), "neither a file nor a value"),
        (("-e", "lamp in"), "is not an expression"),
        (("-e", "lamp", "--setup", "lamps.py"), "no function of (n, rng)"),
        (("no.harbour", "highest"), "neither a file nor a module"),
        ((), "name a file and functions in it, or expressions"),
    ):
        refused = harbour.run("race", *arguments)
        assert refused.code == 2 and told in refused.err, refused.err


def test_the_machine_is_described_in_words(harbour) -> None:
    done = harbour.run("machine")
    assert done.code == 0
    assert "A call that does nothing costs" in done.out
    assert "The machine is " in done.out
    assert "clock step" in done.out


def test_a_contender_that_only_waits_or_uses_many_processors_is_noted(harbour) -> None:
    waits = "import time\n@study.contender\ndef waits(levels):\n    time.sleep(0.002); return sum(levels)\n"
    done = harbour.run("measure", harbour.study(more=waits), "--budget", "10s")
    assert "waits: uses the processor for" in done.out


def test_another_axis_than_size(harbour) -> None:
    done = harbour.stored("varied")
    assert "share = 0.1 … 0.5" in done.out
    found = harbour.run("report", "--format", "json").json
    assert found["growth"] == []
    assert found["standings"][0]["from"] in (0.1, 0.2)
    assert harbour.run("plot").code == 0


def test_a_ladder_grows_by_itself(harbour) -> None:
    harbour.study(HARBOUR.replace(', sizes="8..64 *2"', ""))
    done = harbour.run("measure", "study.py", "--budget", "5s", "--ceiling", "5ms")
    assert done.code == 0, done.err
    reached = {name: max(t["size"] for t in harbour.records("trial") if t["contender"] == name) for name in SIDES}
    assert reached["add_up"] > 8 * reached["again_and_again"] > 256
    assert {note["contender"] for note in harbour.records("note") if note["topic"] == "sizes"} == set(SIDES)


SIDES = ("add_up", "again_and_again")


def test_the_largest_size_that_works_is_found(harbour) -> None:
    deep = (
        "def dig(levels, at=0):\n    return levels[at] + dig(levels, at + 1) if at < len(levels) else 0.0\n"
        "import sys; sys.setrecursionlimit(300)\nstudy.contender(dig)\n"
    )
    harbour.run("measure", harbour.study(more=deep), "--budget", "5s", "--sizes", "8..512 *2")
    (failure,) = harbour.records("failure")
    assert (failure["reason"], failure["size"]) == ("RecursionError", 512)
    assert 256 <= failure["works"] < 300


def test_memory_is_bounded(harbour) -> None:
    hoards = (
        "@study.contender\ndef hoards(levels):\n    if len(levels) == 64: bytearray(2**30)\n    return sum(levels)\n"
    )
    done = harbour.run("measure", harbour.study(more=hoards), "--budget", "4s", "--memory", "700MB")
    assert done.code == 1, done.err  # a contender fails
    (failure,) = harbour.records("failure")
    assert (failure["contender"], failure["reason"], failure["size"]) == ("hoards", "MemoryError", 64)


@pytest.mark.parametrize("wrong", ["fog", "0GB", "2 knots"])
def test_memory_is_an_amount(harbour, wrong: str) -> None:
    done = harbour.run("measure", harbour.study(), "--memory", wrong)
    assert (done.code, "amount of memory" in done.err) == (2, True)
