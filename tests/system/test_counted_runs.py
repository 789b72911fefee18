"""Counts and walks by the installed command."""

from __future__ import annotations

import json

from studies import TIDES

LINKED = """
from logarithm import Study
study = Study("berths", sizes="2..8")
class Buoy:
    def __init__(self, depth, after=None): self.depth, self.after = depth, after
@study.family
def chain(n, rng):
    head = None
    for depth in range(n): head = Buoy(depth, head)
    return head
@study.family
def lengths(n, rng): return list(range(n, 0, -1))
@study.contender(families=["chain"])
def turned(head):
    before = None
    while head is not None:
        after = head.after
        head.after = before
        before, head = head, after
    return before.depth
@study.contender(families=["lengths"])
def halves(lengths):
    if len(lengths) < 2:
        return lengths
    middle = len(lengths) // 2
    left, right = halves(lengths[:middle]), halves(lengths[middle:])
    out = []
    while left and right:
        out.append(left.pop(0) if left[0] <= right[0] else right.pop(0))
    return out + left + right
"""


def test_counts_are_gathered_named_exactly_and_claims_judged(harbour) -> None:
    harbour.study(TIDES)
    done = harbour.stored("counted")
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
    harbour.run("measure", "study.py", "--metric", "comparisons", "--budget", "4s", "--out", "again.jsonl")
    again = [json.loads(line) for line in (harbour.folder / "again.jsonl").read_text().splitlines()]
    # How far counting came is a matter of time; what was counted is not.
    both = [
        (row["contender"], row["family"], row["size"], row["heat"], row["value"])
        for row in again
        if row.get("metric") == "comparisons"
    ]
    assert all(values.get(key, value) == value for *place, value in both for key in [tuple(place)])
    assert len(both) > 20
    assert harbour.run("verify").code == 0


def test_memory_is_counted_apart_from_the_timing(harbour) -> None:
    harbour.stored("counted_memory")
    done = harbour.run("report", "--all")
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


def test_the_line_that_makes_it_grow_is_named(harbour) -> None:
    path = harbour.study(TIDES)
    source = (harbour.folder / path).read_text().splitlines()
    harbour.stored("counted_lines")
    done = harbour.run("growth", "--lines")
    line = next(number for number, text in enumerate(source, start=1) if "if levels[i] > levels[j]" in text)
    assert f"by pairs on ebb and choppy: line {line} makes it quadratic: it runs n(n−1)/2 times" in done.out
    rows = json.loads(harbour.run("growth", "--lines", "--format", "json").out)["lines"]
    assert [row["line"] for row in rows if row["culprit"]] == [line, line]
    assert sum(row["share"] for row in rows if row["family"] == "ebb") > 0.9
    assert "Where the growth is" in harbour.run("report").out
    assert f'<td dir="auto">{source[line - 1].strip()[:20]}' in harbour.run("report", "--format", "html").out.replace(
        "&gt;", ">"
    )


def test_misspelt_metrics_are_refused_with_the_names_there_are(harbour) -> None:
    path = harbour.study(TIDES)
    done = harbour.run("measure", path, "--metric", "compares")
    assert done.code == 2
    assert "nothing counts 'compares'" in done.err
    assert "did you mean 'comparisons'?" in done.err
    assert "pairs" in done.err
    wrong = harbour.study(TIDES.replace('study.count("comparisons"', 'study.count("swops"'), name="wrong.py")
    assert "did you mean 'swaps'?" in harbour.run("measure", wrong).err


def test_counts_are_compared_without_error_and_zero_is_a_number(harbour) -> None:
    done = harbour.stored("counted_lengths")
    found = harbour.run("report", "--format", "json").json
    exact = {row["contender"]: row["exact"] for row in found["growth"] if row["metric"] == "comparisons"}
    assert (exact["once"], exact["twice"]) == ("n - 1", "n + 1")
    pair = next(row for row in found["pairs"] if {row["one"], row["other"]} == {"once", "twice"})
    assert [zone["leader"] for zone in pair["zones"]] == ["once"]
    assert pair["last"]["low"] == pair["last"]["high"]
    assert "once, twice and by sorting are equal at every size" in done.out
    assert "exactly n − 1" in harbour.run("forecast", "once", "--at", "1000").out
    assert harbour.run("plot", "--out", "berths.png").code == 0


def test_a_walk_follows_copies_links_and_recursion(harbour) -> None:
    path = harbour.study(LINKED)
    done = harbour.run("walk", path, "turned", "--size", "3")
    assert "2 → 1 → 0" in done.out
    assert "0 → 1 → 2" in done.out
    done = harbour.run("walk", path, "halves", "--family", "lengths", "--size", "4", "--out", "walk.html")
    assert "  call halves(lengths=[4, 3])" in done.out
    assert "answers [1, 2, 3, 4]; in all" in done.out
    page = (harbour.folder / "walk.html").read_text()
    assert 'id="listed"' in page
    assert "call halves(lengths=[4, 3])" in page
    only = harbour.run("walk", path, "halves", "--family", "lengths", "--only", "compare", "--from", "10")
    assert "compare" in only.out
    assert "append" not in only.out
    asked = ["walk", path, "halves", "--family", "lengths", "--size", "3", "--view", "calls"]
    tree = harbour.run(*asked, "--out", "steps", "--to", "3")
    assert "\n  halves(lengths=[2, 1]) → [1, 2]" in tree.out
    assert [each.name for each in sorted((harbour.folder / "steps").iterdir())] == ["step-001.png", "step-002.png"]
    assert harbour.run(*asked, "--out", "calls.svg").code == 0
    assert "halves(lengths=[2, 1])" in (harbour.folder / "calls.svg").read_text()
    harbour.study("def too_far(levels): return levels[0] + levels[5]", name="own.py")
    failed = harbour.run("walk", "own.py", "too_far", "--input", "[1, 2]")
    assert failed.code == 1
    assert "read levels[0]: 1" in failed.out
    assert "no answer: line 1 raised IndexError" in failed.out
    refused = harbour.run("walk", path, "halves", "--family", "lengths", "--only", "swops")
    assert refused.code == 2
    assert "there are begin" in refused.err


def test_work_is_counted_beside_time_and_names_the_order(harbour) -> None:
    done = harbour.stored("counted_and_timed")
    work = [row for row in harbour.records("trial") if row.get("metric") == "counted work"]
    assert {row["contender"] for row in work} == {"by_pairs", "downhill"}
    growth = {row["contender"]: row for row in harbour.run("report", "--format", "json").json["growth"]}
    assert {row["metric"] for row in growth.values()} == {"time"}
    assert growth["by_pairs"]["work"]["order"] == "n^2"
    assert growth["downhill"]["work"]["order"] == "n"
    assert growth["by_pairs"]["work"]["price"][0][1] > 0
    assert "by pairs grows as n²" in done.out
    assert harbour.run("growth", "by_pairs").code == 0
