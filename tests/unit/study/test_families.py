from __future__ import annotations

import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from logarithm import Study, families
from profiles import examples


@pytest.mark.parametrize("make", families.ALL, ids=lambda make: make.__name__)
@given(n=st.integers(1, 60), seed=st.integers(0, 9))
@examples(20)
def test_an_instance_has_its_size_and_follows_from_its_seed(make, n: int, seed: int) -> None:
    instance = make(n, random.Random(seed))
    assert instance == make(n, random.Random(seed))
    pairs = {families.rising_and_key: 0, families.pattern_and_text: 1}
    whole = instance[pairs[make]] if make in pairs else instance
    assert (whole if make is families.just_n else len(whole)) == n


def test_each_family_is_what_its_name_says() -> None:
    rng = random.Random(1)
    assert sorted(families.shuffled(50, rng)) == families.ascending(50, rng) == families.descending(50, rng)[::-1]
    assert families.shuffled(50, rng) != families.ascending(50, rng)
    assert 0 < sum(a != b for a, b in enumerate(families.nearly_ascending(400, rng))) <= 4
    assert len(set(families.few_distinct(500, rng))) == 8
    assert len(set(families.all_equal(9, rng))) == 1
    graph = families.sparse_graph(40, rng)
    assert all(node in graph[other] and node != other for node, others in enumerate(graph) for other in others)
    reached, waiting = {0}, [0]
    while waiting:
        new = set(graph[waiting.pop()]) - reached
        reached |= new
        waiting += new
    assert len(reached) == 40


def test_a_study_takes_them(harbour) -> None:
    study = Study("tides")
    study.family(families.decimals)
    assert study.the_family("decimals").instance(5, 1) == study.the_family("decimals").instance(5, 1)
    assert study.the_family("decimals").instance(5, 1) != study.the_family("decimals").instance(5, 2)
