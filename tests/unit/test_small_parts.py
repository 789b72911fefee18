"""Small parts with properties of their own: robust means, comparisons, answers, shrinking, words."""

from __future__ import annotations

import math
import sys
from itertools import combinations
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from logarithm.counting.items.counted import counted
from logarithm.counting.tallies import counting
from logarithm.errors import guess, named, one_line
from logarithm.grading.answers.shrink import TRIES_MOST, shrunk
from logarithm.logbook.reading import read_logbook
from logarithm.logbook.records import ContenderRecord, Header, HiddenRecord
from logarithm.logbook.writing import write_logbook
from logarithm.notation import encoding, numbers
from logarithm.notation.encoding import decoded, encoded
from logarithm.notation.orders import parse
from logarithm.protocol import answers
from logarithm.report import units
from logarithm.report.documents.findings.special.changes import change_said
from logarithm.report.figure.canvas import styles
from logarithm.report.figure.ticks import of_cost
from logarithm.report.text.markdown import escaped
from logarithm.results.revisions import NOW, UNKNOWN, RevisionChange
from logarithm.statistics.comparison.choice import cutoffs, safe_choices
from logarithm.statistics.comparison.crossover import Axis
from logarithm.statistics.comparison.pair import PairComparison, SizeRange, compare_pair
from logarithm.statistics.comparison.standings import standings
from logarithm.statistics.comparison.startup import startups
from logarithm.statistics.growth.catalogue import log_values, shape
from logarithm.statistics.growth.exponent import tail_exponent
from logarithm.statistics.readings.arrays import median
from logarithm.statistics.readings.quantiles import log_factorial, student_quantile
from logarithm.statistics.readings.series import Series
from logarithm.statistics.work.native import native_work
from logarithm.supervisor.programs.exchange import filled, read_answer
from profiles import examples

FINITE = st.floats(-1e6, 1e6)
PLAIN = st.recursive(
    st.none() | st.booleans() | st.integers(-(10**12), 10**12) | FINITE | st.text(max_size=5),
    lambda inner: st.lists(inner, max_size=4) | st.tuples(inner, inner) | st.dictionaries(st.text(max_size=3), inner),
    max_leaves=12,
)
SIZES = np.array([8.0, 16, 32, 64, 128, 256])


def series(name: str, costs: Any, sizes: Any = SIZES, family: str = "bay", metric: str = "time") -> Series:
    """A series without noise, in five heats."""
    table = np.repeat(np.asarray(costs, dtype=float)[:, None], 5, axis=1) * (1 + np.arange(5) / 1e5)
    heats = np.arange(1, 6, dtype=np.int32)
    return Series(name, family, None, metric, np.asarray(sizes, dtype=float), heats, np.ones(5, np.int32), table)


# --- robust means and orders ------------------------------------------------------------------------------------------


def test_a_median_of_nothing_is_no_number() -> None:
    assert math.isnan(float(median(np.array([[math.nan, math.nan]]))[0]))


@pytest.mark.parametrize("text", ["1", "log n", "sqrt n", "n", "n log n", "n^2 log n", "n^1.58", "2^n", "n!"])
def test_many_values_of_an_order_are_those_of_one_by_one(text: str) -> None:
    order = parse(text)
    sizes = np.array([1.0, 2, 3, 10, 50])
    assert log_values(order, sizes) == pytest.approx([order.log_value(float(n)) for n in sizes])
    assert shape(order, sizes)[-1] == 1.0


@given(st.floats(0.2, 3.0))
def test_the_tail_exponent_of_a_power_is_its_power(power: float) -> None:
    found = tail_exponent(SIZES, SIZES**power, np.full(len(SIZES), 0.01))
    assert found.value == pytest.approx(power, abs=1e-6)
    assert found.low < power < found.high


# --- comparing --------------------------------------------------------------------------------------------------------


