"""Parts of a run and of its conclusions on known truths: where seconds go, kinks, repeated inputs."""

from __future__ import annotations

import math
import time
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from logarithm import Study
from logarithm.notation.orders import parse
from logarithm.results.pairs import CrossoverFinding
from logarithm.run.counters.parallel import each_share
from logarithm.run.counters.work import SIZES, filled
from logarithm.run.plan.settings import Settings
from logarithm.run.plan.track import AROUND_S, Step, making_costs, tracks
from logarithm.run.record import budget, phases
from logarithm.run.record.budget import Budget
from logarithm.statistics.comparison.repeated_inputs import bias_of, findings_of, moved
from logarithm.statistics.growth.regimes import kink, stretches
from logarithm.statistics.readings.series import Series
from logarithm.supervisor import templates
from logarithm.supervisor.programs.instances import InstanceFiles

SIZES_OF_TEN = 2.0 ** np.arange(3, 13)


def test_seconds_belong_to_the_innermost_phase_and_can_be_moved(monkeypatch: pytest.MonkeyPatch) -> None:
    at = 0.0
    monkeypatch.setattr(budget.clock, "seconds", lambda: at)
    own = Budget(total=10.0, before=2.0, begun=0.0, _since=0.0)
    with own.during(budget.TRIALS):
        at = 3.0
        with own.during(budget.LOOKING):
            at = 4.0
            assert own.spent(budget.LOOKING) == 1.0
        at = 6.0
        own.move(budget.MAKING, 0.5)
    at = 7.0
    assert own.elapsed == 9.0
    assert own.left == pytest.approx(10.0 * (1 - budget.ENDING_SHARE) - budget.ENDING - 9.0)
    assert own.used == 0.9
    with own.during(budget.COUNTING):
        pass
    assert dict(own.phases) == {
        budget.OTHER: 1.0,
        budget.TRIALS: 4.5,
        budget.LOOKING: 1.0,
        budget.MAKING: 0.5,
        budget.COUNTING: 0.0,
    }


@pytest.mark.parametrize(
    ("phase", "causes", "told"),
    [
        (budget.STARTING, phases.Causes(4, 2.1, "pandas", 9), "starting 4 processes took 50 % of the run: loading the"),
        (budget.STARTING, phases.Causes(1, None, "", 9), "starting 1 process took 50 % of the run: each loads"),
        (budget.CALIBRATING, phases.Causes(4, 0.1, "", 9), "a first look at 9 sizes of all contenders took 50 %"),
        (budget.MAKING, phases.Causes(4, 0.1, "", 9), "making inputs took 50 % of the run: fewer or smaller --sizes"),
        (budget.LOOKING, phases.Causes(4, 0.1, "", 9), "the analysis between processes took 50 % of the run"),
    ],
)
def test_what_takes_more_than_a_fifth_and_is_no_trial_is_told_with_its_cause(
    phase: str, causes: phases.Causes, told: str
) -> None:
    (note,) = phases.notes({phase: 5.0, budget.TRIALS: 4.0, budget.OTHER: 1.0}, causes)
    assert note.text.startswith(told)
    assert ("most of it pandas" in note.text) == (causes.dearest == "pandas")
    assert phases.notes({phase: 0.5, budget.TRIALS: 0.5}, causes) == []  # less than a second is nothing
    assert phases.notes({phase: 1.5, budget.TRIALS: 8.5}, causes) == []


