"""What stands in the place of built-ins while items are counted: the same answers, and no fewer questions."""

from __future__ import annotations

import bisect
import heapq
from collections.abc import Callable
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from logarithm.counting.code.replaced import FUNCTIONS
from logarithm.counting.items.counted import counted
from logarithm.counting.items.values import plain
from logarithm.counting.tallies import COMPARISONS, counting

LEVELS = st.lists(st.integers(0, 12), max_size=14)
KEYS: list[Callable[[Any], Any] | None] = [None, lambda level: -level, lambda level: level // 3]


def bare(value: Any) -> Any:
    return [plain(each) for each in value] if isinstance(value, list) else plain(value)


@given(LEVELS, st.sampled_from(KEYS), st.booleans())
def test_sorting_and_extremes_are_the_same(levels: list[int], key: Callable[[Any], Any] | None, back: bool) -> None:
    watched = counted(levels)
    assert bare(FUNCTIONS[sorted](watched, key=key, reverse=back)) == sorted(levels, key=key, reverse=back)
    for choose in (min, max):
        assert bare(FUNCTIONS[choose](watched, key=key, default=-1)) == choose(levels, key=key, default=-1)
        if levels:
            assert bare(FUNCTIONS[choose](*watched, 99, key=key)) == choose(*levels, 99, key=key)
    for many in (0, 1, 3):
        for some in (heapq.nsmallest, heapq.nlargest):
            assert bare(FUNCTIONS[some](many, watched, key)) == some(many, levels, key)


@given(LEVELS, LEVELS)
def test_heaps_stay_what_they_are_and_are_asked_no_less(levels: list[int], more: list[int]) -> None:
    plainly, watched = list(levels), counted(list(levels))
    heapq.heapify(plainly)
    with counting() as found:
        FUNCTIONS[heapq.heapify](watched)
    assert bare(watched) == plainly
    assert len(levels) < 2 or found[COMPARISONS] >= len(levels) - 1
    for value in more:
        for change in (heapq.heappush, heapq.heappushpop, heapq.heapreplace):
            if change is heapq.heapreplace and not plainly:
                continue
            assert bare(FUNCTIONS[change](watched, value)) == change(plainly, value)
            assert bare(watched) == plainly
    drained = [bare(FUNCTIONS[heapq.heappop](watched)) for _ in range(len(watched))]
    assert drained == sorted(plainly)


@given(LEVELS, st.integers(-1, 13), st.sampled_from([None, lambda level: level // 3]), st.integers(0, 3))
def test_places_are_found_where_they_are(levels: list[int], wanted: int, key: Any, low: int) -> None:
    plainly = sorted(levels)
    low = min(low, len(plainly))
    for find in (bisect.bisect_left, bisect.bisect_right):
        with counting() as found:
            at = FUNCTIONS[find](counted(plainly), wanted, low, key=key)
        assert at == find(plainly, wanted, low, key=key)
        assert found[COMPARISONS] <= len(plainly).bit_length()
    for insert in (bisect.insort_left, bisect.insort_right):
        one, other = list(plainly), counted(list(plainly))
        insert(one, wanted, key=key)
        FUNCTIONS[insert](other, wanted, key=key)
        assert bare(other) == one


@pytest.mark.parametrize(
    ("name", "given_to", "told"),
    [
        (heapq.heappop, ([],), "index out of range"),
        (heapq.heapreplace, ([], 1), "index out of range"),
        (heapq.heappush, ((1, 2), 3), "must be (a )?list"),
        (heapq.heapify, ("tide",), "must be (a )?list"),
        (bisect.bisect_left, ([1], 1, -1), "lo must be non-negative"),
        (min, ([],), "empty"),
    ],
)
def test_what_they_refuse_is_refused(name: Any, given_to: tuple[Any, ...], told: str) -> None:
    with pytest.raises((IndexError, TypeError, ValueError), match=told) as ours:
        FUNCTIONS[name](*given_to)
    with pytest.raises(type(ours.value), match=told):
        name(*given_to)