@given(st.floats(12, 180), st.floats(0.4, 2.0))
@examples(40)
def test_a_crossing_without_noise_is_found_where_it_is(at: float, slope: float) -> None:
    found = compare_pair(series("one", SIZES / at), series("other", (SIZES / at) ** (1 - slope)))
    assert found is not None
    (crossing,) = found.crossings
    assert crossing.size == pytest.approx(at, rel=0.01)
    assert (crossing.before, crossing.after) == ("one", "other")
    mirrored = compare_pair(series("other", (SIZES / at) ** (1 - slope)), series("one", SIZES / at))
    assert mirrored is not None
    assert mirrored.crossings[0].size == pytest.approx(crossing.size, rel=1e-3)


def test_positions_are_logarithms_only_where_sizes_rise_far() -> None:
    assert Axis.of(np.array([8.0, 1024.0])).is_log
    assert not Axis.of(np.array([0.0, 99.0])).is_log
    assert not Axis.of(np.array([1990.0, 2020.0])).is_log
    assert Axis.of(np.array([8.0, 1024.0])).size(math.log(64)) == pytest.approx(64)


def test_a_size_that_only_some_were_measured_at_changes_no_standing() -> None:
    low, high = series("low", SIZES), series("high", 3 * SIZES)
    sizes = np.sort(np.append(SIZES, 90.0))
    odd = series("odd", 2 * sizes, sizes)
    pairs = [(low, high), (low, odd), (high, odd)]
    comparisons = {(a.contender, b.contender): found for a, b in pairs if (found := compare_pair(a, b)) is not None}
    ranges = standings(("bay", None, "time"), [low, high, odd], comparisons)
    assert [(leading.leader, leading.start, leading.end) for leading in ranges] == [("low", 8, 256)]


def test_a_lead_is_not_said_of_a_size_at_which_the_other_is_ahead() -> None:
    wild = series("wild", SIZES)
    wild.costs[0] *= np.array([0.2, 0.9, 0.15, 2.0, 0.3])  # it seems ahead there, but that is not sure
    pair = compare_pair(series("steady", 0.5 * SIZES), wild)
    assert pair is not None
    assert pair.zones[0] == SizeRange(8.0, pair.zones[0].end, 0)


def paired(*group: Series) -> dict[tuple[str, str], PairComparison]:
    """Each two of some series, compared."""
    found = {(one.contender, other.contender): compare_pair(one, other) for one, other in combinations(group, 2)}
    return {names: pair for names, pair in found.items() if pair is not None}


def test_a_change_of_which_nothing_was_seen_is_told() -> None:
    change = RevisionChange("spread", "gauge", None, "time", "v1", NOW, UNKNOWN, [], [], None, None)
    assert change_said(change, "n") == "spread on gauge since v1: not known, there are too few trials"


def test_the_safe_choice_is_not_changed_for_little() -> None:
    ebb = paired(series("a", np.full(6, 10.0)), series("b", np.full(6, 10.3)))
    flood = paired(series("a", np.full(6, 10.4)), series("b", np.full(6, 10.0)))
    (choice,) = safe_choices(None, "time", [ebb, flood], ["a", "b"])
    assert choice.contender == "b"
    assert choice.worst == pytest.approx(1.03, abs=0.001)


def test_nothing_is_chosen_where_the_safe_one_was_not_measured() -> None:
    ebb = paired(series("a", 5 * SIZES), series("b", SIZES), series("c", 9 * SIZES))
    few = SIZES[:-2]
    flood = paired(series("a", 2 * SIZES), series("b", few, few), series("c", 3 * SIZES))
    choices = safe_choices(None, "time", [ebb, flood], ["a", "b", "c"])
    assert [(each.contender, each.end) for each in choices] == [("b", few[-1])]


