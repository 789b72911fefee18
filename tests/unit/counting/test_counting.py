"""Counts: tallies, counted instances, steps, memory, exact forms, walks, expectations."""

from __future__ import annotations

import math
import random
from fractions import Fraction
from functools import partial

import pytest
from hypothesis import given
from hypothesis import strategies as st

from logarithm import expect_faster, expect_order, tally
from logarithm.counting.items.counted import counted
from logarithm.counting.steps import counted_steps, hidden_work
from logarithm.counting.tallies import counting
from logarithm.errors import StudyError
from logarithm.notation import formulas
from logarithm.statistics.growth.exact import closed_form
from profiles import examples

SIZES = [2, 3, 4, 6, 8, 11, 16, 23, 32, 45, 64, 91, 128]


def levels(n: int, rng: random.Random) -> list[float]:
    return [rng.random() for _ in range(n)]


def calm(n: int, rng: random.Random) -> list[float]:
    return [1.0] * n


def deepest(waves: list[float]) -> float:
    best = waves[0]
    for wave in waves:
        if wave > best:
            best = wave
    return best


KNOWN = {
    "n - 1": lambda n: n - 1,
    "n*(n-1)/2": lambda n: n * (n - 1) // 2,
    "n*(n+1)*(n+2)/6": lambda n: n * (n + 1) * (n + 2) // 6,
    "3*n^2 + 2*n + 1": lambda n: 3 * n * n + 2 * n + 1,
    "floor(log2(n)) + 1": lambda n: n.bit_length(),
    "ceil(log2(n))": lambda n: (n - 1).bit_length(),
    "n*ceil(log2(n)) + 1 - 2^ceil(log2(n))": lambda n: n * (n - 1).bit_length() - 2 ** (n - 1).bit_length() + 1,
    "n + 2*floor(sqrt(n))": lambda n: n + 2 * math.isqrt(n),
    "n/2 for even n, (n - 1)/2 for odd n": lambda n: n // 2,
    "7": lambda n: 7,
}


@pytest.mark.parametrize("form", KNOWN)
def test_exact_forms_are_found_and_can_be_read_again(form: str) -> None:
    counts = [KNOWN[form](n) for n in SIZES]
    found = closed_form(SIZES, counts)
    assert found is not None
    assert found.text == form
    if " for " not in form:
        assert all(formulas.parse(found.text).holds(n, count) for n, count in zip(SIZES, counts, strict=True))


@examples(60)
@given(st.lists(st.integers(-20, 20), min_size=1, max_size=4), st.sampled_from([1, 2, 3, 6]))
def test_any_whole_polynomial_is_found(coefficients: list[int], below: int) -> None:
    values = [sum(c * Fraction(n) ** at for at, c in enumerate(coefficients)) / below for n in SIZES]
    if all(value.denominator == 1 and value >= 0 for value in values):
        found = closed_form(SIZES, [int(value) for value in values])
        assert found is not None
        if " for " not in found.text:
            formula = formulas.parse(found.text)
            assert all(formula.value(n) == value for n, value in zip(SIZES, values, strict=True))


@examples(40)
@given(st.integers(0, 2**32), st.integers(0, 12))
def test_none_is_invented(seed: int, at: int) -> None:
    counts = [n * (n - 1) // 2 for n in SIZES]
    counts[at] += 1 + seed % 5
    assert closed_form(SIZES, counts) is None
    assert closed_form(SIZES, [int(n**1.5) for n in SIZES]) is None
    assert closed_form(SIZES[:3], [1, 3, 6]) is None


@pytest.mark.parametrize(
    ("text", "at_ten"),
    [("n(n-1)/2", 45), ("⌈log₂(n+1)⌉", 4), ("2n + 1", 21), ("n² − n", 90), ("n*floor(log2(n))", 30), ("2^n", 1024)],
)
def test_formulas_are_read_as_people_write_them(text: str, at_ten: int) -> None:
    assert formulas.parse(text).value(10) == at_ten


@pytest.mark.parametrize(
    "text", ["", "m + 1", "__import__('os')", "n.real", "(lambda: 1)()", "9**9**9**9", "n/0", "n;n"]
)
def test_no_formula_is_ever_run_as_code(text: str) -> None:
    with pytest.raises(StudyError):
        formulas.parse(text)


def test_counted_instances_count_what_is_done_to_them() -> None:
    with counting() as found:
        waves = counted([3, 1, 2])
        waves[0], waves[1] = waves[1], waves[0]
        assert waves[0] < waves[1]
        assert max(waves) == 3
        assert waves == [1, 3, 2]
    assert found["swaps"] == 1
    assert found["writes"] == 2
    assert isinstance(waves[0], int)
    tally("unheard")  # nobody counts any more


def test_steps_repeat_and_tell_where_work_hides() -> None:
    waves = levels(200, random.Random(1))
    first, again, half = (counted_steps(partial(deepest, waves[:part])) for part in (200, 200, 100))
    assert first == again > 1.5 * half
    assert hidden_work(lambda: [str(wave) for wave in sorted(waves)]).calls["sorted"] == 1


def test_orders_are_expected_in_a_test_suite() -> None:
    expect_order(deepest, levels, "n")
    expect_order(max, levels, "n - 1", metric="comparisons")
    with pytest.raises(AssertionError, match=r"work = .* faster growth than n$"):
        expect_order(lambda waves: [deepest(waves) for _ in waves] and 0, calm, "n", sizes_of="8..256 *2")
    with pytest.raises(AssertionError, match="= 15 at n = 16, not"):
        expect_order(max, levels, "3*n^0", metric="comparisons")


def put_in_front(tides: list[float]) -> list[float]:
    made: list[float] = []
    for tide in tides:
        made.insert(0, tide)
    return made


def test_work_inside_built_ins_is_seen_where_an_order_is_expected() -> None:
    expect_order(lambda tides: sorted(tides), levels, "n log n")
    with pytest.raises(AssertionError, match="faster"):
        expect_order(lambda tides: sorted(tides), levels, "n", sizes_of="16..4096 *2")
    with pytest.raises(AssertionError, match="put_in_front: work"):
        expect_order(put_in_front, levels, "n log n")
    expect_order(put_in_front, levels, "n", metric="steps")
    with pytest.raises(AssertionError, match="work"):
        expect_faster(put_in_front, lambda tides: tides[::-1], levels, since=16, until=64)
