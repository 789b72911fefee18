"""Nothing is said that the data do not bear: made-up logbooks of all kinds, and the auditor of each statement."""

from __future__ import annotations

import math
import re
from pathlib import Path
from typing import Any

import msgspec
import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from made_up import any_logbook, written

from logarithm.logbook.reading import read_logbook
from logarithm.logbook.records import AnyRecord, ClaimRecord, Close, ContenderRecord, Header, StudyRecord, Trial
from logarithm.logbook.writing import write_logbook
from logarithm.report.documents.findings.whole import heading, report
from logarithm.results.audit import audit
from logarithm.results.base import Interval
from logarithm.results.findings import Findings, Plausible
from logarithm.results.pairs import LEADS, NEVER, TIE, UNKNOWN
from logarithm.statistics.analysis import Analysis
from profiles import examples

SIZES = [8, 16, 32, 64, 128, 256, 512, 1024]
ZONES = {LEADS, TIE, UNKNOWN}


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return tmp_path_factory.mktemp("made-up")


def run_of(
    path: Path, costs: dict[str, Any], heats: int = 12, processes: int = 6, more: tuple = (), **study: Any
) -> Findings:
    """What is found in a run of ours: typical costs in nanoseconds of each contender by size, with noise."""
    path.unlink(missing_ok=True)
    write_logbook(
        path, [Header(), StudyRecord("harbour", **{"budget": 9.0, **study}), *more, *trials(costs, heats, processes)]
    )
    return Analysis(read_logbook(path)).findings()


def trials(
    costs: dict[str, Any], heats: int, processes: int, noise: float = 0.01, family: str = "bay"
) -> list[AnyRecord]:
    chance = np.random.default_rng(3)
    return [
        Trial(
            name, family, n, heat, 1 + (heat - 1) * processes // heats, elapsed=cost * math.exp(noise * chance.normal())
        )
        for heat in range(1, heats + 1)
        for name, own in costs.items()
        for n, cost in own.items()
    ]


def by_law(law: Any, sizes: list[Any] = SIZES) -> dict[Any, float]:
    return {n: law(n) for n in sizes}


@examples(40)
@given(seed=st.integers(0, 10**9))
def test_no_statement_breaks_an_invariant(folder: Path, seed: int) -> None:
    path = folder / "run.jsonl"
    path.unlink(missing_ok=True)
    found = Analysis(any_logbook(path, seed)).findings()
    assert found.withheld == []
    assert report(found, everything=True).sections
    assert {zone.verdict for pair in found.pairs for zone in pair.zones} <= ZONES
    for each in found.crossovers:
        assert each.low <= each.size <= each.high < math.inf
        assert each.basis == "measured" or each.size <= 10 * each.at * 1.001
    assert "inf" not in heading(found).facts


# --- verdicts from few trials -----------------------------------------------------------------------------------------


def test_one_heat_gives_costs_and_no_verdict(folder: Path) -> None:
    """Two that are nearly the same, in one heat: no leader, no crossover, no forecast, nothing settled."""
    chance = np.random.default_rng(1)
    twin = {n: 100.0 * n * math.exp(0.4 * chance.normal()) for n in SIZES}
    twins = {"boxed": twin, "typed": {n: cost * math.exp(1.5 * chance.normal()) for n, cost in twin.items()}}
    found = run_of(folder / "one.jsonl", twins, 1, 1, (Close("finished", 5.0, 1, 1, settled=True),))
    assert len(found.costs) == 2
    assert not found.crossovers
    assert not found.standings
    assert found.run.too_few
    assert not found.run.settled or found.run.too_few
    assert "too few trials for verdicts" in heading(found).facts
    assert "settled" not in heading(found).facts


def test_few_trials_at_a_size_make_no_leader_there(folder: Path) -> None:
    own = {"slow": by_law(lambda n: 90.0 * n), "quick": by_law(lambda n: 30.0 * n)}
    rows = [each for each in trials(own, 12, 6) if each.size < 512 or each.heat < 3]  # type: ignore[union-attr]
    path = folder / "few.jsonl"
    path.unlink(missing_ok=True)
    write_logbook(path, [Header(), StudyRecord("harbour", budget=9.0), *rows])
    found = Analysis(read_logbook(path)).findings()
    (standing,) = found.standings
    assert (standing.leader, standing.end) == ("quick", 256)
    (pair,) = found.pairs
    assert [point[0] for point in pair.smooth] == [8, 16, 32, 64, 128, 256]


