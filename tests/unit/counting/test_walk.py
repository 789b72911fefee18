"""Walks: passes, heaps, calls as a tree, how they end, and how trees are laid out."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from logarithm.counting.items.counted import counted
from logarithm.counting.walk.follow import followed
from logarithm.counting.walk.pictures import in_words
from logarithm.report.documents.walk import calls_told, end_of
from logarithm.report.trees import heap_nodes, laid_out
from logarithm.results.tasks.walk import Walk

WALKED = """
def sink(times, begin):
    for first in range(begin, -1, -1):
        at = first
        while 2 * at + 1 < len(times):
            child = 2 * at + 1
            times[at], times[child] = times[child], times[at]
            at = child
    return times

def load(tonnes):
    return 1 if tonnes < 3 else load(tonnes - 1) + load(tonnes - 3)

def too_far(times):
    try:
        return load(times[3])
    except IndexError:
        return load(times[9])

def endless(times):
    while True:
        times[0] += 0
"""


@pytest.fixture(scope="module")
def walked(tmp_path_factory: pytest.TempPathFactory) -> Callable[..., Walk]:
    file = tmp_path_factory.mktemp("walked") / "walked.py"
    file.write_text(WALKED)
    made: dict[str, Any] = {}
    exec(compile(WALKED, str(file), "exec"), made)

    def walk(name: str, *given: Any) -> Walk:
        found = followed(lambda: made[name](*given), {str(file)})
        return Walk(name, "any", 3, found.events, repr(found.answer), found.failure, [], 1, found.cut)

    return walk


def test_passes_and_heaps_are_seen_in_a_walk(walked: Callable[..., Walk]) -> None:
    found = walked("sink", counted([5, 1, 3]), 1)
    assert [event.what for event in found.events if event.kind == "pass"] == ["pass 1", "pass 2"]
    assert found.events[0].changed["times"] == ["heap", ["5", "1", "3"]]
    assert [(node.label, node.depth, node.parent) for node in heap_nodes(3)] == [(0, 0, None), (1, 1, 0), (2, 1, 0)]


def test_calls_of_a_walk_are_a_tree(walked: Callable[..., Walk]) -> None:
    calls = walked("load", 5).calls()
    said = [(call.words, call.answer, call.parent) for call in calls]
    assert said[:3] == [("load(tonnes=5)", "4", None), ("load(tonnes=4)", "3", 0), ("load(tonnes=3)", "2", 1)]
    assert calls_told(calls) == "7 calls, 6 of them different"


def test_a_walk_ends_where_it_raises_or_goes_on_without_end(walked: Callable[..., Walk]) -> None:
    found = walked("too_far", counted([1, 2]))
    assert found.failure == "IndexError: list index out of range"
    assert [event.line for event in found.events if event.kind == "raise"] == [16, 18]
    assert end_of(found) == "no answer: line 18 raised IndexError: list index out of range"
    assert found.calls()[0].end is None
    endless = walked("endless", counted([1]))
    assert endless.cut and endless.failure == "it did not end" and len(endless.events) == 5000
    assert in_words(["tree", ["2", [None, ["5", []]]]]) == "2 (· 5)"


@given(st.recursive(st.just([]), lambda below: st.lists(below, max_size=3), max_leaves=20))
def test_nodes_of_a_tree_do_not_lie_over_each_other(shape: list[Any]) -> None:
    def named(each: list[Any]) -> list[Any]:
        return ["x", [named(below) for below in each]]

    nodes = laid_out(named(shape))
    for depth in {node.depth for node in nodes}:
        row = sorted(node.x for node in nodes if node.depth == depth)
        assert all(after - before >= 0.99 for before, after in itertools.pairwise(row))
