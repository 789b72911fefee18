"""Counts and walks by the installed command."""

from __future__ import annotations

import json

TIDES = """
from logarithm import Study, tally
study = Study("tides", sizes="4..64")
@study.family
def ebb(n, rng): return [n - day for day in range(n)]
@study.family
def choppy(n, rng): return [rng.random() for _ in range(n)]
@study.contender(claim={"comparisons": "n*(n-1)/2", "pairs": "n^2"})
def by_pairs(levels):
    best = 0
    for i in range(len(levels)):
        for j in range(i):
            tally("pairs")
            if levels[i] > levels[j] and j == i - 1: best += 1
    return best
@study.contender(claim={"comparisons": "<= 2*n", "steps": "n"})
def downhill(levels): return sum(1 for day in range(1, len(levels)) if levels[day] > levels[day - 1])
study.count("comparisons", "pairs", "steps", "memory")
"""


def test_counts_are_gathered_named_exactly_and_claims_judged(harbour) -> None:
    harbour.study(TIDES)
    done = harbour.run("measure", "study.py", "--metric", "comparisons", "--metric", "steps", "--budget", "8s")
    assert done.code == 0, done.err
    found = harbour.run("report", "--format", "json").json
    growth = {(row["contender"], row["family"], row["metric"]): row for row in found["growth"]}
    assert growth["by_pairs", "ebb", "comparisons"]["exact"] == "n*(n-1)/2"
    assert growth["by_pairs", "choppy", "pairs"]["exact"] == "n*(n-1)/2"
    assert growth["downhill", "choppy", "comparisons"]["exact"] == "n - 1"
    assert growth["downhill", "ebb", "steps"]["order"] == "n"
    assert not any(metric == "time" for _, _, metric in growth)
    verdicts = {(row["contender"], row["metric"]): row["verdict"] for row in found["claims"]}
    assert set(verdicts.values()) == {"holds"}
    assert "exactly n(n−1)/2" in done.out
    trials = [record for record in harbour.records("trial") if record.get("metric") == "comparisons"]
    values = {(row["contender"], row["family"], row["size"], row["heat"]): row["value"] for row in trials}
    harbour.run("measure", "study.py", "--metric", "comparisons", "--budget", "8s", "--out", "again.jsonl")
    again = [json.loads(line) for line in (harbour.folder / "again.jsonl").read_text().splitlines()]
    for row in (row for row in again if row.get("metric") == "comparisons"):
        assert values[row["contender"], row["family"], row["size"], row["heat"]] == row["value"]
    assert harbour.run("verify").code == 0


def test_memory_is_counted_apart_from_the_timing(harbour) -> None:
    harbour.study(TIDES)
    done = harbour.run("measure", "study.py", "--metric", "memory", "--only", "downhill", "--budget", "4s")
    assert done.code == 0, done.err
    rows = harbour.run("report", "--format", "json").json["growth"]
    assert {row["metric"] for row in rows} == {"memory", "allocations"}
    assert "KiB" in done.out or " B" in done.out


def test_a_walk_shows_every_event(harbour) -> None:
    harbour.study(TIDES)
    done = harbour.run("walk", "study.py", "by_pairs", "--size", "4", "--out", "walk.png")
    assert done.code == 0, done.err
    lines = done.out.splitlines()
    assert lines[0] == "by pairs on ebb, n = 4"
    assert sum(" > " in line for line in lines) == 6
    assert "4 3 2 1" in done.out
    assert "6 comparisons" in lines[-1]
    assert (harbour.folder / "walk.png").read_bytes().startswith(b"\x89PNG")
    assert harbour.run("walk", "study.py", "rowing").code == 2
