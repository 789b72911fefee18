"""Searching for worst cases: changes, suspects, stretched patterns, words for what is found, the climb itself."""

from __future__ import annotations

import random
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from logarithm import expect_order, families, keeps
from logarithm.notation.encoding import decoded, encoded
from logarithm.study.files.saved_instances import shape_of
from logarithm.worst_case.change import changed
from logarithm.worst_case.climb import climb
from logarithm.worst_case.shapes import looks
from logarithm.worst_case.stretch import stretched
from logarithm.worst_case.suspects import suspects

LEAVES = st.one_of(st.integers(-9, 9), st.floats(-1, 1), st.text("abc", max_size=4), st.binary(max_size=4))
INSTANCES = st.one_of(
    st.lists(st.integers(-5, 50), min_size=2, max_size=12),
    st.lists(st.tuples(st.integers(0, 9), st.integers(0, 9)), min_size=2, max_size=9),
    st.text("ab", min_size=2, max_size=9),
    st.binary(min_size=2, max_size=9),
    st.dictionaries(st.integers(0, 20), st.integers(0, 9), min_size=2, max_size=6),
    st.sets(st.integers(0, 50), min_size=2, max_size=6),
    st.tuples(st.lists(st.floats(0, 1), min_size=2, max_size=6), st.integers(0, 9)),
    st.lists(st.lists(st.booleans(), min_size=3, max_size=3), min_size=2, max_size=4),
)


def sizes(instance: Any) -> Any:
    return [len(each) for each in instance if isinstance(each, list)] if isinstance(instance, tuple) else len(instance)


@given(INSTANCES, INSTANCES, st.integers(0, 10**6), st.booleans())
def test_a_change_keeps_kind_and_size_and_leaves_the_original(one: Any, other: Any, seed: int, order: bool) -> None:
    before = repr(one)
    made = changed(one, random.Random(seed), other if type(other) is type(one) else None, order)
    assert repr(one) == before
    assert type(made) is type(one)
    assert sizes(made) == sizes(one)


@given(st.lists(st.integers(), min_size=2, max_size=20), st.integers(0, 10**6))
def test_a_change_of_order_keeps_the_items(items: list[int], seed: int) -> None:
    assert sorted(changed(items, random.Random(seed), order_only=True)) == sorted(items)


@given(INSTANCES)
def test_instances_are_written_down_and_read_back(instance: Any) -> None:
    assert decoded(encoded(instance)) == instance
    assert type(decoded(encoded(instance))) is type(instance)
    assert repr(decoded(encoded([float("inf"), frozenset({1}), bytearray(b"x"), None]))).startswith("[inf, frozenset")
    with pytest.raises(ValueError, match="cannot be written down"):
        encoded(object())


@given(INSTANCES)
def test_suspects_are_as_long_as_what_is_typical(instance: Any) -> None:
    for _, made in suspects(instance):
        assert type(made) is type(instance)
        assert sizes(made) == sizes(instance)


@given(INSTANCES, st.integers(2, 5))
def test_a_pattern_is_stretched_to_the_shape_that_is_wanted(instance: Any, times: int) -> None:
    shape = shape_of(instance, 2, 2 * times)
    for made in stretched(instance, shape):
        assert type(made) is type(shape)
        assert sizes(made) == sizes(shape)


@pytest.mark.parametrize(
    ("instance", "words"),
    [
        ([1, 2, 3, 4], "rising"),
        ([4, 3, 2, 1], "falling"),
        ([7, 7, 7], "equal"),
        ([1, 9, 1, 9, 1], "two values in turn"),
        ([1, 2, 3, 2, 1], "rising, then falling"),
        ([1, 1, 2, 2, 5], "rising, with equal ones"),
        ("aaaa", "equal"),
        ("aaab", "equal but for the last"),
        (([5, 1, 1, 1], 3), "equal but for the first"),
        ([3, 1, 4, 1, 5, 9, 2, 6], ""),
    ],
)
def test_what_an_instance_looks_like_is_said_in_words(instance: Any, words: str) -> None:
    assert looks(instance) == words


def inversions(items: list[int]) -> float:
    return sum(one > other for at, other in enumerate(items) for one in items[:at])


def test_the_climb_finds_the_worst_and_is_steady() -> None:
    typical = families.shuffled(9, random.Random(1))
    first, again = (climb(typical, inversions, random.Random(2), 300) for _ in range(2))
    assert first.worst == again.worst
    assert first.worst is not None and first.worst[0] == 36
    assert first.best is not None and first.best[0] == 0
    assert first.suspects["falling"] == 36


def test_what_is_not_allowed_is_refused() -> None:
    typical = families.shuffled(8, random.Random(1))
    found = climb(typical, lambda items: float(sum(items)), random.Random(2), 200, keeps=keeps.permutation)
    assert found.worst is not None and keeps.permutation(found.worst[1])
    free = climb(typical, lambda items: float(sum(items)), random.Random(2), 200, keeps=keeps.distinct)
    assert free.refused > 0
    assert free.worst is not None and keeps.distinct(free.worst[1])
    assert not keeps.rising([2, 1])
    own = climb([1], lambda items: float(items[0]), random.Random(1), 50, change=lambda items, rng: [items[0] + 1])
    assert own.worst is not None and own.worst[0] > 10


def parted(items: list[int]) -> list[int]:
    if len(items) < 2:
        return items
    first, rest = items[0], items[1:]
    return [*parted([x for x in rest if x < first]), first, *parted([x for x in rest if not x < first])]


def test_a_worst_case_is_expected_in_tests_of_ones_own() -> None:
    expect_order(parted, families.shuffled, "n log n")
    with pytest.raises(AssertionError, match=r"faster (growth )?than n log n"):
        expect_order(parted, families.shuffled, "n log n", metric="comparisons", sizes_of="8..48 *1.5", worst=True)
    expect_order(lambda items: sorted(items), families.shuffled, "n log n", metric="comparisons", worst=True)
