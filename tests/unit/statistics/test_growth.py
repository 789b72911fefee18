from __future__ import annotations

import math
import re

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import Harbour
from logarithm import fit_growth
from logarithm.errors import AnalysisError
from logarithm.notation.orders import parse
from logarithm.results.tasks.forecast import FAR, NONE_FITS
from logarithm.statistics.growth.catalogue import nearest
from logarithm.statistics.growth.forecast import cost_at, size_within
from profiles import examples

SIZES = np.unique(np.round(np.geomspace(8, 8192, 16)))


def noisy(costs: np.ndarray, seed: int = 1, noise: float = 0.02) -> np.ndarray:
    return costs[:, None] * np.exp(noise * np.random.default_rng(seed).standard_normal((len(costs), 7)))


@pytest.mark.parametrize("seed", range(5))
def test_a_kink_is_found_and_named_on_both_sides(seed: int) -> None:
    cost = np.where(SIZES < 300, SIZES**2, 300 * SIZES * np.log2(SIZES) / math.log2(300))
    growth = fit_growth(SIZES, noisy(cost, seed))
    assert [(each.order, each.why) for each in growth.regimes] == [("n^2", "kink"), ("n log n", "")]
    assert 150 < growth.regimes[0].end < 600
    assert growth.order == "n log n"
    assert growth.since == growth.regimes[1].start


@given(st.sampled_from([0.5, 1.0, 1.5, 2.0]), st.integers(0, 2**32 - 1))
@examples(40)
def test_no_kink_is_invented_on_smooth_data(power: float, seed: int) -> None:
    growth = fit_growth(SIZES, noisy(SIZES**power, seed, 0.05))
    assert not any(each.why == "kink" for each in growth.regimes)
    assert growth.regimes[0].start == SIZES[0]
    assert growth.regimes[-1].end == SIZES[-1]


def test_a_full_cache_is_a_step_and_no_other_order() -> None:
    step = 1 + 1.0 / (1 + np.exp(-(np.log(SIZES) - math.log(500)) / 0.5))
    growth = fit_growth(SIZES, noisy(SIZES * step))
    assert growth.order == "n"
    assert growth.regimes[0].why == "step"
    assert growth.best.step is not None
    assert growth.best.step[1] == pytest.approx(1.0, abs=0.4)


def test_a_stretch_of_fixed_cost_is_called_so() -> None:
    growth = fit_growth(SIZES, noisy(500 + SIZES))
    assert (growth.order, growth.regimes[0].order, growth.regimes[0].why) == ("n", "1", "fixed cost")
    assert 300 < growth.regimes[0].end < 900


def test_a_free_power_and_a_free_base_are_found() -> None:
    assert fit_growth(SIZES, SIZES**2.58).order.startswith("n^2.5")
    sizes = np.arange(6, 32, 2)
    growth = fit_growth(sizes, 1.4656**sizes)
    assert growth.best.order.base == pytest.approx(1.4656, rel=0.01)
    # What may be a base that recursions have is called so; 1.4656 without noise was not.
    rough = np.exp([0.0, 0.1, -0.1, 0.05, -0.05, 0.1, 0.1, -0.1])
    assert fit_growth(np.arange(4, 12), 3.0 ** np.arange(4, 12) * rough).order == "3^n"


@pytest.mark.parametrize(
    ("free", "within", "named"),
    [
        ("3.14^n", 0.05, "3^n"),
        ("3.32^n", 0.05, "3.32^n"),
        ("3.32^n", 0.15, "3^n"),
        ("1.62^n", 0.05, "1.618^n"),
        ("n^2.6", 0.05, "n^2.5"),
        ("n^1.1", 0.05, "n"),
    ],
)
def test_a_free_base_or_power_has_a_name_near_by(free: str, within: float, named: str) -> None:
    assert str(nearest(parse(free), within)) == named


def test_steep_growth_is_not_told_to_span_more() -> None:
    assert "span a factor" not in fit_growth(np.arange(5, 13), 3.0 ** np.arange(5, 13)).advice
    assert "span a factor" in fit_growth(np.arange(5, 13), 1.0 * np.arange(5, 13)).advice


def test_advice_names_what_is_missing() -> None:
    assert "are few" in fit_growth([8, 16, 32, 64], [8, 16, 32, 64]).advice
    assert "span a factor" in fit_growth(range(100, 112), [n * 1.0 for n in range(100, 112)]).advice
    short = np.round(np.geomspace(40, 640, 9))
    growth = fit_growth(short, noisy(short * np.log2(short), 3, 0.02))
    if len(growth.plausible) > 1:
        assert "would tell" in growth.advice


