"""Counted values and containers: they do what plain ones do, and count what is asked of them."""

from __future__ import annotations

import json
import operator
import pickle
from collections import Counter, OrderedDict, defaultdict, deque
from collections.abc import Callable
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from logarithm.counting.items.counted import counted
from logarithm.counting.items.values import BASES, item, plain
from logarithm.counting.tallies import COMPARISONS, HASHES, READS, WRITES, counting
from profiles import examples

NUMBERS = st.one_of(st.integers(-40, 40), st.floats(-9, 9, allow_nan=False))
TEXTS = st.text("buoy ", max_size=6)
BYTES = st.binary(max_size=5)
TUPLES = st.tuples(st.integers(0, 3), st.text("ab", max_size=2))
ANY = st.one_of(NUMBERS, TEXTS, BYTES, TUPLES)
PAIRS: list[Callable[[Any, Any], Any]] = [
    *(operator.add, operator.sub, operator.mul, operator.truediv, operator.floordiv, operator.mod, divmod),
    *(operator.and_, operator.or_, operator.xor, operator.lt, operator.le, operator.eq, operator.ne, operator.ge),
    operator.contains,
    operator.getitem,
    lambda one, other: pow(one, other) if abs(one) < 9 and abs(other) < 5 else None,
    lambda one, other: [one, other] == [other, one],
    lambda one, other: f"{one}|{other}",
    lambda one, other: sorted([one, other]),
    lambda one, other: {one: 1}.get(other),
]
SINGLE: list[Callable[[Any], Any]] = [
    *(operator.neg, abs, operator.invert, int, float, str, bytes, repr, len, hash, list, tuple, bool, round),
    lambda value: value[0],
    lambda value: value[::-1],
    lambda value: value[1:3],
    lambda value: value.upper(),
    lambda value: value.split(),
    lambda value: value.partition(value[:1]),
    lambda value: value.join([value, value]),
    lambda value: value.encode(),
    lambda value: value.hex(),
    lambda value: value.bit_length(),
    lambda value: json.dumps(value),
    lambda value: pickle.loads(pickle.dumps(value)),
    lambda value: "%s|%s" % (value, value),  # noqa: UP031 - it is what is tried
    lambda value: [*value],
    lambda value: value.is_integer(),
]


def outcome(run: Callable[..., Any], *given_to: Any) -> Any:
    """What comes of a call, in plain values, or what kind of exception it raises."""
    try:
        return bare(run(*given_to))
    except (TypeError, ValueError, ArithmeticError, AttributeError, LookupError) as error:
        return type(error)


def bare(value: Any) -> Any:
    if isinstance(value, list):
        return [bare(each) for each in value]
    if type(value) is tuple:
        return tuple(map(bare, value))
    return plain(value)


@given(ANY, ANY, st.sampled_from(PAIRS))
@examples(400)
def test_two_counted_values_do_what_plain_ones_do(one: Any, other: Any, run: Callable[[Any, Any], Any]) -> None:
    expected = outcome(run, one, other)
    for given_to in ((item(one), item(other)), (item(one), other), (one, item(other))):
        found = outcome(run, *given_to)
        assert found == expected, (given_to, found, expected)
        assert type(found) is type(expected)


@given(ANY, st.sampled_from(SINGLE))
@examples(300)
def test_one_counted_value_does_what_a_plain_one_does(value: Any, run: Callable[[Any], Any]) -> None:
    found, expected = outcome(run, item(value)), outcome(run, value)
    assert (found, type(found)) == (expected, type(expected))


@given(ANY)
def test_a_counted_value_is_its_plain_one_again(value: Any) -> None:
    made = item(value)
    assert type(made) in BASES and isinstance(made, type(value))
    assert plain(made) == value and type(plain(made)) is type(value)
    assert repr(made) == repr(value) and type(made).__name__ == type(value).__name__
    assert item(None) is None and plain(made) is not made


@pytest.mark.parametrize(
    ("run", "counts"),
    [
        (lambda: item(3) < item(5), {COMPARISONS: 1}),
        (lambda: item(3) == 3.5, {COMPARISONS: 1}),
        (lambda: item((1, "a", 2)) < item((1, "a", 3)), {COMPARISONS: 1}),
        (lambda: hash(item("foghorn")), {HASHES: 1}),
        (lambda: hash(item((1, "a"))), {HASHES: 1}),
        (lambda: item("foghorn")[2], {READS: 1}),
        (lambda: item("foghorn")[1:4], {READS: 3}),
        (lambda: [*item("tide")], {READS: 4}),
        (lambda: item("tide") + "low", {WRITES: 3}),
        (lambda: "tide" + item("low"), {WRITES: 3}),
        (lambda: item("tide").upper(), {WRITES: 4}),
        (lambda: item(3) + item(4) * 2, {}),
        (lambda: sorted(item(each) for each in (1, 2, 3)), {COMPARISONS: 2}),
    ],
)
def test_what_is_asked_of_a_value_is_counted_once(run: Callable[[], Any], counts: dict[str, int]) -> None:
    with counting() as found:
        run()
    assert {name: count for name, count in found.items() if count} == counts


def test_what_is_computed_is_counted_again() -> None:
    for made in (item(3) + 1, item(2) / 3, -item(7), item("a,b").split(",")[1], divmod(item(7), 2)[0], item(2) + 0.5):
        assert type(made) in BASES
    assert type(operator.add(item((1, 2)), (3,))) in BASES and type(item((1, 2)) * 2) in BASES


