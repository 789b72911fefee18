"""What the analysis makes of a noisy machine, on made-up trials whose truth is known."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest

from logarithm.logbook.memory import Logbook
from logarithm.logbook.reading import read_logbook
from logarithm.logbook.records import ContenderRecord, Header, Trial
from logarithm.logbook.writing import write_logbook
from logarithm.results.findings import Findings
from logarithm.statistics.analysis import Analysis
from logarithm.statistics.readings.arrays import median
from logarithm.statistics.readings.series import arrange
from logarithm.statistics.readings.speed import at_quick_pace

SIZES = [64, 128, 256, 512, 1024]


def run_in_waves(folder: Path, factor: float, feels: float = 0.9, heats: int = 20, seed: int = 1) -> Logbook:
    """Two contenders, the second `factor` times as dear, on a machine that halves its speed now and then.

    `feels` is how much of a slow moment a contender feels. One trial in five sees the pace change.
    """
    chance = np.random.default_rng(seed)
    trials = []
    for heat in range(1, heats + 1):
        for name, times in (("one", 1.0), ("two", factor)):
            for n in SIZES:
                before = float(chance.choice([1.0, 2.0]))
                after = before if chance.random() < 0.8 else 3.0 - before
                slow = ((before + after) / 2) ** feels
                cost = 100.0 * n * times * slow * math.exp(chance.normal(0, 0.01))
                trial = Trial(contender=name, family="bay", size=n, heat=heat, process=1 + heat // 4, calls=1)
                trial.elapsed, trial.pace = cost, (40_000 * before, 40_000 * after)
                trials.append(trial)
    path = folder / f"waves-{seed}.jsonl"
    write_logbook(path, [Header(), ContenderRecord(name="one", baseline=True), *trials])
    return read_logbook(path)


def test_a_slow_moment_is_told_from_a_slow_contender(tmp_path: Path) -> None:
    logbook = run_in_waves(tmp_path, 1.0)
    raw = logbook.trials.cost
    costs, weather = at_quick_pace(logbook.trials)
    one = (logbook.trials.series == 0) & (logbook.trials.size == 256) & np.isfinite(costs)
    assert np.std(np.log(raw[one])) > 0.2
    assert np.std(np.log(costs[one])) < 0.03
    assert weather.word == "noisy"
    assert weather.disturbed == pytest.approx(0.2, abs=0.1)
    assert weather.spread == pytest.approx(2.0, rel=0.1)


def test_a_trial_during_which_others_had_the_processor_is_left_out_but_not_one_that_waits(tmp_path: Path) -> None:
    trials = []
    for n in SIZES:
        for heat in range(4):
            computing, waiting = 50_000 * n, 20_000_000
            taken = 30_000_000 if (n, heat) == (1024, 0) else 0
            for name, cost, busy in (
                ("computes", computing + taken, computing),
                ("waits", computing + waiting, computing),
            ):
                trial = Trial(contender=name, family="bay", size=n, heat=heat, process=1, calls=1, elapsed=cost)
                trial.cpu, trial.pace = busy, (40_000, 40_000)
                trials.append(trial)
    path = tmp_path / "taken.jsonl"
    write_logbook(path, [Header(), ContenderRecord(name="computes"), ContenderRecord(name="waits"), *trials])
    book = read_logbook(path)
    costs, _ = at_quick_pace(book.trials)
    left_out = np.isnan(costs)
    assert left_out.sum() == 1
    assert (book.trials.size[left_out], book.trials.heat[left_out]) == ([1024], [0])


@pytest.mark.parametrize("feels", [0.5, 1.0])
def test_each_contender_feels_the_pace_in_its_own_way(tmp_path: Path, feels: float) -> None:
    found = Analysis(run_in_waves(tmp_path, 1.3, feels)).findings()
    costs = next(each for each in found.costs if each.contender == "two")
    for point in costs.points:
        assert point.ratio is not None
        assert point.ratio.value == pytest.approx(1 / 1.3, rel=0.03)
        assert point.ratio.low < point.ratio.value < point.ratio.high


def leaders(found: Findings) -> list[tuple[str, list[str]]]:
    return [(each.leader, each.tied) for each in found.standings]


@pytest.mark.parametrize("seed", range(6))
def test_a_real_difference_is_found_in_the_noise(tmp_path: Path, seed: int) -> None:
    assert leaders(Analysis(run_in_waves(tmp_path, 1.1, seed=seed)).findings()) == [("one", [])]


@pytest.mark.parametrize("seed", range(6))
def test_noise_is_no_finding(tmp_path: Path, seed: int) -> None:
    found = Analysis(run_in_waves(tmp_path, 1.0, seed=seed)).findings()
    assert not found.crossovers
    assert all(tied for _, tied in leaders(found))


def test_disturbed_trials_are_set_apart_but_never_all_of_them(tmp_path: Path) -> None:
    logbook = run_in_waves(tmp_path, 1.0, heats=30)
    logbook.trials.pace[logbook.trials.size == 64, 1] *= 1.5  # nothing at this size is undisturbed
    costs, _ = at_quick_pace(logbook.trials)
    at = logbook.trials.size == 64
    assert np.isfinite(costs[at]).all()
    assert 0 < np.isnan(costs[~at]).sum() < len(costs) / 2


def test_a_long_trial_is_known_by_the_pace_all_through_it(tmp_path: Path) -> None:
    chance, trials = np.random.default_rng(5), []
    for heat in range(1, 31):
        for n in SIZES:
            slow = float(chance.uniform(1, 2))
            trial = Trial(contender="long", family="bay", size=n, heat=heat, elapsed=5e5 * n * slow, during=4e4 * slow)
            trial.pace = (40_000 * float(chance.choice([1, 2])), 40_000 * float(chance.choice([1, 2])))
            trials.append(trial)
    write_logbook(tmp_path / "long.jsonl", [Header(), *trials])
    costs, _ = at_quick_pace(read_logbook(tmp_path / "long.jsonl").trials)
    assert np.isfinite(costs).all()
    assert np.std(np.log(costs.reshape(-1, len(SIZES))), axis=0).max() < 0.02


def test_what_has_no_pace_is_left_as_it_is(tmp_path: Path) -> None:
    path = tmp_path / "plain.jsonl"
    trials = [Trial(contender="a", family="f", size=n, heat=1, elapsed=n * 10.0) for n in SIZES]
    counted = [Trial(contender="a", family="f", size=n, heat=1, metric="comparisons", value=n) for n in SIZES]
    write_logbook(path, [Header(), *trials, *counted])
    logbook = read_logbook(path)
    costs, weather = at_quick_pace(logbook.trials)
    assert costs == pytest.approx(logbook.trials.cost)
    assert (weather.word, weather.spread) == ("", None)


def test_trials_become_a_table_of_sizes_by_heats(tmp_path: Path) -> None:
    path = tmp_path / "table.jsonl"
    trials = [
        Trial(contender="a", family="f", size=8, heat=0, elapsed=5.0),  # the climb: a later heat reached this size
        Trial(contender="a", family="f", size=16, heat=0, elapsed=7.0),  # and none reached this one
        Trial(contender="a", family="f", size=8, heat=2, process=3, elapsed=10.0),
        Trial(contender="a", family="f", size=8, heat=1, elapsed=20.0),
        Trial(contender="a", family="f", size=8, heat=1, elapsed=40.0),
    ]
    write_logbook(path, [Header(), *trials])
    logbook = read_logbook(path)
    (series,) = arrange(logbook.trials, logbook.trials.cost)
    assert list(series.sizes) == [8, 16]
    assert list(series.heats) == [0, 1, 2]
    assert series.processes[2] == 3
    nanoseconds = series.costs * 1e9
    assert nanoseconds[0] == pytest.approx([np.nan, 30.0, 10.0], nan_ok=True)
    assert nanoseconds[1] == pytest.approx([7.0, np.nan, np.nan], nan_ok=True)
    assert series.typical * 1e9 == pytest.approx([20.0, 7.0])


def test_the_median_leaves_out_what_is_not_there() -> None:
    chance = np.random.default_rng(1)
    values = chance.random((50, 9))
    values[chance.random(values.shape) < 0.3] = np.nan
    values[3] = np.nan
    expected = [np.median(row[np.isfinite(row)]) if np.isfinite(row).any() else np.nan for row in values]
    assert median(values) == pytest.approx(expected, nan_ok=True)
