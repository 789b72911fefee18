"""Counted instances: operations counted by hand, and random programs that behave as they do on plain instances."""

from __future__ import annotations

import copy
import importlib
import random
import sys
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from logarithm.counting.code.item_counting import ITEMS
from logarithm.counting.code.rewriting import rewritten
from logarithm.counting.items.counted import counted, plain
from logarithm.counting.steps import counted_lines
from logarithm.counting.tallies import counting
from logarithm.counting.walk.follow import followed
from profiles import examples

sys.path.insert(0, str(Path(__file__).resolve().parents[3] / "benchmarks" / "counting"))
PROGRAMS, TRUTHS = importlib.import_module("programs"), importlib.import_module("truths")


@pytest.mark.parametrize("job", range(len(TRUTHS.TRUTHS)), ids=lambda job: TRUTHS.TRUTHS[job][0].__name__)
def test_operations_are_those_that_were_counted_by_hand(job: int) -> None:
    function, instance, expected = TRUTHS.TRUTHS[job]
    answer = function(copy.deepcopy(instance))
    made = counted(instance)
    with rewritten(function, ITEMS) as is_read, counting() as found:
        given = function(made)
    assert is_read
    assert dict(found) == expected
    assert plain(given) == answer
    assert not any(name.startswith("__counted") for name in vars(TRUTHS))


@examples(80)
@given(statements=st.lists(st.sampled_from(PROGRAMS.STATEMENTS), min_size=1, max_size=7), seed=st.integers(0, 10**6))
def test_random_programs_behave_as_on_plain_instances(
    statements: list[str], seed: int, tmp_path_factory: pytest.TempPathFactory
) -> None:
    chance = random.Random(seed)
    text = PROGRAMS.HEAD + PROGRAMS.program("program", [PROGRAMS.filled(each, chance) for each in statements])
    path = tmp_path_factory.mktemp("programs") / "random_program.py"
    path.write_text(text)
    function = PROGRAMS.loaded(path, "random_program").program
    instance = PROGRAMS.instance(chance)
    expected = PROGRAMS.outcome(function, copy.deepcopy(instance))
    made = counted(instance)
    with rewritten(function, ITEMS):
        assert repr(PROGRAMS.outcome(function, made)) == repr(expected)


def test_lines_tell_how_often_they_run_and_calls_are_counted() -> None:
    steps = counted_lines(lambda: TRUTHS.exchanging([5, 4, 3, 2, 1]))
    runs = {line.line: line.runs for line in steps.lines if line.file == TRUTHS.__file__}
    first = TRUTHS.exchanging.__code__.co_firstlineno
    assert runs[first + 3] == runs[first + 4] == 10
    assert steps.calls == 1


def test_what_happens_is_followed_with_the_variables_after_it() -> None:
    made = counted([2, 1])
    with rewritten(TRUTHS.by_hand, ITEMS):
        found = followed(lambda: TRUTHS.by_hand(made), {TRUTHS.__file__})
    last = found.events[-1]
    assert (last.kind, last.what) == ("swap", "swap levels[0] and levels[1]")
    assert last.touched == {"levels": [0, 1]}
    assert last.changed["levels"] == ["cells", ["1", "2"]]
    assert last.tallies == {"reads": 2, "writes": 2, "swaps": 1}
    chain = counted(TRUTHS.Buoy(2, TRUTHS.Buoy(5)))
    begin = followed(lambda: TRUTHS.deepest_buoy(chain), {TRUTHS.__file__}).events[0]
    assert begin.changed["head"] == ["chain", ["2", "5"]]