CHANGES: list[Callable[[Any], Any]] = [
    lambda values: values.append(7),
    lambda values: values.insert(1, 7),
    lambda values: values.pop(),
    lambda values: values.pop(0),
    lambda values: values.extend([9, 8]),
    lambda values: values.reverse(),
    lambda values: values.sort(),
    lambda values: values.sort(key=lambda value: -value, reverse=True),
    lambda values: values.remove(values[0]),
    lambda values: values.index(values[-1]),
    lambda values: values.count(3),
    lambda values: values.__setitem__(slice(0, 2), [4]),
    lambda values: values.__delitem__(0),
    lambda values: values.__iadd__([1]),
    lambda values: values[1:] + values[:1],
    lambda values: 5 in values,
    lambda values: max(values) - min(values),
    lambda values: [*reversed(values)],
    lambda values: values * 2,
]


@given(st.lists(st.integers(0, 9), max_size=6), st.lists(st.sampled_from(range(len(CHANGES))), max_size=5))
@examples(200)
def test_a_counted_list_does_what_a_plain_one_does(values: list[int], changes: list[int]) -> None:
    plainly, watched = list(values), counted(list(values))
    for number in changes:
        assert outcome(CHANGES[number], watched) == outcome(CHANGES[number], plainly)
        assert bare(list(watched)) == plainly


KEYED: list[Callable[[Any], Any]] = [
    lambda held: held.get(3),
    lambda held: held.setdefault(4, 1),
    lambda held: held.pop(3, None),
    lambda held: held.update({5: 2}),
    lambda held: sorted(held.items()),
    lambda held: 3 in held,
    lambda held: held[9],
    lambda held: held | {6: 0},
    lambda held: held.popitem() if len(held) == 1 else None,
    lambda held: {key: value + 1 for key, value in held.items()},
]


@given(st.dictionaries(st.integers(0, 6), st.integers(0, 3), max_size=4), st.sampled_from(KEYED))
def test_a_counted_dictionary_does_what_a_plain_one_does(values: dict[int, int], run: Callable[[Any], Any]) -> None:
    plainly, watched = dict(values), counted(dict(values))
    assert outcome(run, watched) == outcome(run, plainly)
    assert {plain(key): plain(value) for key, value in dict(watched).items()} == plainly


@given(st.sets(st.integers(0, 9), max_size=5), st.sets(st.integers(0, 9), max_size=5))
def test_a_counted_set_does_what_a_plain_one_does(one: set[int], other: set[int]) -> None:
    watched = counted(set(one))
    for run in (set.union, set.intersection, set.difference, set.symmetric_difference, set.issubset, set.isdisjoint):
        found = getattr(watched, run.__name__)(other)
        assert (set(map(plain, found)) if isinstance(found, set) else found) == run(one, other), run.__name__
    watched.add(11)
    watched.discard(3)
    assert set(map(plain, watched)) == (one | {11}) - {3}


COUNTERS: list[Callable[[Any], Any]] = [
    lambda held: held.most_common(),
    lambda held: held[3],
    lambda held: held.update([3, 3, 5]),
    lambda held: held.subtract({3: 1}),
    lambda held: sorted(held.elements()),
    lambda held: held + Counter({1: 2}),
    lambda held: held.total(),
    lambda held: held.pop(3, 0),
]


@given(st.lists(st.integers(0, 5), max_size=6), st.lists(st.sampled_from(range(len(COUNTERS))), max_size=4))
def test_a_counted_counter_does_what_a_plain_one_does(values: list[int], changes: list[int]) -> None:
    plainly, watched = Counter(values), counted(Counter(values))
    for number in changes:
        assert outcome(COUNTERS[number], watched) == outcome(COUNTERS[number], plainly)
        assert {plain(key): plain(value) for key, value in watched.items()} == dict(plainly)


ENDS: list[Callable[[Any], Any]] = [
    lambda held: held.append(7),
    lambda held: held.appendleft(8),
    lambda held: held.pop(),
    lambda held: held.popleft(),
    lambda held: held.extend([1, 2]),
    lambda held: held.extendleft([1, 2]),
    lambda held: held.rotate(2),
    lambda held: held[0],
    lambda held: held.__setitem__(0, 5),
    lambda held: 3 in held,
    lambda held: held.__iadd__([4]) and None,
    lambda held: list(held.copy()),
]


@given(
    st.lists(st.integers(0, 9), max_size=5),
    st.sampled_from([None, 3]),
    st.lists(st.sampled_from(range(len(ENDS))), max_size=5),
)
def test_a_counted_deque_does_what_a_plain_one_does(values: list[int], most: int | None, changes: list[int]) -> None:
    plainly, watched = deque(values, most), counted(deque(values, most))
    for number in changes:
        assert outcome(ENDS[number], watched) == outcome(ENDS[number], plainly)
        assert bare(list(watched)) == list(plainly) and watched.maxlen == most


def test_other_kinds_of_dictionaries_stay_what_they_are() -> None:
    grouped = counted(defaultdict(list, {1: [2]}))
    grouped[4].append(5)
    assert {plain(key): bare(list(value)) for key, value in grouped.items()} == {1: [2], 4: [5]}
    ordered = counted(OrderedDict([(1, "a"), (2, "b")]))
    ordered.move_to_end(1)
    assert [plain(key) for key in ordered] == [2, 1] and plain(ordered.popitem(last=False)[1]) == "b"
    frozen = counted(frozenset({1, 2}))
    assert hash(frozen) == hash(frozenset({1, 2})) and frozen | {3} == {1, 2, 3}
    mixed = counted({"rows": [[1, 2], (3, "x")], "other": None})
    with counting() as found:
        assert plain(mixed["rows"][0][1]) == 2
    assert (found[HASHES], found[READS]) == (1, 2) and plain(counted(bytearray(b"ab"))[1]) == 98