def test_templates_are_waited_for_where_that_is_soon_done(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    made: list[SimpleNamespace] = []

    def template(*_: object) -> SimpleNamespace:
        waited: list[float] = []
        each = SimpleNamespace(ready=True, loading=0.4, dearest="numpy", waited=waited, end=lambda: None)
        each.is_ready = lambda within=30.0: waited.append(within) or True
        made.append(each)
        return each

    monkeypatch.setattr(templates, "Template", template)
    monkeypatch.setattr(templates.sys, "platform", "linux")
    for patience, are_waited_for in ((0.5, 3), (0.3, 1)):
        made.clear()
        own = templates.Templates(tmp_path / "study.py")
        own.prepare(patience)
        assert made == []  # the first one is started when it is needed
        own.of(1)
        own.prepare(patience)
        assert len(made) == templates.TEMPLATES
        assert sum(bool(each.waited) for each in made) == are_waited_for
        assert all(0 <= each.waited[-1] <= patience for each in made[1:] if each.waited)
        assert own.loading == (0.4, "numpy")
        own.end()
        assert own.made == {}


def test_what_a_process_needs_before_its_first_trial_is_learnt_from_those_before() -> None:
    step = Step(calls=10, call=1e-3, copies=False, instances=8, making=1e-3)
    assert step.trial == pytest.approx(0.01 + AROUND_S)
    for _ in range(12):
        step.seen(1e-3, 0.01, beside=0.02, is_first=False)
    step.seen(1e-3, 0.01, beside=0.12, is_first=True)
    assert step.trial == pytest.approx(0.03, rel=0.01)
    assert step.opening == pytest.approx(0.1, rel=0.01)
    study = Study("harbour", sizes="8")
    study.family(lambda n, rng: [n], name="calm")
    study.contender(lambda x: x, name="rowing")
    (track,) = tracks(study, Settings())
    track.steps[8] = {None: step}
    assert making_costs([track]) == {("rowing", "calm", 8): pytest.approx(0.1, rel=0.01)}
    step.opening = 0.0
    assert making_costs([track]) == {("rowing", "calm", 8): pytest.approx(0.008)}


@given(st.lists(st.integers(1, 10**6), min_size=2, max_size=30, unique=True).map(sorted))
def test_few_sizes_are_counted_at_whole_ones_between_them_too(sizes: list[int]) -> None:
    every = filled(sizes)
    assert {*sizes} <= {*every}
    assert every == sorted(every)
    assert (every[0], every[-1]) == (sizes[0], sizes[-1])
    assert len(sizes) < SIZES or every == sizes
    assert all(isinstance(each, int) for each in every)


def test_counting_has_as_many_seconds_as_there_are_processors(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("logarithm.run.counters.parallel.os.cpu_count", lambda: 4)
    contenders: list[Any] = [object()] * 8
    assert each_share(6.0, contenders) == 3.0
    assert each_share(6.0, contenders[:3]) == 6.0


# ---- Kinks


def curve(before: str, after: str, at: int) -> np.ndarray[Any, Any]:
    """A cost that goes on by another law from a place on, as high there as the first."""
    costs = []
    for index, n in enumerate(SIZES_OF_TEN):
        law = parse(before if index < at else after)
        joint = float(SIZES_OF_TEN[at])
        scale = 0.0 if index < at else parse(before).log_value(joint) - law.log_value(joint)
        costs.append(math.exp(law.log_value(float(n)) + scale))
    return np.array(costs)


@pytest.mark.parametrize(("before", "after"), [("n", "n^2"), ("n log n", "n^3"), ("1", "n"), ("n^2", "n")])
def test_a_change_of_law_is_found_where_it_is(before: str, after: str) -> None:
    costs = curve(before, after, 5)
    found = kink(SIZES_OF_TEN, costs, np.eye(10) / 0.02, 20.0, single=200.0)
    assert found is not None
    # At the joint both laws are as high, so the cut may lie on either side of it.
    assert found.index in (5, 6)
    one, other = stretches(SIZES_OF_TEN, after, 0.0, costs, None, found)
    assert (one.order, one.why, other.order, other.why) == (before, "kink", after, "")
    assert one.end == other.start == pytest.approx(math.sqrt(SIZES_OF_TEN[found.index - 1] * SIZES_OF_TEN[found.index]))


def test_one_law_has_no_kink_and_what_is_fixed_is_called_so() -> None:
    costs = 3.0 * SIZES_OF_TEN
    found = kink(SIZES_OF_TEN, costs, np.eye(10) / 0.02, 20.0, single=2.0)
    assert found is None
    assert [each.order for each in stretches(SIZES_OF_TEN, "n", 0.0, costs, None, None)] == ["n"]
    fixed = 200.0 + SIZES_OF_TEN
    low, high = stretches(SIZES_OF_TEN, "n", 200.0, fixed, None, None)
    assert (low.order, low.why, low.end, high.order) == ("1", "fixed cost", 256.0, "n")
    step = stretches(SIZES_OF_TEN, "n", 0.0, costs, 64.0, None)
    assert [(each.order, each.why) for each in step] == [("n", "step"), ("n", "")]


# ---- Repeated inputs


def series(metric: str, name: str, costs: np.ndarray[Any, Any]) -> Series:
    """A series of six heats in three processes with these costs at every size."""
    table = np.repeat(costs[:, None], 6, axis=1)
    heats = np.arange(1, 7)
    return Series(
        contender=name,
        family="calm",
        stage=None,
        metric=metric,
        sizes=SIZES_OF_TEN,
        costs=table,
        heats=heats,
        processes=(heats + 1) // 2,
    )


def test_what_repeated_inputs_would_have_said() -> None:
    fresh, learnt = 4.0 * SIZES_OF_TEN, np.where(SIZES_OF_TEN <= 64, 0.5, 1.0)
    other = SIZES_OF_TEN**1.5 / 2
    every = [
        series("time", "rowing", fresh),
        series("repeated", "rowing", fresh * learnt),
        series("time", "sailing", other),
    ]
    known = bias_of(every)
    assert set(known) == {("rowing", "calm", None)}
    (told,) = findings_of(known)
    assert (told.contender, told.ratio, told.until) == ("rowing", pytest.approx(2.0), 64)
    # Rowing and sailing cross at 64. Were each input repeated, rowing would be ahead from 16 on.
    found = CrossoverFinding(
        family="calm",
        metric="time",
        stage=None,
        before="sailing",
        after="rowing",
        size=64.0,
        low=60.0,
        high=68.0,
        basis="interval",
        at=4096,
        ratio=8.0,
        start=8,
        lead=2.8,
    )
    elsewhere = moved(found, every, known)
    assert elsewhere is not None
    assert 10 < elsewhere < 32
    assert moved(found, every[:1] + every[2:], {}) is None


def test_making_instances_ends_with_the_time_for_them_but_for_the_first() -> None:
    study = Study("moorings", sizes="1..8")

    def slow(n: int, rng: Any) -> int:
        time.sleep(0.002)
        return n

    study.family(slow, name="slow")
    files = InstanceFiles(study)
    assert files.hold(("slow", 2, 1), 50, within=0) == 1
    assert 1 <= files.hold(("slow", 2, 1), 50, within=5_000_000) < 50
    files.end()