def test_a_cutoff_is_only_for_a_lead_that_changes_once() -> None:
    other = series("other", np.full(6, 50.0))
    once = {"bay": paired(series("one", SIZES), other)}
    more = 8.0 * 2.0 ** np.arange(12)
    hill = series("one", 250 * np.exp(-(np.log(more / 300) ** 2)), more)
    back = {"bay": paired(hill, series("other", np.full(12, 50.0), more))}
    (switch,) = cutoffs(None, "time", once, ["one", "other"])
    assert switch.size == pytest.approx(50.0, rel=0.1)
    assert switch.worst == 1
    assert len(back["bay"]["one", "other"].crossings) == 2
    assert cutoffs(None, "time", back, ["one", "other"]) == []


def test_a_command_is_ahead_earlier_if_it_were_kept_running(tmp_path) -> None:
    path = tmp_path / "run.jsonl"
    write_logbook(path, [Header(), ContenderRecord(name="command", startup=1e-3), ContenderRecord(name="python")])
    python, command = series("python", 1e-4 * SIZES), series("command", 1e-3 + 5e-6 * SIZES)
    (found,) = startups(read_logbook(path), [python, command])
    assert (found.contender, found.over, found.seconds) == ("command", "python", 1e-3)
    assert found.size == pytest.approx(10.5, rel=0.05)
    assert found.kept == 8  # from the smallest size on


@pytest.mark.parametrize(("later", "grows"), [(90_000, ["list.pop"]), (1_000, [])])
def test_work_hides_where_one_operation_becomes_dearer(tmp_path, later: int, grows: list[str]) -> None:
    path = tmp_path / "run.jsonl"
    rows = [
        HiddenRecord(
            contender="a",
            family="bay",
            size=size,
            calls={"list.pop": n},
            spent={"list.pop": (t, n), "+=": (400 * n, n)},
        )
        for size, n, t in ((16, 10, 10_000), (4096, 10, 10 * later))
    ]
    write_logbook(path, [Header(), *rows])
    (found,) = native_work(read_logbook(path))
    assert (found.grows, found.size, found.calls) == (grows, 4096, {"list.pop": 10})


# --- answers and instances --------------------------------------------------------------------------------------------


@given(PLAIN)
def test_an_instance_that_is_written_down_is_read_back(instance: Any) -> None:
    assert decoded(encoded(instance)) == instance


@given(PLAIN)
def test_an_answer_agrees_with_itself_and_is_shown(answer: Any) -> None:
    written = encoding.described(answer)
    assert answers.agree(written, written)
    assert len(answers.shown(written, 40)) <= 40


def test_what_cannot_be_written_down_is_refused() -> None:
    with pytest.raises(ValueError, match="a object cannot be written down"):
        encoded([object()])


@given(st.lists(st.integers(-50, 50), min_size=1, max_size=30), st.integers(-50, 50))
def test_what_is_shrunk_is_still_wrong_and_no_larger(levels: list[int], shoal: int) -> None:
    tries = [0]

    def is_wrong(candidate: list[int]) -> bool:
        tries[0] += 1
        return sum(level >= shoal for level in candidate) >= 1

    if is_wrong(levels):
        small = shrunk(levels, is_wrong)
        assert is_wrong(small)
        assert len(small) == 1
        assert tries[0] <= TRIES_MOST + 2
    assert shrunk(7, lambda _: True) == 7
    assert shrunk(([3, 1, 2], "pier"), lambda asked: 1 in asked[0])[0] == [1]


@given(st.lists(st.text(max_size=8), min_size=1, max_size=5), st.text(max_size=8))
def test_only_placeholders_are_filled(arguments: list[str], value: str) -> None:
    plain_ones = [argument for argument in arguments if "{" not in argument]
    assert filled(plain_ones, {"size": value}) == plain_ones
    assert filled(["{size}", "x{size}y"], {"size": value}) == [value, f"x{value}y"]


