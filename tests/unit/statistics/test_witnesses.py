"""Two witnesses of growth: counted work, and the price of a unit of it, on made-up series whose truth is known."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from logarithm.logbook.records import ClaimRecord, ContenderRecord
from logarithm.notation.kinds import COMPARED, MOVED, PRICES, STEPS
from logarithm.notation.orders import parse
from logarithm.statistics.claims import judge_claims
from logarithm.statistics.growth.fit import Growth, fit_growth
from logarithm.statistics.naming import name_growth
from logarithm.statistics.readings.series import Series
from logarithm.statistics.work.order import Work, work_of
from logarithm.statistics.work.prices import work_by_kinds
from logarithm.statistics.work.witnesses import by_both, price_of
from profiles import examples

SMALL = np.unique(np.round(np.geomspace(4, 256, 16)))
SIZES = np.unique(np.round(np.geomspace(8, 16384, 16)))
KNOWN = ("1", "log n", "sqrt n", "n", "n log n", "n^1.5", "n^1.585", "n^2", "n^2 log n", "n^3")


def law(order: str, sizes: np.ndarray) -> np.ndarray:
    return np.exp([parse(order).log_value(float(size)) for size in sizes])


def series(metric: str, sizes: np.ndarray, values: np.ndarray) -> Series:
    heats = np.arange(values.shape[1], dtype=np.int32)
    return Series("pairs", "bay", None, metric, sizes, heats, np.ones(len(heats), np.int32), values)


def counted(order: str, lower: float = 30.0, seed: int = 1) -> Work:
    chance = np.random.default_rng(seed)
    counts = np.round(11 * law(order, SMALL) + lower)[:, None] * np.exp(0.01 * chance.standard_normal((len(SMALL), 4)))
    found = work_of(series("work", SMALL, np.round(counts)))
    assert found is not None
    return found


@pytest.mark.parametrize("order", KNOWN)
def test_the_order_of_work_is_named(order: str) -> None:
    found = counted(order)
    assert found.order == order
    assert found.at(np.array([1000.0]))[0] == pytest.approx(11 * law(order, np.array([1000.0]))[0] + 30, rel=0.2)


def test_work_of_other_powers_and_bases_is_named_by_them() -> None:
    assert abs(parse(counted("n^2.3").order).power - 2.3) < 0.1
    sizes = np.arange(4.0, 26.0)
    found = work_of(series("work", sizes, np.round(9 * 1.47**sizes + 40)[:, None]))
    assert found is not None
    assert abs((parse(found.order).base or 0) - 1.47) < 0.03


def test_what_the_last_size_alone_has_is_no_law() -> None:
    sizes = 8.0 * 4.0 ** np.arange(16)
    counts = 60 + 16 * np.log2(sizes)
    counts[-1] += 40
    found = work_of(series("work", sizes, counts[:, None]))
    assert found is not None
    assert found.order == "log n"


def times(order: str, drift: float, seed: int) -> Growth:
    """Times whose cost rises by a factor over the sizes, as caches make it."""
    chance = np.random.default_rng(seed)
    rise = drift ** (1 / (1 + np.exp(-(np.log(SIZES) - 7))))
    table = 2e-8 * (law(order, SIZES) + 5) * rise
    return fit_growth(SIZES, table[:, None] * np.exp(0.02 * chance.standard_normal((len(SIZES), 8))))


@pytest.mark.parametrize("order", ["1", "log n", "n", "n log n", "n^2"])
@pytest.mark.parametrize("drift", [1.0, 2.5, 5.0])
def test_a_price_that_drifts_leaves_the_order_of_the_work(order: str, drift: float) -> None:
    growth, price = by_both(times(order, drift, 3), counted(order))
    assert price is not None
    assert growth.order == order
    assert str(growth.plausible[0][0].order) == str(growth.best.order) == order


@pytest.mark.parametrize(("order", "seen"), [("n^2", "n"), ("n^1.585", "1"), ("n", "1")])
def test_where_the_price_rises_like_a_power_work_hides(order: str, seen: str) -> None:
    growth, price = by_both(times(order, 1.0, 5), counted(seen))
    assert price is not None
    assert price.says == "hidden"
    assert order in [str(fit.order) for fit, _ in growth.plausible]
    assert all(fit.order.rank > parse(seen).rank for fit, _ in growth.plausible)


def test_a_course_that_work_took_at_small_sizes_rules_out_no_faster_one() -> None:
    # Of n + n² most is n at the sizes that were counted, and most is n² at those that were timed.
    growth = fit_growth(SIZES, (2e-8 * (SIZES + SIZES**2 / 2000))[:, None] * np.ones(8))
    chance = np.random.default_rng(1).standard_normal((len(SMALL), 4))
    work = work_of(series("work", SMALL, (SMALL + SMALL**2 / 2000)[:, None] * np.exp(0.1 * chance)))
    assert work is not None and "n^2" not in dict(work.plausible)
    found, price = by_both(growth, replace(work, is_whole=True, exact=None, carriers=()))
    assert price is not None and not price.is_whole
    assert "n^2" in [str(fit.order) for fit, _ in found.plausible]


def test_where_work_has_several_orders_at_small_sizes_and_its_price_rises_both_are_said() -> None:
    few = replace(counted("n"), plausible=(("n", 0.75), ("n log n", 0.25)), exact=None)
    costs = 2e-8 * few.at(SIZES) * SIZES**0.32
    assert price_of(replace(few, sizes=(8.0, float(SIZES[-1]))), SIZES, costs).says == "work"
    assert price_of(replace(few, sizes=(8.0, float(SIZES[-1]) / 8)), SIZES, costs).says == "open"


@examples(40)
@given(
    order=st.sampled_from(KNOWN),
    seen=st.sampled_from(KNOWN),
    drift=st.floats(0.5, 6),
    seed=st.integers(0, 10**6),
)
def test_what_is_said_never_contradicts_itself(order: str, seen: str, drift: float, seed: int) -> None:
    work = counted(seen, seed=seed)
    growth, price = by_both(times(order, drift, seed), work)
    assert price is not None
    assert growth.order == str(growth.plausible[0][0].order) == growth.regimes[-1].order
    assert 0 < sum(weight for _, weight in growth.plausible) <= 1 + 1e-9
    weights = [weight for _, weight in growth.plausible]
    assert weights == sorted(weights, reverse=True)
    lowest = min(parse(name).rank for name, _ in work.plausible)
    assert price.says == "elsewhere" or all(fit.order.rank >= lowest for fit, _ in growth.plausible)


def test_the_price_is_that_of_a_unit() -> None:
    price = price_of(counted("n"), SIZES, 3e-8 * (11 * SIZES + 30))
    assert price.seconds == pytest.approx(3e-8, rel=0.02)
    assert abs(price.slope) < 0.01
    assert price.says == "work"


@pytest.mark.parametrize(("claim", "verdict"), [("n^2", "holds"), ("n", "contradicted"), ("n^3", "slower")])
def test_only_faster_growth_contradicts_a_claim(claim: str, verdict: str) -> None:
    on_work = ClaimRecord(order=claim, where="work")
    costs = 2e-8 * SIZES[:, None] ** 2 * np.exp(0.01 * np.random.default_rng(1).standard_normal((len(SIZES), 6)))
    record = ContenderRecord(name="pairs", claims=[ClaimRecord(order=claim), on_work])
    times = series("time", SIZES, costs)
    named = name_growth(times, [claim], work=counted("n^2"))
    assert {each.metric: each.verdict for each in judge_claims(record, times, named)} == {
        "time": verdict,
        "work": verdict,
    }
    found = named.finding
    assert found.work is not None
    assert (found.work.order, found.work.says) == ("n^2", "work")
    assert math.isclose(found.work.price[-1][1], 2e-8 / 11, rel_tol=0.1)


# --- kinds of work ----------------------------------------------------------------------------------------------------


def by_kinds(prices: dict[str, float], timed: np.ndarray = SIZES, sizes: np.ndarray = SIZES[:11]) -> Work:
    """Work of so many nanoseconds a unit: a step each n, comparisons n log n, moves n(n-1)/2; and the times of it."""

    def amounts(at: np.ndarray) -> dict[str, np.ndarray]:
        return {STEPS: 10 * at + 12, COMPARED: np.round(at * np.log2(at)), MOVED: at * (at - 1) / 2}

    counts = {kind: series("counted", sizes, each[:, None]) for kind, each in amounts(sizes).items()}
    total = series("work", sizes, sum(PRICES[kind] * each.costs for kind, each in counts.items()))
    costs = sum(prices[kind] * each for kind, each in amounts(timed).items())
    chance = np.random.default_rng(3)
    times = 1e-9 * np.asarray(costs)[:, None] * np.exp(0.02 * chance.standard_normal((len(timed), 5)))
    found = work_by_kinds(total, counts, series("time", timed, times))
    assert found is not None
    return found


@pytest.mark.parametrize("moved", [0.2, 0.6, 2.0])
def test_kinds_are_priced_by_the_times_and_one_of_them_carries_the_order(moved: float) -> None:
    found = by_kinds({STEPS: 20.0, COMPARED: 24.0, MOVED: moved})
    assert found.plausible == (("n^2", 1.0),)
    carrier = found.carrier("n^2")
    assert carrier is not None
    assert (carrier.kind, carrier.exact.text if carrier.exact else "") == (MOVED, "n*(n-1)/2")
    steps = found.carrier("n")
    assert steps is not None
    assert carrier.price / steps.price == pytest.approx(moved / 20, rel=1.0)


def test_prices_are_sought_at_sizes_that_were_timed_only() -> None:
    # Up to 64 nearly all time is that of steps; at 16,384 it is that of moves, which nobody counted there.
    counted_at = np.unique(np.round(np.geomspace(8, 64, 10)))
    found = by_kinds({STEPS: 20.0, COMPARED: 24.0, MOVED: 0.1}, sizes=counted_at)
    carrier, steps = found.carrier("n^2"), found.carrier("n")
    assert carrier is not None and steps is not None and found.order == "n^2"
    assert 0.1 / 20 / 1.5 < carrier.price / steps.price < PRICES[MOVED] / 2  # it is usually dearer, and drifts
    assert found.sizes == (8.0, 64.0)


def test_a_kind_that_makes_little_and_outgrows_the_others_stays_open() -> None:
    sizes = SIZES[:11]
    irregular = np.exp(0.02 * np.random.default_rng(5).standard_normal(len(sizes)))
    steps, asked = np.round(100 * sizes * irregular), np.round(1.1 * sizes * np.log2(sizes))
    counts = {STEPS: series("counted", sizes, steps[:, None]), COMPARED: series("counted", sizes, asked[:, None])}
    total = series("work", sizes, steps[:, None] + PRICES[COMPARED] * asked[:, None])
    found = work_by_kinds(total, counts, None)
    assert found is not None
    assert {order for order, _ in found.plausible} == {"n", "n log n"}
    assert sum(weight for _, weight in found.plausible) == pytest.approx(1)


def test_where_time_rises_more_slowly_than_known_work_both_stay_open() -> None:
    # Twice as many processors take part each time the size doubles: cubic work in the time of a square.
    cubic = replace(counted("n^3"), is_whole=True, sizes=(8.0, float(SIZES[-1])))
    growth, price = by_both(fit_growth(SIZES, 1e-4 * SIZES**2), cubic)
    assert price is not None and price.says == "elsewhere"
    assert [str(fit.order) for fit, _ in growth.plausible] == ["n^2", "n^3"]
    unknown, _ = by_both(fit_growth(SIZES, 1e-4 * SIZES**2), replace(cubic, is_whole=False))
    assert [str(fit.order) for fit, _ in unknown.plausible] == ["n^2"]


def test_without_times_kinds_have_their_typical_prices() -> None:
    found = by_kinds({STEPS: 20.0, COMPARED: 24.0, MOVED: 0.6}, SIZES[:2])
    assert {each.kind: each.price for each in found.carriers} == {
        kind: PRICES[kind] for kind in (STEPS, COMPARED, MOVED)
    }


@pytest.mark.parametrize("law", ["n log n", "n^2"])
def test_work_in_stairs_is_named_by_their_edges(law: str) -> None:
    sizes = np.unique(np.round(np.geomspace(5, 900, 20)))
    edges = 2.0 ** np.ceil(np.log2(sizes))
    counts = np.round(7.3 * np.exp([parse(law).log_value(each) for each in edges]) + 12 * edges + 33)
    found = work_of(series("work", sizes, counts[:, None]))
    assert found is not None
    assert (found.order, found.stairs) == (law, "up")
    assert found.at(np.array([600.0, 1000.0])) == pytest.approx([found.at(np.array([1024.0]))[0]] * 2)


def test_halves_that_are_odd_at_sizes_between_powers_of_two_hide_no_order() -> None:
    sizes = np.array([8, 11, 16, 23, 32, 45, 64, 91, 128, 181, 256.0])

    def parted(n: int, least: int, ways: int) -> float:
        half = (n + 1) // 2
        return n * n if n <= least else ways * parted(half, least, ways) + 9 * n

    for least, ways, law in ((2, 3, "n^1.585"), (32, 3, "n^1.585"), (2, 2, "n log n")):
        counts = np.array([float(parted(int(n), least, ways)) for n in sizes])
        found = work_of(series("work", sizes, counts[:, None]))
        assert found is not None and found.miss < 0.03
        assert law in dict(found.plausible) and "n^2" not in dict(found.plausible)
    # A power of two and its neighbours are told apart by the law, too.
    assert found.at(np.array([91.0]))[0] == pytest.approx(counts[7], rel=0.05)


@pytest.mark.parametrize("law", ["n log log n", "n^2 / log n", "3^n"])
def test_rare_orders_are_named_where_counts_bear_it(law: str) -> None:
    sizes = np.arange(3.0, 16.0) if law == "3^n" else np.unique(np.round(np.geomspace(5, 900, 20)))
    counts = np.round(7 * np.exp([parse(law).log_value(each) for each in sizes]) + 12 * sizes + 33)
    found = work_of(series("work", sizes, counts[:, None]))
    assert found is not None
    assert found.order == law


@pytest.mark.parametrize(("truth", "claim"), [("n^1.585", "n^1.58"), ("1.618^n", "1.62^n")])
def test_a_claim_with_fewer_digits_holds(truth: str, claim: str) -> None:
    sizes = np.arange(4.0, 26.0) if "^n" in truth else SIZES[:11]
    costs = 1e-7 * np.exp([parse(truth).log_value(each) for each in sizes])
    times = series("time", sizes, costs[:, None] * np.ones((1, 5)))
    named = name_growth(times, [claim])
    record = ContenderRecord(name="pairs", claims=[ClaimRecord(order=claim)])
    assert [each.verdict for each in judge_claims(record, times, named)] != ["contradicted"]


@pytest.mark.parametrize("between", [{11: 11662}, {11: 11662, 22: 25858}, {11: 11662, 22: 25858, 43: 56011}])
def test_sizes_between_powers_of_two_that_follow_no_one_factor_hide_no_order(between: dict[int, int]) -> None:
    # A transform by halves, of inputs that are filled up to few lengths: n log n at powers of two.
    counts = {8: 11060, 16: 23852, 32: 51039, 64: 108620, 128: 230194} | between
    sizes = np.array(sorted(counts), dtype=float)
    found = work_of(series("work", sizes, np.array([[float(counts[int(n)])] * 2 for n in sizes])))
    assert found is not None
    assert found.order == "n log n"
    assert found.plausible[0][1] > 0.9
