"""Judging: what is clear and what is open, names, files, and the filter of system calls."""

from __future__ import annotations

import random
import struct

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from logarithm.errors import StudyError
from logarithm.grading.grades import exceeds, within
from logarithm.grading.ratios import ratio_of
from logarithm.protocol import answers
from logarithm.report.documents.grades import FORMULA
from logarithm.study import families
from logarithm.study.exercise.handed_in import as_people_sort, look_alike, names_of, shown_name
from logarithm.study.exercise.marks import read_marks, read_open
from logarithm.worker.sandbox.system_calls import ALLOW, MACHINES, filter_of


def test_a_mark_is_given_or_refused_only_where_the_interval_is_clear() -> None:
    assert (within((0.9, 1.4), 1.5), within((1.6, 2.0), 1.5), within((1.4, 1.6), 1.5)) == (True, False, None)
    assert within((None, None), 1.5) is None
    assert exceeds("n log n", {"calm": ["n^2"]}) and not exceeds("n log n", {"calm": ["n^2", "n"]})
    assert not exceeds(None, {"calm": ["n^2"]}) and not exceeds("n", {"calm": []})
    assert read_marks({"input": 1, "silent": 2})["silent"] == (2.0, 2.0)
    with pytest.raises(StudyError, match="open='never'"):
        read_open("never")


def test_the_interval_of_a_ratio_holds_it_and_knows_of_processes() -> None:
    rng, held = np.random.default_rng(4), 0
    for _ in range(200):
        shared = np.exp(rng.normal(0, 0.3, 8))
        own = 1.5 * shared * np.exp(rng.normal(0, 0.05, 8) + rng.normal(0, 0.03))
        found = ratio_of(own, shared, np.ones(8, int))
        assert found is not None
        held += found.low < 1.5 < found.high
    assert held >= 195
    one, three = (ratio_of(np.full(9, 2.0), np.ones(9), np.arange(9) % many) for many in (1, 3))
    assert one is not None and three is not None and one.high / one.low > three.high / three.low > 1.05
    few = ratio_of(np.array([40.0]), np.array([1.0]), np.ones(1, int))
    assert few is not None and (few.low, few.high) == (20.0, 80.0)
    assert ratio_of(np.array([np.nan]), np.array([1.0]), np.ones(1, int)) is None


@given(st.text())
def test_a_shown_name_turns_hides_and_breaks_nothing(name: str) -> None:
    shown = shown_name(name)
    assert shown == shown_name(shown) and shown and shown == shown.strip()
    assert shown.isprintable() or "\ufffd" in shown


def test_names_are_each_another_one_and_told_where_they_look_alike(tmp_path) -> None:
    made = names_of([tmp_path / each for each in ("a\u202e.py", "a\u200b.py", "b.py")], tmp_path)
    assert made == ["a\ufffd", "a\ufffd (2)", "b"]
    assert sorted(["Zoe", "Dörte", "anna", "s10", "s9"], key=as_people_sort) == ["anna", "Dörte", "s9", "s10", "Zoe"]
    assert look_alike(["anna", "\u0430nna", "bo", "b0"]) == [["anna", "\u0430nna"], ["bo", "b0"]]
    assert FORMULA.sub(r"\1\2'", "a;=1") == "a;'=1" and FORMULA.sub(r"\1\2'", "\uff1d1") == "'\uff1d1"


def test_answers_are_brought_to_one_form() -> None:
    for written in (["float", "NAN"], ["float", "-nan"], ["list", [["float", "+NaN"]]]):
        assert answers.has_nan(answers.in_one_form(written))
    assert answers.in_one_form(["dict", [["a", ["float", "2.50"]]]]) == ["dict", [["a", 2.5]]]
    for nonsense in (["float", 3], ["list", 4], [1, 2], ["dict", [[1]]], ["integer", "x"], {"a": 1}):
        with pytest.raises(ValueError):
            answers.in_one_form(nonsense)


def test_the_filter_refuses_what_is_listed_and_allows_the_rest() -> None:
    def run(program: bytes, machine: int, number: int, argument: int = 0) -> int:
        """What the packet filter returns, run here by hand."""
        lines = [struct.unpack_from("HBBI", program, at) for at in range(0, len(program), 8)]
        at, held, data = 0, 0, {0: number, 4: machine, 16: argument}
        while True:
            code, yes, no, value = lines[at]
            if code == 0x06:
                return int(value)
            if code == 0x20:
                held, step = data[value], 0
            else:
                step = yes if {0x15: held == value, 0x35: held >= value, 0x45: bool(held & value)}[code] else no
            at += 1 + step

    for machine, clone, clone3, refused in MACHINES.values():
        program = filter_of(machine, clone, clone3, refused)
        assert run(program, machine, 9_999) == ALLOW and run(program, machine ^ 1, 9_999) != ALLOW
        assert all(run(program, machine, each) != ALLOW for each in (*refused, clone3, 0x40000000))
        assert run(program, machine, clone, 0x11) == ALLOW != run(program, machine, clone, 0x10000011)


def test_ready_families_are_what_they_say() -> None:
    rng = random.Random(3)
    for make in families.ALL:
        for n in (0, 1, 2, 30):
            if n or make not in (families.nearly_ascending, families.tree):
                make(n, rng)
    numbers, _ = families.rising_and_key(50, rng)
    assert numbers == sorted(set(numbers)) and len(numbers) == 50
    graph = families.weighted_graph(30, rng)
    assert all(graph[other][node] == far for node, near in enumerate(graph) for other, far in near.items())
    pattern, text = families.pattern_and_text(100, rng)
    assert (len(pattern), len(text)) == (10, 100)
    assert {each % 65_536 for each in families.colliding(20, rng)} == {0}
    assert [node is None for node in families.tree(3, rng)] == [True, False, False]
