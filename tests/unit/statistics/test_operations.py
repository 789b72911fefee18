"""Operations of one object: shares, growing from nothing, and all of it with two sizes."""

from __future__ import annotations

import random
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from made_up import two_sizes

from logarithm import Study
from logarithm.api import subject as _  # noqa: F401 - so that results can show themselves
from logarithm.errors import LogarithmError, StudyError, TableError
from logarithm.logbook.exchange.calls import of_record, read_calls, recorded, where_called
from logarithm.logbook.memory import LogbookBuilder
from logarithm.logbook.records import ContenderRecord, FamilyRecord, Header, StudyRecord, Trial
from logarithm.protocol.requests import Count
from logarithm.report.figure.views import draw
from logarithm.statistics.analysis import Analysis
from logarithm.statistics.workloads.operations import _crossing, _leads
from logarithm.study.files.plain import Setup
from logarithm.worker.count.counts import count
from logarithm.worker.timing.bench import Bench
from logarithm.worker.timing.operations import dearest_step, growth_steps


def test_versions_and_a_workload_hold_at_two_sizes(tmp_path: Path) -> None:
    book = two_sizes(
        {("first", None): lambda n, k: 500 + 20 * n * k, ("second", None): lambda n, k: 900 + 30 * n},
        versions=["first", "second"],
    )
    found = Analysis(book).findings()
    steps = {each.second: each.before.value for each in found.versions if each.before is not None}
    assert steps[64] == pytest.approx(30 / (20 * 64), rel=0.05) and steps[1] > 1.4
    assert {each.order for each in found.versions} == {"n k", "n"}
    assert "at n = 4096, k = 64" in draw(found, "versions").get_suptitle().replace("\u00a0", " ")
    file = tmp_path / "calls.csv"
    file.write_text("n,K,count\n100,1,1000\n2000,32,10\n")
    calls = read_calls(file, ["n", "k"])
    assert of_record(recorded(calls)) == calls and where_called(calls, is_second=True) == (1, 32)
    totals, weighing = found.analysis.weighed(calls)
    true = {
        "first": 1000 * (500 + 20 * 100) + 10 * (500 + 20 * 2000 * 32),
        "second": 1000 * (900 + 30 * 100) + 10 * (900 + 30 * 2000),
    }
    for each in totals:
        assert each.total == pytest.approx(true[each.contender] * 1e-9, rel=0.1)
    assert weighing.best == ["second"] and weighing.classes[0].best == "first"
    for text, names, told in (
        ("n,count\n100,1\n", ["n", "k"], "add a column 'k'"),
        ("size,second\n100,1\n", [], "one size only"),
    ):
        file.write_text(text)
        with pytest.raises(TableError, match=told):
            read_calls(file, names)


def test_mixes_at_two_sizes_have_leaders_by_the_share() -> None:
    costs = {
        ("kept", "add"): lambda n, k: 100 + n,
        ("kept", "find"): lambda n, k: 200 + 10 * k,
        ("loose", "add"): lambda n, k: 90,
        ("loose", "find"): lambda n, k: 90 + 3 * n,
    }
    found = Analysis(two_sizes(costs, mixes={"mostly asked": {"find": 9, "add": 1}})).findings()
    shares = {each.second: each for each in found.shares}
    each = shares[64]
    assert (each.operation, each.share, each.size) == ("add", 0.1, 4096)
    gain, loss = 3 * 4096 + 90 - 200 - 640, 100 + 4096 - 90
    (switch,) = each.switches
    assert (switch.before, switch.after) == ("kept", "loose")
    assert switch.share.low < gain / (gain + loss) < switch.share.high
    assert "by the share of add: kept leads below" in " ".join(str(found).split())
    assert "leads below" in draw(found, "mix").get_suptitle()
    with pytest.raises(LogarithmError, match="no mix to draw"):
        draw(Analysis(two_sizes(costs)).findings(), "mix")


