"""Known operations against plain implementations that count, and rewriting that changes no answer."""

from __future__ import annotations

import bisect
import collections
import heapq
import itertools
import math
import random
import sys
from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from logarithm import tally
from logarithm.counting.code.known import known_work
from logarithm.counting.known.arrays import did_array
from logarithm.counting.known.doing import call, is_compiled
from logarithm.counting.known.kinds import counting_known
from logarithm.counting.metric import count_metric
from logarithm.counting.steps import text_at
from logarithm.notation.kinds import (
    ASKED,
    CALLS,
    COMPARED,
    COPIED,
    DIGITS,
    ELEMENTS,
    HASHED,
    MOVED,
    PARTED,
    PRICES,
    SEARCHED,
    SIGNS,
    TOUCHED,
)
from profiles import examples

NUMBERS = st.lists(st.integers(0, 50), max_size=40)


class Buoy:
    """An item that counts the comparisons that are asked of it."""

    asked = 0

    def __init__(self, depth: int) -> None:
        self.depth = depth

    def __lt__(self, other: Buoy) -> bool:
        Buoy.asked += 1
        return self.depth < other.depth

    def __gt__(self, other: Buoy) -> bool:
        Buoy.asked += 1
        return self.depth > other.depth

    def __eq__(self, other: object) -> bool:
        Buoy.asked += 1
        return isinstance(other, Buoy) and self.depth == other.depth

    __hash__ = None  # type: ignore[assignment]


def done(function: Callable[..., Any], *given: Any) -> dict[str, float]:
    """What a function does, by kind."""
    with counting_known() as found:
        call(function, *given)
    return found.amounts


ASKING: dict[str, Callable[[list[Any]], Any]] = {
    "sorted": sorted,
    "list.sort": lambda values: values.sort(),
    "min": min,
    "max": max,
    "heapify": heapq.heapify,
    "nsmallest": lambda values: heapq.nsmallest(3, values),
    "nlargest": lambda values: heapq.nlargest(3, values),
}


@pytest.mark.parametrize("name", ASKING)
@examples(15)
@given(depths=NUMBERS)
def test_comparisons_are_those_that_are_really_asked(name: str, depths: list[int]) -> None:
    if name in ("min", "max") and not depths:
        return
    Buoy.asked = 0
    ASKING[name]([Buoy(depth) for depth in depths])
    amounts = known_work(lambda: ASKING[name](depths[:]), ASKING[name])[0].amounts
    if name == "sorted":
        amounts = done(sorted, depths)
    elif name in ("min", "max", "heapify"):
        amounts = done(getattr(heapq, name) if name == "heapify" else ASKING[name], depths[:])
    # Pairs are asked twice, whether they are equal and which is less: that is one question.
    assert amounts.get(COMPARED, 0) <= Buoy.asked if name.startswith("n") else amounts.get(COMPARED, 0) == Buoy.asked


@given(depths=NUMBERS, more=NUMBERS)
def test_heaps_ask_what_they_ask_and_stay_heaps(depths: list[int], more: list[int]) -> None:
    plain, own, reference = [], [], []
    Buoy.asked = 0
    with counting_known() as found:
        for depth in [*depths, *more]:
            heapq.heappush(plain, depth)
            heapq.heappush(reference, Buoy(depth))
            call(heapq.heappush, own, depth)
            if len(own) > 20:
                assert call(heapq.heappop, own) == heapq.heappop(plain)
                heapq.heappop(reference)
            if own and depth % 3 == 0:
                assert call(heapq.heapreplace, own, depth) == heapq.heapreplace(plain, depth)
                heapq.heapreplace(reference, Buoy(depth))
                assert call(heapq.heappushpop, own, depth) == heapq.heappushpop(plain, depth)
                heapq.heappushpop(reference, Buoy(depth))
    assert own == plain
    assert found.amounts.get(COMPARED, 0) == Buoy.asked


def moved(change: Callable[[list[int]], Any], many: int) -> int:
    """How many items lie at another place after a change of a list of different ones."""
    values = list(range(many))
    before = {value: at for at, value in enumerate(values)}
    change(values)
    return sum(value in before and before[value] != at for at, value in enumerate(values))


@pytest.mark.parametrize(
    "change",
    [
        lambda values: values.insert(3, -1),
        lambda values: values.insert(0, -1),
        lambda values: values.insert(len(values), -1),
        lambda values: values.pop(0),
        lambda values: values.pop(4),
        lambda values: values.pop(),
        lambda values: values.remove(5),
    ],
)
def test_moves_are_those_of_a_plain_list(change: Callable[[list[int]], Any]) -> None:
    values = list(range(20))
    amounts = known_work(lambda: change(values), change)[0].amounts
    assert amounts.get(MOVED, 0) == moved(change, 20)


def deleting(values: list[int]) -> None:
    del values[2]
    del values[3:7]
    values[1:1] = [7, 7]


def test_removals_and_parts_move_what_lies_behind() -> None:
    values = list(range(20))
    amounts = known_work(lambda: deleting(values), deleting)[0].amounts
    assert values == [0, 7, 7, 1, 3, *range(8, 20)]
    assert amounts[MOVED] == 17 + 12 + 16
    assert amounts[COPIED] == 2


