"""The worst case, searched for by the command: what it says, the logbook and the instances it leaves, claims on it."""

from __future__ import annotations

import json

from studies import SOUNDINGS


def test_a_worst_case_is_found_told_and_kept(harbour) -> None:
    harbour.study(SOUNDINGS)
    sizes = ("--sizes", "8, 12, 16, 32, 64")
    options = (*sizes, "--budget", "60s", "--out", "worst.jsonl", "--keep", "worst.json", "--figure", "worst.png")
    done = harbour.run("worst", "study.py", *options)
    said = " ".join(done.out.split())
    assert done.code == 1, done.err
    assert "parted on shuffled: typical n log n" in said
    assert "worst found n²" in said
    assert "falling" in said
    assert "built in on shuffled: typical n log n" in said
    assert "was found in" in said
    assert "does not say that there is none" in said
    assert "is contradicted by the worst found" in done.err
    assert (harbour.folder / "worst.png").read_bytes().startswith(b"\x89PNG")
    found = harbour.run("report", "worst.jsonl", "--format", "json").json
    orders = {(row["contender"], row["family"]): row["order"] for row in found["growth"]}
    assert orders["parted", "worst found"] == "n^2"
    assert orders["built_in", "worst found"] == "n log n"
    verdicts = {claim["contender"]: claim["verdict"] for claim in found["claims"]}
    assert verdicts == {"parted": "contradicted", "built_in": "holds"}
    assert harbour.run("verify", "worst.jsonl").code == 1
    kept = json.loads((harbour.folder / "worst.json").read_text(encoding="utf-8"))
    assert (kept["format"], kept["version"]) == ("logarithm-instances", 1)
    worst = {row["size"]: row for row in kept["instances"] if (row["contender"], row["kind"]) == ("parted", "worst")}
    assert worst[64]["count"] > 3 * worst[32]["count"]
    # The instances are a family of another study, at sizes that were found and at others.
    more = 'study.family_from("worst.json", of="parted", name="hard")\n'
    harbour.study(SOUNDINGS + more)
    done = harbour.run("measure", "study.py", "--budget", "3s", "--metric", "comparisons", "--sizes", "8, 20, 80", "-q")
    assert done.code == 0, done.err
    assert "hard" in done.out
    harbour.study(SOUNDINGS + more.replace("parted", "nobody"))
    done = harbour.run("rehearse", "study.py")
    assert (done.code, "there are parted and built_in" in done.err) == (2, True)


def test_the_same_seed_finds_the_same(harbour) -> None:
    harbour.study(SOUNDINGS)
    for name in ("one", "other"):
        options = ("--only", "parted", "--sizes", "6, 9", "--metric", "comparisons", "--keep", f"{name}.json")
        assert harbour.run("worst", "study.py", *options, "--budget", "60s").code in (0, 1)
    one, other = ((harbour.folder / f"{name}.json").read_text() for name in ("one", "other"))
    assert one == other
    assert '"count":72.0' in one  # both comprehensions compare each pair


ODD = """
from hypothesis import strategies as st
from logarithm import Study
study = Study("signals", sizes="4..16 *2")

@study.family
def drawn(n, rng):
    return st.lists(st.integers(0, 9), min_size=n, max_size=n)

@study.family(change=lambda level, rng: type(level)(level.high + 1))
def levels(n, rng):
    return Level(n)

class Level:
    def __init__(self, high):
        self.high = high

@study.contender(families=["levels"])
def climbed(level):
    for _ in range(level.high):
        pass

@study.contender(families=["drawn"])
def fails_on_equals(signal):
    if len(set(signal)) == 1:
        raise OverflowError("all alike")
    return sum(signal)
"""


def test_other_kinds_of_instances_are_searched_too(harbour) -> None:
    harbour.study(ODD)
    done = harbour.run("worst", "study.py", "--metric", "steps", "--sizes", "4, 6, 8", "--budget", "20s")
    said = " ".join(done.out.split())
    assert "climbed on levels" in said
    assert "fails on an instance that was found" in said
    assert "OverflowError" in said
    harbour.study(
        ODD.replace('Study("signals", sizes="4..16 *2")', 'Study("signals")') + 'study.vary("pitch", "1..9")\n'
    )
    assert "not the size" in harbour.run("worst", "study.py").err
    assert "no such" in harbour.run("worst", "other.py").err
