"""Whole runs with scripted workers and a clock that they move: exact, and the same on every machine."""

from __future__ import annotations

from collections import defaultdict
from itertools import pairwise
from pathlib import Path

import pytest
from scripted import Script, run, study_of

from logarithm.report.present import rendered
from logarithm.statistics.analysis import Analysis
from logarithm.statistics.stopping.rule import StoppingRule

LAWS = {"sweep": lambda n: 2e-6 + 1e-7 * n, "every_pair": lambda n: 4e-9 * n * n}


def test_a_run_measures_every_size_and_keeps_its_budget(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    script = Script(LAWS)
    book = run(script, tmp_path, monkeypatch, budget=10.0)
    assert book.close is not None and book.close.reason == "finished"
    assert 9.0 < book.close.elapsed <= 10.0
    assert book.close.processes >= 5
    sizes = {(key[0], float(size)) for key, size in zip(_keys(book), book.trials.size, strict=True)}
    assert sizes >= {(name, 2.0**at) for name in LAWS for at in range(3, 11)}
    assert sum(book.close.phases.values()) == pytest.approx(book.close.elapsed, abs=0.02)


def test_the_same_seed_gives_the_same_run(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    texts = []
    for name in ("one", "other"):
        (tmp_path / name).mkdir()
        run(Script(LAWS), tmp_path / name, monkeypatch, budget=4.0)
        lines = (tmp_path / name / "run.jsonl").read_text(encoding="utf-8").splitlines()
        texts.append([line for line in lines if '"kind":"trial"' in line])
    assert texts[0] == texts[1]


def test_trials_come_in_shuffled_rounds(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    book = run(Script(LAWS), tmp_path, monkeypatch, budget=6.0)
    rounds: dict[int, list[tuple[str, float]]] = defaultdict(list)
    for key, size, number in zip(_keys(book), book.trials.size, book.trials.heat, strict=True):
        if key[3] == "time" and number:
            rounds[int(number)].append((key[0], float(size)))
    whole = list(rounds.values())[:-1]
    assert len(whole) >= 6
    assert all(len(set(each)) == len(each) for each in whole)
    assert all(each != sorted(each) for each in whole)
    assert len({tuple(each) for each in whole}) == len(whole)


def test_every_process_has_a_seed_of_its_own_and_all_contenders_get_the_same_inputs(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    script = Script(LAWS)
    run(script, tmp_path, monkeypatch, budget=6.0)
    inputs: dict[tuple[float, int, int], set[str]] = defaultdict(set)
    for name, request in script.asked:
        if type(request).__name__ == "TakeTrial":
            inputs[request.size, request.seed, request.first].add(name)
    assert len({seed for _, seed, _ in inputs}) >= 4
    assert sum(len(names) == 2 for names in inputs.values()) > 0.8 * len(inputs)


def test_a_contender_that_fails_stops_at_its_size_and_the_others_go_on(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    script = Script(LAWS, fails={"every_pair": (100.0, "RecursionError")})
    book = run(script, tmp_path, monkeypatch, budget=6.0)
    (failure,) = book.failures
    assert (failure.contender, failure.size, failure.reason) == ("every_pair", 128, "RecursionError")
    assert failure.works == 99
    largest = {
        name: max(s for k, s in zip(_keys(book), book.trials.size, strict=True) if k[0] == name) for name in LAWS
    }
    assert largest["sweep"] == 1024


def test_a_slow_contender_ends_where_a_call_would_take_longer_than_allowed(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    script = Script({"sweep": LAWS["sweep"], "doze": lambda n: 0.002 * n})
    book = run(script, tmp_path, monkeypatch, budget=6.0, ceiling=0.05)
    reached = max(s for k, s in zip(_keys(book), book.trials.size, strict=True) if k[0] == "doze")
    assert reached == 16
    assert any(note.topic == "sizes" and note.contender == "doze" for note in book.notes)


def test_the_largest_size_is_measured_also_if_time_is_short(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    laws = {**{f"quick_{at}": LAWS["sweep"] for at in range(8)}, "slow": lambda n: 4e-4 * n}
    script = Script(laws)
    study = study_of(script, "8..2000")
    book = run(script, tmp_path, monkeypatch, study, budget=12.0, ceiling=1.2)
    reached: dict[str, set[float]] = defaultdict(set)
    for key, size in zip(_keys(book), book.trials.size, strict=True):
        reached[key[0]].add(float(size))
    assert {max(sizes) for sizes in reached.values()} == {2000.0}
    assert {min(sizes) for sizes in reached.values()} == {8.0}
    assert len({frozenset(sizes) for sizes in reached.values()}) == 1
    found = Analysis(book).findings()
    assert found.run.left_out and "in between left out" in rendered(found, "text")


def test_values_of_another_axis_are_left_out_evenly(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    script = Script({"near": lambda at: 0.004 + 1e-5 * at, "far": lambda at: 0.008 - 1e-5 * at})
    study = study_of(script)
    study.vary("position", "0..99 +1")
    book = run(script, tmp_path, monkeypatch, study, budget=6.0)
    values = sorted({float(size) for size in book.trials.size})
    assert (values[0], values[-1]) == (0.0, 99.0) and len(values) >= 5
    gaps = [later - earlier for earlier, later in pairwise(values[1:])]
    assert max(gaps) <= 2 * min(gaps)


def test_contenders_that_disagree_are_not_measured_unless_that_is_asked_for(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    answers = {"every_pair": ["float", 2.0]}
    book = run(Script(LAWS, answers=answers), tmp_path, monkeypatch, budget=3.0)
    assert book.close is not None and book.close.reason == "disagreement"
    assert not len(book.trials)
    (tmp_path / "run.jsonl").unlink()
    book = run(Script(LAWS, answers=answers), tmp_path, monkeypatch, budget=3.0, anyway=True)
    assert len(book.trials)
    assert any(note.topic == "disagreement" and note.contender == "every_pair" for note in book.notes)


def test_a_run_ends_early_if_everything_is_settled(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    far = {"sweep": lambda n: 1e-7 * n, "every_pair": lambda n: 1e-6 * n * n}
    book = run(Script(far), tmp_path, monkeypatch, rule=StoppingRule(), budget=60.0)
    assert book.close is not None and book.close.settled
    assert book.close.elapsed < 30
    whole = Script(far)
    (tmp_path / "run.jsonl").unlink()
    book = run(whole, tmp_path, monkeypatch, rule=StoppingRule(), budget=20.0, whole=True)
    assert book.close is not None and 18.5 < book.close.elapsed <= 20.0


def test_a_run_goes_on_while_a_question_is_open(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    near = {"sweep": lambda n: 1e-6 * n, "grid": lambda n: 1.045e-6 * n}
    book = run(Script(near, noise=0.1, between=0.1), tmp_path, monkeypatch, rule=StoppingRule(), budget=15.0)
    assert book.close is not None and not book.close.settled and book.close.unsettled
    assert 14.0 < book.close.elapsed <= 15.0


def test_a_scripted_run_finds_the_orders_and_the_crossover_of_its_laws(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    book = run(Script(LAWS), tmp_path, monkeypatch, budget=20.0)
    found = Analysis(book).findings()
    assert {row.contender: row.order for row in found.growth} == {"sweep": "n", "every_pair": "n^2"}
    (crossover,) = found.crossovers
    truth = (1e-7 + (1e-14 + 4 * 4e-9 * 2e-6) ** 0.5) / (2 * 4e-9)
    assert crossover.low <= truth <= crossover.high
    assert crossover.size == pytest.approx(truth, rel=0.05)


def test_only_the_contenders_and_sizes_that_are_asked_for_are_measured(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    script = Script(LAWS)
    book = run(script, tmp_path, monkeypatch, study_of(script), budget=3.0, contenders=("sweep",), sizes=(5, 10))
    seen = {(key[0], float(size)) for key, size in zip(_keys(book), book.trials.size, strict=True)}
    assert seen == {("sweep", 5.0), ("sweep", 10.0)}


def _keys(book):
    """Return (contender, family, stage, metric) of each trial."""
    return [book.trials.keys[code] for code in book.trials.series]