@pytest.mark.parametrize(
    ("text", "answer"),
    [
        ("3", 3),
        (" 2.5\n", 2.5),
        ("1 2 3", ["list", [1, 2, 3]]),
        ("[1, 2]", ["list", [1, 2]]),
        ("rough sea", "rough sea"),
        ("", ""),
    ],
)
def test_what_a_program_prints_is_read_as_json_numbers_or_text(text: str, answer: Any) -> None:
    assert read_answer(text) == answer


@given(st.lists(st.integers(0, 9), min_size=1, max_size=12))
def test_a_counted_list_behaves_like_a_list(levels: list[int]) -> None:
    with counting():
        own = counted(levels)
        assert list(own) == levels
        assert own[-1] == levels[-1]
        assert own[1:] == levels[1:]
        assert sorted(own) == sorted(levels)
        own.append(3)
        own.insert(0, 4)
        assert own.pop(0) == 4
        assert own.pop() == 3
        assert own == levels
        assert (5 in own) == (5 in levels)
        assert hash(own[0]) == hash(levels[0])


# --- words ------------------------------------------------------------------------------------------------------------


def test_names_in_sentences() -> None:
    assert guess("sweeep", ["sweep", "grid"]) == "; did you mean 'sweep'?"
    assert guess("xyz", ["sweep", "grid"]) == ""
    assert named(["a", "b", "c"], 2) == "a, b and 1 more"
    assert one_line("far\n too   long", 7) == "far…ong"


@given(st.lists(st.floats(1e-9, 100), min_size=1, max_size=8))
def test_values_side_by_side_keep_a_digit(values: list[float]) -> None:
    unit = units.unit_between(values)
    assert min(values) / unit.size >= 0.0999 or unit.name == "ns"


def test_formulas_ratios_and_ticks_for_people() -> None:
    assert units.formula("n*floor(log2(n)) + 2*n - 2*2^floor(log2(n))") == "n⌊log₂ n⌋ + 2n − 2·2^⌊log₂ n⌋"
    assert numbers.times(0.004) == "0.0040 ×"
    assert numbers.times(1.44) == "1.4 ×"
    assert units.amount(None, units.Unit(1.0, "")) == "–"
    assert units.amount(86.0, units.Unit(1.0, "")) == "86"
    assert of_cost("time")(1e-5, 3) == "10 µs"
    assert of_cost("time")(0, 3) == "0"


@given(st.text(max_size=30))
def test_nothing_in_markdown_is_markup(text: str) -> None:
    shown = escaped(text)
    assert "\n" not in shown
    for mark in "*_`<|":
        assert f"\\{mark}" in shown or mark not in text


def test_twelve_curves_look_different() -> None:
    looks = {
        (style["color"], style["marker"], style["linestyle"]) for style in styles([str(n) for n in range(60)]).values()
    }
    assert len(looks) == 60


def test_counting_leaves_the_tracing_of_others_alone() -> None:
    from logarithm.counting.memory import allocated
    from logarithm.counting.steps import counted_lines, counted_steps

    def trace(*_: object) -> None:
        return None

    before = sys.gettrace()
    sys.settrace(trace)
    try:
        counted_steps(lambda: sum(range(5)))
        counted_lines(lambda: sum(range(5)))
        allocated(lambda: [0] * 1000)
        assert sys.gettrace() is trace
    finally:
        sys.settrace(before)


@pytest.mark.parametrize(
    ("freedom", "share", "known"),
    [
        (1, 0.975, 12.7062),
        (2, 0.95, 2.9200),
        (3, 0.975, 3.1824),
        (4, 0.9, 1.5332),
        (10, 0.995, 3.1693),
        (60, 0.75, 0.6786),
    ],
)
def test_quantiles_are_those_of_the_tables(freedom: int, share: float, known: float) -> None:
    assert float(student_quantile(freedom, share)) == pytest.approx(known, rel=1e-3)
    assert float(student_quantile(1.5, share)) < float(student_quantile(1, share))
    assert log_factorial(np.array([0, 5, 20])).tolist() == pytest.approx(
        [math.log(math.factorial(n)) for n in (0, 5, 20)]
    )