N = 24
VALUES = list(range(N))
EXACT: list[tuple[str, Callable[[], Any], dict[str, float]]] = [
    ("sum", lambda: sum(VALUES), {TOUCHED: N}),
    ("any", lambda: any(VALUES), {TOUCHED: 2}),
    ("all", lambda: all(VALUES), {TOUCHED: 1}),
    ("list", lambda: list(VALUES), {COPIED: N}),
    ("iterator", lambda: list(iter(VALUES)), {COPIED: N}),
    ("tuple", lambda: tuple(VALUES), {COPIED: N}),
    ("set", lambda: set(VALUES), {HASHED: N}),
    ("dict", lambda: dict.fromkeys(VALUES), {HASHED: N}),
    ("counter", lambda: collections.Counter(VALUES), {HASHED: N}),
    ("index", lambda: VALUES.index(9), {COMPARED: 10}),
    ("count", lambda: VALUES.count(9), {COMPARED: N}),
    ("in list", lambda: 9 in VALUES, {COMPARED: 10}),
    ("not in list", lambda: -1 not in VALUES, {COMPARED: N}),
    ("in set", lambda: 9 in SET, {HASHED: 1}),
    ("equal lists", lambda: VALUES == COPY, {COMPARED: N + 1}),
    ("lists that differ at once", lambda: VALUES < [1, 2], {COMPARED: 1}),
    ("part", lambda: VALUES[3:9], {COPIED: 6}),
    ("part of a text", lambda: TEXT[3:9], {SIGNS: 6}),
    ("sum of lists", lambda: VALUES + VALUES, {COPIED: 2 * N}),
    ("repeated", lambda: VALUES * 3, {COPIED: 3 * N}),
    ("joined", lambda: ",".join(WORDS), {TOUCHED: 3, SIGNS: 14}),
    ("f-text", lambda: f"<{TEXT}>", {SIGNS: N + 2}),
    ("found", lambda: TEXT.find("f"), {SEARCHED: 5}),
    ("not found", lambda: TEXT.find("?"), {SEARCHED: N}),
    ("sets met", lambda: SET & {1, 2}, {HASHED: 2}),
    ("sets joined", lambda: SET | {1, 2}, {HASHED: N + 2}),
    ("bisected", lambda: bisect.bisect_left(VALUES, 9), {COMPARED: 5}),
    ("permutations", lambda: list(itertools.permutations(range(3))), {COPIED: 6 * 3 + 6}),
    ("spread", lambda: [*VALUES, *VALUES], {COPIED: 2 * N}),
    ("long product", lambda: BIG * BIG, {DIGITS: 34 * 34}),
    ("mapped", lambda: list(map(sum, [VALUES, VALUES])), {TOUCHED: 2 * N, COPIED: 2}),
    ("constant", lambda: len(VALUES), {}),
    ("number", lambda: 3 + 4.5 * N, {}),
]
SET, COPY, TEXT, WORDS, BIG = set(VALUES), VALUES[:], "abcdefghijklmnopqrstuvwx", ["tide", "ebb", "flood"], 1 << 1000


@pytest.mark.parametrize(("name", "run", "amounts"), EXACT, ids=[name for name, *_ in EXACT])
def test_what_an_operation_does_is_counted(name: str, run: Callable[[], Any], amounts: dict[str, float]) -> None:
    found, is_read = known_work(run, run)
    assert is_read
    assert found.amounts == amounts, name
    assert found.steps == pytest.approx(sum(PRICES[kind] * amount for kind, amount in amounts.items()))


def grown(words: list[str]) -> str:
    page = ""
    for word in words:
        page += word
    return page


def held(words: list[str]) -> list[str]:
    pages, page = [], ""
    for word in words:
        page = page + word
        pages.append(page)
    return pages


def bytes_grown(words: list[bytes]) -> bytes:
    page = b""
    for word in words:
        page += word
    return page


def test_a_text_that_nobody_else_holds_grows_where_it_is() -> None:
    words = ["ebb "] * 100
    assert known_work(lambda: grown(words), grown)[0].amounts[SIGNS] <= 4 * 100 + 8
    assert known_work(lambda: held(words), held)[0].amounts[SIGNS] > 4 * 100 * 99 / 2
    assert known_work(lambda: bytes_grown([b"ebb "] * 100), bytes_grown)[0].amounts[SIGNS] > 4 * 100 * 99 / 2


def test_what_is_not_in_the_table_is_named() -> None:
    def summary(values: list[float]) -> Any:
        return sys.intern("tide"), math.frexp(sum(values))

    assert {"intern", "frexp"} <= known_work(lambda: summary([1.0]), summary)[0].unknown

    def tallied(values: list[float]) -> float:
        tally("readings", len(values))
        return max(values)

    assert known_work(lambda: tallied([1.0]), tallied)[0].unknown == set()


def pairs_made_inside(n: int) -> list[tuple[float, int]]:
    chance = random.Random(n)
    return sorted((chance.random(), number) for number in range(n))