@given(st.sampled_from(["n", "n^2"]), st.floats(1.0, 10.0))
@examples(40)
def test_forecasts_are_inverse_to_each_other_and_widen(order: str, beyond: float) -> None:
    growth = fit_growth(SIZES, SIZES ** (1.0 if order == "n" else 2.0) * 1e-7)
    size = float(SIZES[-1]) * beyond
    ahead = cost_at(growth, size)
    assert not isinstance(ahead, str)
    assert ahead.low < ahead.value < ahead.high
    assert ahead.value == pytest.approx(1e-7 * (size if order == "n" else size**2), rel=0.05)
    back = size_within(growth, ahead.value)
    assert not isinstance(back, str)
    assert back.value == pytest.approx(size, rel=0.02)
    assert back.low <= back.value <= back.high
    nearer = cost_at(growth, float(SIZES[-1]))
    assert not isinstance(nearer, str)
    assert ahead.high / ahead.low >= nearer.high / nearer.low * 0.99


def test_forecasts_at_the_edges() -> None:
    flat = fit_growth(SIZES, np.full(len(SIZES), 1e-6))
    most = size_within(flat, 1e-5)
    assert not isinstance(most, str)
    assert (most.value, most.high) == (pytest.approx(10 * SIZES[-1]), math.inf)
    assert size_within(flat, 1e-9) == NONE_FITS
    assert cost_at(flat, 11 * float(SIZES[-1])) == FAR
    with pytest.raises(AnalysisError):
        cost_at(flat, 0)


TABLE = "\n".join(["size,up,steady", *(f"{n:.0f},{n * n / 1e6},{n / 1e4}" for n in SIZES)])
CLAIMS = """{"kind":"logbook","format":"logarithm-logbook","version":2}
{"kind":"contender","name":"right","claims":[{"order":"n"}]}
{"kind":"contender","name":"wrong","claims":[{"order":"n"}]}
{"kind":"contender","name":"silent"}
"""


def imported(harbour: Harbour) -> None:
    (harbour.folder / "t.csv").write_text(TABLE)
    assert harbour.run("import", "t.csv", "--unit", "ms").code == 0


def test_growth_in_depth(harbour) -> None:
    imported(harbour)
    done = harbour.run("growth", "up")
    assert done.code == 0
    assert re.search(r"^n²\s+(1\.00|0\.9\d)", done.out, re.MULTILINE)
    assert "ruled out" in done.out
    assert "local exponent" in done.out
    assert "steady on" not in done.out
    assert "there are up and steady" in harbour.run("growth", "down").err


def test_forecast_from_the_command_line(harbour) -> None:
    imported(harbour)
    done = harbour.run("forecast", "--at", "8e4")
    assert done.code == 0
    row = next(line for line in done.out.splitlines() if line.startswith("up"))
    assert "6.4 s" in row.replace("\xa0", " ")
    assert "9.8 ×" in row
    assert "more than ten times the largest size" in harbour.run("forecast", "--at", "1e6").out
    done = harbour.run("forecast", "up", "--within", "1s")
    row = next(line for line in done.out.splitlines() if line.startswith("up")).replace("\xa0", "")
    assert 28_000 < int(row.split()[2]) < 36_000
    for wrong in ((), ("--at", "1", "--within", "1s"), ("--at", "fog"), ("--at", "-1"), ("--within", "soon")):
        assert harbour.run("forecast", *wrong).code == 2


def test_claims_are_verified_with_an_exit_code(harbour) -> None:
    lines = CLAIMS.splitlines(keepends=True)
    for heat in range(1, 6):
        for n in SIZES:
            for name, cost in (("right", 50 * n), ("wrong", 2 * n * n), ("silent", n)):
                lines.append(
                    f'{{"kind":"trial","contender":"{name}","family":"bay","size":{n:.0f},"heat":{heat},'
                    f'"elapsed":{cost * (1 + heat / 100)}}}\n'
                )
    (harbour.folder / "claims.jsonl").write_text("".join(lines))
    done = harbour.call("verify", "claims.jsonl")
    assert done.code == 1
    assert "contradicted" in done.out
    found = harbour.run("report", "claims.jsonl", "--format", "json").json
    verdicts = {row["contender"]: row for row in found["claims"]}
    assert {name: row["verdict"] for name, row in verdicts.items()} == {"right": "holds", "wrong": "contradicted"}
    assert SIZES[0] < verdicts["wrong"]["since"] <= SIZES[-1]
    (harbour.folder / "claims.jsonl").write_text("".join(line for line in lines if '"wrong"' not in line))
    assert harbour.call("verify", "claims.jsonl", "--strict").code == 0
    imported(harbour)
    assert "makes a claim" in harbour.call("verify").err


def test_memory_that_begins_at_a_size_grows_as_what_comes_after() -> None:
    sizes = np.array([8, 11, 16, 23, 32, 45, 64, 91, 128, 181, 256, 362, 512, 724, 1024, 1448, 2048, 2896, 4096])
    blocks = 7 + np.maximum(sizes - 256, 0) / 3
    assert fit_growth(sizes, blocks).order != "n"
    found = fit_growth(sizes, blocks, may_begin=True)
    assert (found.order, found.best.fixed < 0, found.best.miss < 0.03) == ("n", True, True)
