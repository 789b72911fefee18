"""The model of errors: levels, what processes tell of them, and curves that agree with them."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from logarithm.statistics.comparison.crossover import Axis, locate
from logarithm.statistics.readings.series import low
from logarithm.statistics.uncertainty.level import level_of
from logarithm.statistics.uncertainty.paths import paths
from logarithm.statistics.uncertainty.repeated_looks import DOUBTLESS, lead_share
from profiles import examples

SIZES = np.geomspace(16, 4096, 9)


def values(seed: int, processes: int = 6, heats: int = 5, between: float = 0.03, noise: float = 0.02) -> tuple:
    """Log ratios of twins at nine sizes, and the process of each heat."""
    chance = np.random.default_rng(seed)
    process = np.repeat(np.arange(processes), heats)
    made = between * chance.standard_normal(processes)[process] + noise * chance.standard_normal(
        (len(SIZES), processes * heats)
    )
    return made, process.astype(np.int32)


def test_a_process_counts_once_however_many_heats_it_has() -> None:
    few, many = (level_of(*values(3, heats=heats, noise=0.001)) for heats in (3, 30))
    assert many.shared == pytest.approx(few.shared, rel=0.1)
    more = level_of(*values(3, processes=24, noise=0.001))
    assert more.shared < 0.7 * few.shared
    assert few.processes == 6


def test_a_single_trial_a_size_is_known_less_well_than_two() -> None:
    made, _ = values(5, processes=1, heats=2, between=0.0, noise=0.004)
    one, two = np.zeros(1, dtype=np.int32), np.zeros(2, dtype=np.int32)
    alone, both = level_of(made[:, :1], one), level_of(made, two)
    assert (alone.own > 2 * both.own).all() and (alone.own_freedom < both.own_freedom).all()
    # Of a table nobody knows what a slow moment did to it: as much is believed of it as of several.
    assert (level_of(made[:, :1], one, is_ours=False).own < alone.own).all()


@examples(40)
@given(st.integers(0, 2**31), st.floats(-3, 3))
def test_a_level_moves_with_its_values_and_its_error_does_not(seed: int, by: float) -> None:
    made, processes = values(seed)
    one, other = level_of(made, processes), level_of(made + by, processes)
    assert other.typical == pytest.approx(one.typical + by, abs=1e-9)
    assert other.error == pytest.approx(one.error, rel=1e-6)


def test_spikes_are_drawn_in_and_no_process_is_lost_for_them() -> None:
    made, processes = values(5, between=0.0)
    spiked = made.copy()
    spiked[:, 7] += 3.0
    clean, dirty = level_of(made, processes), level_of(spiked, processes)
    assert np.abs(dirty.typical - clean.typical).max() < 0.02
    assert dirty.processes == clean.processes


def test_missing_heats_and_single_lives_are_no_trouble() -> None:
    made, processes = values(7)
    made[2, 3:] = np.nan
    level = level_of(made, processes)
    assert np.isfinite(level.typical).all()
    assert level.error[2] > 1.5 * np.median(level.error)
    alone = level_of(made[:, :5], processes[:5])
    assert (alone.processes, alone.shared) == (1, 0.03)
    table = level_of(made[:, :5], processes[:5], is_ours=False)
    assert (table.processes, table.shared) == (0, 0.0)


def test_intervals_hold_what_they_should() -> None:
    held = [np.abs(level.typical) <= level.reach() for seed in range(150) for level in [level_of(*values(seed))]]
    assert 0.92 < np.mean(held) < 0.99


def test_the_error_of_a_lead_is_spent_over_all_sizes() -> None:
    assert 0.975 < lead_share(1) < lead_share(5) < lead_share(50) < 1
    assert lead_share(5) < lead_share(5, DOUBTLESS)


def test_a_size_that_took_part_in_few_processes_has_what_is_theirs() -> None:
    made, processes = values(4)
    few = made.copy()
    few[2, processes > 2] = np.nan
    whole, part = level_of(made, processes), level_of(few, processes)
    assert part.error[2] > whole.error[2]
    assert part.error[5] == pytest.approx(whole.error[5], rel=0.3)
    assert whole.after(4.0).error == pytest.approx(whole.error / 2)


def test_paths_go_through_sure_levels_and_spread_where_these_are_not() -> None:
    x = np.log(SIZES)
    made, processes = values(1, between=0.0, noise=0.0005)
    level = level_of(made + np.sin(x)[:, None] * 0.2, processes)
    mean, drawn = paths(x, level, level.typical, x, 300)
    assert mean == pytest.approx(level.typical, abs=0.02)
    between = (x[3] + x[4]) / 2
    spread = paths(x, level, level.typical, np.array([x[3], between]), 300)[1].std(axis=0)
    assert spread[1] > spread[0]
    assert drawn.shape == (300, len(x))


@examples(20)
@given(st.floats(60, 1500), st.integers(0, 2**31))
def test_a_crossing_under_drift_is_held_by_its_interval_or_near_it(at: float, seed: int) -> None:
    x = np.log(SIZES)
    made, processes = values(seed, between=0.005, noise=0.01)
    truth = x - np.log(at) + 0.1 * np.sin(2 * (x - np.log(at)))
    level = level_of(made + truth[:, None], processes)
    left = int(np.searchsorted(x, np.log(at))) - 1
    size, low_end, high_end = locate(Axis.of(SIZES), level, (max(left - 1, 0), min(left + 2, len(x) - 1)))
    assert low_end <= size <= high_end
    assert abs(np.log(size / at)) < 0.15


def test_a_tenth_from_below_does_not_hang_on_the_number_of_heats() -> None:
    chance = np.random.default_rng(2)
    table = np.full((400, 60), np.nan)
    table[:200] = 1 + 0.1 * chance.random((200, 60))
    table[200:, :6] = 1 + 0.1 * chance.random((200, 6))
    tenth = low(table, 0.1)
    assert tenth[:200].mean() == pytest.approx(tenth[200:].mean(), abs=0.003)