def test_items_made_inside_are_seen() -> None:
    amounts = [known_work(lambda n=n: pairs_made_inside(n), pairs_made_inside)[0].amounts[PARTED] for n in (64, 1024)]  # type: ignore[misc]
    assert amounts[1] / amounts[0] > 20  # n log n, not n


def least_removed(values: list[int]) -> int:
    while len(values) > 1:
        values.remove(min(values))
    return values[0]


def test_what_is_done_is_told_by_its_place() -> None:
    values = list(range(9, 0, -1))
    done, _ = known_work(lambda: least_removed(values), least_removed, with_places=True)
    assert done.places is not None
    told = {text_at(code, offset)[2]: amounts for (code, offset), amounts in done.places.items()}
    # The least is the last one: all are compared, none is moved.
    assert told["values.remove(min(values))"] == {COMPARED: sum(range(2, 10))}
    assert told["min(values)"] == {COMPARED: sum(range(1, 9))}


def puzzling(values: list[int]) -> Any:
    total, text, table = 0, "", {}
    total += len(values)
    table["a"] = [*values[:2], total]
    values[0:1] = [9, 9]
    text += f"{total:>4}" + str(values[-1])
    first, *rest = values
    chosen = [v for v in values if v in rest or v > 3]
    if 0 < total < 100:
        del values[1]
    a = b = sorted(values, key=lambda v: -v)
    a[0], b[-1] = b[-1], a[0]
    return total, text, table, chosen, values, a, max(values), any(v == 9 for v in values), [*rest, *chosen], first


@examples(40)
@given(values=st.lists(st.integers(0, 9), min_size=3, max_size=12))
def test_rewriting_changes_no_answer(values: list[int]) -> None:
    answers: list[Any] = []
    known_work(lambda: answers.append(puzzling(values[:])), puzzling)
    assert answers == [puzzling(values[:])]


# --- arrays -----------------------------------------------------------------------------------------------------------

LINE, SQUARE = np.arange(64.0), np.ones((8, 8))
ARRAYS: list[tuple[str, Callable[[], Any], dict[str, float]]] = [
    ("element-wise", lambda: LINE + 1, {ELEMENTS: 64}),
    ("broadcast", lambda: LINE[:, None] - LINE, {ELEMENTS: 64 * 64}),
    ("product", lambda: SQUARE @ SQUARE, {ELEMENTS: 8**3}),
    ("sorted", lambda: np.sort(LINE), {ASKED: 64 * 6}),
    ("searched", lambda: np.searchsorted(LINE, LINE), {ASKED: 64 * 6}),
    ("convolved", lambda: np.convolve(LINE, LINE), {ELEMENTS: 64 * 64}),
    ("transformed", lambda: np.fft.fft(LINE), {ELEMENTS: 64 * 6}),
    ("reduced", lambda: LINE.sum(), {ELEMENTS: 64}),
    ("compared", lambda: LINE < 3, {ELEMENTS: 64}),
    ("solved", lambda: np.linalg.inv(SQUARE + np.eye(8)), {ELEMENTS: 8**3 + 2 * 64}),
    ("summed by letters", lambda: np.einsum("ij,jk->ik", SQUARE, SQUARE), {ELEMENTS: 8**3}),
    ("viewed", lambda: LINE.reshape(8, 8), {}),
    ("asked for its length", lambda: len(LINE), {}),
    ("asked for its kind", lambda: isinstance(LINE, np.ndarray), {}),
    ("picked", lambda: LINE[np.array([1, 2])], {ELEMENTS: 4}),
]


@pytest.mark.parametrize(("name", "run", "amounts"), ARRAYS, ids=[name for name, *_ in ARRAYS])
def test_arrays_are_counted_by_their_shapes(name: str, run: Callable[[], Any], amounts: dict[str, float]) -> None:
    found = known_work(run, run)[0].amounts
    assert {kind: amount for kind, amount in found.items() if kind != CALLS} == amounts, name
    assert not amounts or found[CALLS] >= 1


def test_array_functions_that_nobody_knows_are_named() -> None:
    with counting_known() as found:
        did_array("moonrise", (LINE,), LINE)
    assert found.unknown == {"numpy.moonrise"}
    assert found.amounts[ELEMENTS] == 64


def test_compiled_contenders_are_counted_too() -> None:
    assert is_compiled(sum)
    assert is_compiled(np.sort)
    assert not is_compiled(grown)
    found, is_read = known_work(lambda: None, np.sort, LINE)
    assert is_read
    assert found.amounts[ASKED] == 64 * 6
    work = count_metric("work", lambda: VALUES[:], lambda values: lambda: sum(values), sum)
    assert work is not None
    assert work >= N // 2


def test_two_functions_on_one_line_are_not_mistaken_for_each_other() -> None:
    first, second = (lambda tides: sorted(tides)[0]), (lambda tides: [tides.copy(), *tides])
    for function in (first, second):
        answers: list[Any] = []
        known_work(lambda of=function, to=answers: to.append(of([3, 1, 2])), function)  # type: ignore[misc]
        assert answers == [function([3, 1, 2])]
    assert known_work(lambda: second([3, 1, 2]), second)[0].amounts == {COPIED: 3 + 4}