@given(st.lists(st.tuples(st.floats(1, 1e6), st.floats(1, 1e6)), min_size=2, max_size=6))
def test_leaders_by_the_share_are_the_cheapest_everywhere(ends: list[tuple[float, float]]) -> None:
    costs = {str(at): ((one,) * 3, (other,) * 3) for at, (one, other) in enumerate(ends)}
    leads = _leads(costs)
    assert leads[0].start == 0 and leads[-1].end == 1
    for each in leads:
        share = (each.start + each.end) / 2
        at = {name: one[0] * (1 - share) + other[0] * share for name, (one, other) in costs.items()}
        assert at[each.leader] <= min(at.values()) * (1 + 1e-9)


def test_the_error_of_a_share_is_that_of_both_differences() -> None:
    share, reach = _crossing(((10, 9, 11), (2, 2, 2)), ((6, 6, 6), (4, 3, 5)))
    assert share == pytest.approx(2 / 3) and reach == pytest.approx((4 + 16) ** 0.5 / 36)
    assert _crossing(((10, 9, 11), (8, 8, 8)), ((6, 6, 6), (4, 3, 5)))[0] < 0


study = Study("berths", sizes="8..64 *2")


@study.family
def booked(n: int, rng: random.Random) -> dict[str, list[int]]:
    return {"holds": rng.sample(range(10 * n), n), "add": [*range(50)]}


class Doubling:
    """A list that moves to twice the room when it is full."""

    def build(self, ships: list[int]) -> None:
        self.room, self.ships = 8, list[int]()
        for ship in ships:
            self.add(ship)

    @study.operation
    def add(self, ship: int) -> None:
        if len(self.ships) == self.room:
            self.room *= 2
            self.ships = [each for each in self.ships]  # noqa: C416 - every one of them is moved
        self.ships.append(ship)


def test_an_object_grows_from_nothing_and_its_dearest_step_is_found() -> None:
    study.contender(Doubling, grow="add", name="doubling")
    contender = study.the_contender("doubling")
    assert contender.options.operations == ("add",) and contender.stages == ("build", "add", "grow")
    instance = booked(40, random.Random(1))
    for call, argument in growth_steps(contender, instance):
        call(argument)
    assert call.__self__.ships == instance["holds"]  # type: ignore[attr-defined]
    assert dearest_step(contender, instance) > 0
    bench = Bench(study, contender)
    counted = count(bench, Count("booked", 64, 1, "grow", "steps"))
    whole = counted.values["steps"]  # type: ignore[union-attr]
    # In a moment in which the machine stands still, few calls are counted, and that of a doubling weighs more.
    adds = [count(bench, Count("booked", 40, 1, "add", "steps")) for _try in range(4)]
    one = min(each.values["steps"] for each in adds)  # type: ignore[union-attr]
    assert 64 * one < whole < 64 * one + 20 * (8 + 16 + 32)
    with pytest.raises(StudyError, match="grows by sink, which is none of its operations: there is only"):
        study.contender(Doubling, grow="sink", name="sinking")


def test_growing_is_told_with_the_mean_and_the_dearest_step() -> None:
    builder = LogbookBuilder(Path("grow.jsonl"))
    opening = StudyRecord(name="bells", sizes=[64, 1024], budget=9.0, metrics=["time"])
    builder.add([Header(), opening, ContenderRecord(name="ship", stages=["grow"]), FamilyRecord(name="bay")])
    builder.add(
        [
            Trial("ship", "bay", n, heat, 1 + heat // 2, calls=1, elapsed=cost, stage="grow", metric=metric)
            for n in (64, 128, 256, 512, 1024)
            for heat in range(1, 9)
            for metric, cost in (("time", 100 * n), ("dearest step", 9 * n))
        ]
    )
    (each,) = Analysis(builder.logbook()).findings().growing
    assert (each.size, each.order, each.dearest_order) == (1024, "n", "n")
    assert each.mean == pytest.approx(100e-9) and each.dearest == pytest.approx(9216e-9)
    assert "92 × the mean" in str(Analysis(builder.logbook()).findings())


def test_a_setup_gives_values_of_one_size_or_of_both(tmp_path: Path) -> None:
    file = tmp_path / "lights.py"
    file.write_text("def lit(n, rng): return n\ndef asked(n, k, rng): return n * k\ndef plain(n): return n\n")
    setup = Setup.of(str(file))
    assert setup.family(3, 5, random.Random(1)) == {"lit": 3, "asked": 15} and "plain" in setup.space