def test_neighbours_that_scatter_widen_the_interval(folder: Path) -> None:
    chance = np.random.default_rng(5)
    smooth = {"one": by_law(lambda n: 100.0 * n), "other": by_law(lambda n: 104.0 * n)}
    rough = {**smooth, "other": {n: cost * math.exp(0.5 * chance.normal()) for n, cost in smooth["other"].items()}}
    pairs = [run_of(folder / "w.jsonl", each).pairs[0] for each in (smooth, rough)]
    narrow, wide = (np.median([point[3] / point[2] for point in pair.smooth]) for pair in pairs)
    assert narrow < 1.1
    assert wide > 1.3
    assert {zone.verdict for zone in pairs[1].zones} == {UNKNOWN}


def test_heats_of_counting_are_no_heats(folder: Path) -> None:
    counts = [Trial("one", "bay", n, heat, metric="steps", value=3 * n) for heat in range(1, 9) for n in SIZES]
    found = run_of(folder / "counts.jsonl", {"one": by_law(lambda n: 10.0 * n)}, 2, 2, tuple(counts))
    assert found.run.rounds == 2


# --- tie, not known, leads --------------------------------------------------------------------------------------------


def test_a_size_that_only_one_was_measured_at_says_nothing_of_the_other(folder: Path) -> None:
    own = {"sweep": by_law(lambda n: 30.0 * n), "grid": by_law(lambda n: 100.0 * n, [*SIZES, 724])}
    found = run_of(folder / "only.jsonl", own)
    assert [(each.leader, each.start, each.end) for each in found.standings] == [("sweep", 8, 1024)]


def test_what_is_apart_and_what_is_not_known_have_names_of_their_own(folder: Path) -> None:
    chance = np.random.default_rng(2)
    base = by_law(lambda n: 100.0 * n)
    wild = {n: cost * math.exp(1.2 * chance.normal()) for n, cost in base.items()}
    found = run_of(folder / "three.jsonl", {"one": base, "twin": base, "wild": wild}, 40, 20)
    verdicts = {(each.one, each.other): {zone.verdict for zone in each.zones} for each in found.pairs}
    assert verdicts["one", "twin"] == {TIE}
    assert UNKNOWN in verdicts["one", "wild"]
    text = "".join(str(cell) for row in report(found).sections[0].tables[0].rows for cell in row)
    assert "not known which of" in text


def test_a_steady_difference_is_a_lead(folder: Path) -> None:
    own = {"one": by_law(lambda n: 82.0 * n), "other": by_law(lambda n: 100.0 * n)}
    found = run_of(folder / "steady.jsonl", own, 24, 8)
    assert [(each.leader, each.tied, each.rivals) for each in found.standings] == [("one", [], [])]
    assert found.standings[0].ahead == pytest.approx(100 / 82, rel=0.05)


def test_few_sizes_give_a_bracket(folder: Path) -> None:
    found = run_of(folder / "bracket.jsonl", {"one": {1: 100.0, 6: 900.0}, "other": {1: 300.0, 6: 400.0}})
    (crossover,) = found.crossovers
    assert crossover.bracket
    assert (crossover.low, crossover.high) == (1, 6)
    assert any("between n = 1 and 6" in str(line) for line in report(found).only("crossovers").sections[0].lines)


# --- an order fits its exponent ---------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("law", "counts"), [(lambda n: 40.0 * n**1.3, lambda n: n**3 + 9), (lambda n: n**2, lambda n: 7)]
)
def test_an_order_is_never_against_its_exponent(folder: Path, law: Any, counts: Any) -> None:
    """Counted work of another slope than time names nothing that time does not bear."""
    work = [
        Trial("one", "bay", n, heat, metric="counted work", value=counts(n), seed=heat)
        for heat in (1, 2)
        for n in SIZES[:6]
    ]
    claims = ContenderRecord("one", claims=[ClaimRecord("n^2")])
    (growth,) = run_of(folder / "slope.jsonl", {"one": by_law(law)}, more=(claims, *work)).growth
    assert growth.order not in ("n^3", "1")
    assert growth.law is not None
    assert growth.law.low <= growth.law.value <= growth.law.high


