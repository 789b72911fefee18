from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from logarithm import fit_growth
from logarithm.errors import AnalysisError
from logarithm.logbook.reading import read_logbook
from logarithm.logbook.records import Header, Trial
from logarithm.logbook.writing import write_logbook
from logarithm.statistics.analysis import Analysis
from profiles import examples

SIZES = np.array([8, 11, 16, 23, 32, 45, 64, 91, 128, 181, 256, 362, 512])
LAWS = {
    "1": lambda n: n**0.0,
    "log n": np.log2,
    "sqrt n": np.sqrt,
    "n": lambda n: n,
    "n log n": lambda n: n * np.log2(n),
    "n^1.5": lambda n: n**1.5,
    "n^2": lambda n: n**2,
    "n^2 log n": lambda n: n**2 * np.log2(n),
    "n^3": lambda n: n**3,
}


@pytest.mark.parametrize("order", LAWS)
def test_a_clean_law_is_named(order: str) -> None:
    growth = fit_growth(SIZES, 3e-8 * LAWS[order](SIZES.astype(float)))
    assert growth.order == order
    assert 0 < sum(weight for _, weight in growth.plausible) <= 1 + 1e-9
    assert growth.exponent.low <= growth.exponent.value <= growth.exponent.high


@pytest.mark.parametrize(("law", "order"), [(lambda n: 2.0**n, "2^n"), (lambda n: float(math.factorial(n)), "n!")])
def test_steep_laws_are_told_from_each_other(law, order: str) -> None:
    sizes = list(range(4, 17))
    assert fit_growth(sizes, [1e-9 * law(n) for n in sizes]).order == order


@given(
    st.sampled_from(["n", "n log n", "n^2", "n^3"]),
    st.floats(0, 20),
    st.integers(0, 2**32 - 1),
)
@examples(60)
def test_the_true_order_is_among_the_plausible(order: str, fixed: float, seed: int) -> None:
    law = LAWS[order](SIZES.astype(float))
    noise = np.random.default_rng(seed).normal(0, 0.03, (len(SIZES), 9))
    growth = fit_growth(SIZES, (fixed * law[0] + law)[:, None] * np.exp(noise))
    assert order in [str(fit.order) for fit, _ in growth.plausible]
    assert growth.best.fixed >= 0
    assert growth.best.scale > 0


@given(st.floats(1e-9, 1e9))
@examples(30)
def test_the_unit_of_the_costs_changes_nothing(scale: float) -> None:
    costs = 50 + SIZES**2.0
    one, other = fit_growth(SIZES, costs), fit_growth(SIZES, costs * scale)
    assert one.order == other.order
    assert other.best.scale == pytest.approx(one.best.scale * scale, rel=1e-6)


@pytest.mark.parametrize(
    ("sizes", "costs"),
    [
        ([1, 2, 3], [1, 2, 3]),
        ([1, 2, 3, 3], [1, 2, 3, 4]),
        ([1, 2, 3, 4], [1, 2, 3, -4]),
        ([1, 2, 3, 4], [1, 2, 3, 0]),
        ([1, 2, 3, 4], [1, 2, 3, float("nan")]),
        ([1, 2, 3, 4], [1, 2, 3, float("inf")]),
        ([1, 2, 3, 4], [1, 2, 3]),
        ([0, 2, 3, 4], [1, 2, 3, 4]),
    ],
)
@pytest.mark.filterwarnings("error")
def test_numbers_that_cannot_be_used_are_told(sizes: list[float], costs: list[float]) -> None:
    with pytest.raises(AnalysisError):
        fit_growth(sizes, costs)


def found_in(folder: Path, curves: dict[str, object], heats: int = 9, noise: float = 0.05, seed: int = 1):
    """The findings on made-up trials: each curve with noise of its own and waves that a heat's trials share."""
    random = np.random.default_rng(seed)
    trials = []
    for heat in range(1, heats + 1):
        wave = math.exp(random.normal(0, 0.2))
        for name, law in curves.items():
            for n in SIZES:
                cost = law(float(n)) * wave * math.exp(random.normal(0, noise))
                trials.append(Trial(contender=name, family="bay", size=int(n), heat=heat, elapsed=cost))
    path = folder / f"{seed}.jsonl"
    write_logbook(path, [Header(), *trials])
    return Analysis(read_logbook(path)).findings()


def test_a_crossover_is_found_and_its_interval_holds_the_truth(tmp_path: Path) -> None:
    curves = {"low": lambda n: 10 * n * n, "high": lambda n: 1000 * n}  # cross at 100
    held = 0
    for seed in range(20):
        (crossover,) = found_in(tmp_path, curves, seed=seed).crossovers
        assert (crossover.before, crossover.after) == ("low", "high")
        assert crossover.size == pytest.approx(100, rel=0.1)
        held += crossover.low <= 100 <= crossover.high
    assert held >= 16


def test_two_crossings_are_both_found(tmp_path: Path) -> None:
    flat = {"one": lambda n: 1000.0, "two": lambda n: 1000.0 * math.exp((math.log(n) - 4.3) ** 2 - 0.8)}
    found = found_in(tmp_path, flat)
    assert [(each.before, each.after) for each in found.crossovers] == [("one", "two"), ("two", "one")]
    assert [(each.leader, each.tied) for each in found.standings] == [("one", []), ("two", []), ("one", [])]


def test_what_is_alike_is_a_tie_and_has_no_crossover(tmp_path: Path) -> None:
    invented = ties = 0
    (tmp_path / "quieter").mkdir()
    for seed in range(20):
        found = found_in(tmp_path, {"one": lambda n: 30 * n, "two": lambda n: 30 * n}, seed=seed)
        invented += bool(found.crossovers)
        quieter = found_in(
            tmp_path / "quieter", {"one": lambda n: 30 * n, "two": lambda n: 30 * n}, seed=seed, noise=0.01
        )
        ties += all(each.tied for each in quieter.standings)
        assert all(each.tied or each.rivals for each in found.standings) or found.crossovers
    assert invented <= 1
    assert ties >= 15


def test_the_leader_is_said_for_every_size(tmp_path: Path) -> None:
    curves = {"low": lambda n: 10 * n * n, "high": lambda n: 1000 * n, "never": lambda n: 40 * n * n}
    found = found_in(tmp_path, curves)
    assert [each.leader for each in found.standings] == ["low", "high"]
    assert found.standings[0].start == 8
    assert found.standings[0].end + 1 == found.standings[1].start
    assert found.standings[1].end == 512