@examples(40)
@given(seed=st.integers(0, 10**6), at=st.integers(0, 13), by=st.sampled_from([0.2, 0.4, 2.5, 5.0]))
@example(seed=200, at=13, by=2.5)  # the last size alone was called 1.002^n
def test_one_outlier_makes_no_kink_and_no_law(folder: Path, seed: int, at: int, by: float) -> None:
    chance = np.random.default_rng(seed)
    sizes = [round(float(n)) for n in np.geomspace(8, 4096, 14)]
    own = {n: 5000.0 * (by if row == at else 1.0) * math.exp(0.01 * chance.normal()) for row, n in enumerate(sizes)}
    (growth,) = run_of(folder / "kink.jsonl", {"one": own}).growth
    assert all(each.why != "kink" for each in growth.segments)
    assert growth.order in ("1", "log n", "log log n", None)


# --- choice, break-even, forecasts ------------------------------------------------------------------------------------


def test_a_choice_does_not_flicker_nor_contradict_the_standings(folder: Path) -> None:
    path, records = folder / "choice.jsonl", []
    for family, seed in (("calm", 1), ("storm", 2)):
        chance = np.random.default_rng(seed)
        noisy = {
            name: {n: base * n * math.exp(0.08 * chance.normal()) for n in SIZES}
            for name, base in (("heap", 100.0), ("scan", 101.0))
        }
        noisy["best"] = by_law(lambda n: 60.0 * n)
        records += trials(noisy, 12, 6, family=family)
    path.unlink(missing_ok=True)
    write_logbook(path, [Header(), StudyRecord("harbour", budget=9.0), *records])
    found = Analysis(read_logbook(path)).findings()
    assert [(each.contender, each.start, each.end) for each in found.safe_choice] == [("best", 8, 1024)]


def test_break_even_follows_the_standings(tmp_path: Path) -> None:
    laws = {
        ("table", "bay", "build"): lambda n: 300.0 * n,
        ("scan", "bay", "build"): lambda n: 100.0 * n,
        ("table", "bay", "use"): lambda n: 50.0,
        ("scan", "bay", "use"): lambda n: 20.0 + n,
    }
    found = Analysis(written(tmp_path / "run.jsonl", laws)).findings()
    for each in found.breakeven:
        leader = next(row.leader for row in found.standings if row.stage == "use" and row.start <= each.size <= row.end)
        assert (each.verdict == NEVER) == (leader == "scan")
        assert each.verdict == NEVER or each.low is None or (each.low <= each.uses <= each.high)  # type: ignore[operator]


def test_what_pulls_away_is_not_forecast_to_be_overtaken(folder: Path) -> None:
    own = {"sweep": by_law(lambda n: 20.0 * n), "pairs": by_law(lambda n: 20.0 * n + 0.7 * n**2)}
    found = run_of(folder / "away.jsonl", own)
    assert not [each for each in found.crossovers if each.basis == "forecast"]


# --- the end of a run, axes -------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("close", "said"),
    [
        (Close("finished", 9.0, 9, 4, settled=True), "all settled after 9 s"),
        (
            Close("finished", 9.0, 9, 4, settled=True, orders_untold=["a", "b"]),
            "settled after 9 s but for 2 orders that cannot be told apart here",
        ),
        (Close("finished", 9.0, 9, 4, settled=False, unsettled=["a", "b", "c"]), "used up: 3 questions open"),
    ],
)
def test_the_end_of_a_run_is_one_honest_line(folder: Path, close: Close, said: str) -> None:
    found = run_of(
        folder / "end.jsonl", {"one": by_law(lambda n: 9.0 * n), "two": by_law(lambda n: n**2)}, more=(close,)
    )
    assert said in heading(found).facts


def test_an_axis_may_begin_below_zero(folder: Path) -> None:
    places = [float(place) for place in range(-4, 6)]
    own = {"one": {x: 100.0 + 9 * x for x in places}, "other": {x: 105.0 - 4 * x for x in places}}
    found = run_of(folder / "axis.jsonl", own, axis="position")
    (crossover,) = found.crossovers
    assert crossover.low <= 5 / 13 <= crossover.high
    told = " ".join(str(line) for section in report(found).sections for line in section.lines)
    assert "position = " in told
    assert not re.search(r"\bn = ", told)


# --- the auditor ------------------------------------------------------------------------------------------------------


@pytest.fixture(scope="module")
def sound(folder: Path) -> Findings:
    own = {"low": by_law(lambda n: 10.0 * n * n), "high": by_law(lambda n: 1000.0 * n)}
    claims = [ContenderRecord(name, claims=[ClaimRecord("n^2")]) for name in own]
    return run_of(folder / "sound.jsonl", own, more=tuple(claims))


def broken(found: Findings, part: str, at: int = 0, **changes: Any) -> list[str]:
    """What is withheld of findings where one statement is changed."""
    rows = list(getattr(found, part))
    rows[at] = msgspec.structs.replace(rows[at], **changes)
    return audit.audited(msgspec.structs.replace(found, **{part: rows})).withheld


def test_sound_findings_pass(sound: Findings) -> None:
    assert sound.withheld == []
    assert sound.crossovers
    assert sound.standings
    assert audit.audited(sound) is sound


@pytest.mark.parametrize(
    ("part", "changes", "letter"),
    [
        ("crossovers", {"low": 500.0}, "A"),
        ("crossovers", {"high": math.inf}, "A"),
        ("crossovers", {"before": "high", "after": "low"}, "D"),
        ("crossovers", {"basis": "forecast"}, "C"),
        ("crossovers", {"size": 400.0, "high": 401.0}, "D"),
        ("standings", {"cheapest": "high"}, "D"),
        ("standings", {"tied": ["high"], "within": 0.3}, "E"),
        ("standings", {"end": 4}, "F"),
        ("standings", {"end": 900}, "F"),
        ("growth", {"order": "n^3"}, "G"),
        ("growth", {"plausible": [Plausible("n^2", 0.9), Plausible("n", 0.9)]}, "G"),
        ("growth", {"law": Interval(1.1, 1.0, 1.2)}, "H"),
        ("growth", {"exponent": Interval(1.1, 1.2, 1.3)}, "A"),
        ("claims", {"claim": "n^3"}, "K"),
        ("claims", {"verdict": "contradicted"}, "K"),
        ("claims", {"verdict": "slower"}, "K"),
    ],
)
def test_each_breach_is_withheld(sound: Findings, part: str, changes: dict[str, Any], letter: str) -> None:
    found = broken(sound, part, **changes)
    assert found
    assert any(f": {letter}: " in each or f"; {letter}: " in each for each in found)


def test_a_pair_is_held_against_its_ratios(sound: Findings) -> None:
    (pair,) = sound.pairs
    turned = [
        msgspec.structs.replace(zone, leader={"low": "high", "high": "low"}[zone.leader or ""]) for zone in pair.zones
    ]
    tied = [msgspec.structs.replace(pair.zones[0], leader=None, verdict=TIE)]
    assert any("D:" in each for each in broken(sound, "pairs", zones=turned))
    assert any("E:" in each for each in broken(sound, "pairs", zones=tied))
    assert any("B:" in each for each in broken(sound, "pairs", smooth=[*pair.smooth, [4096.0, 1.0, 1.0, 1.0]]))


def test_growth_that_breaks_an_invariant_keeps_its_costs_and_loses_its_name(sound: Findings) -> None:
    rows = [msgspec.structs.replace(sound.growth[0], law=Interval(1.1, 1.0, 1.2)), *sound.growth[1:]]
    found = audit.audited(msgspec.structs.replace(sound, growth=rows))
    assert found.growth[0].order is None
    assert found.growth[0].exponent == sound.growth[0].exponent
    assert len(found.costs) == len(sound.costs)
