"""Versions, lines through few sizes, expressions, plain code, operations of one object and their mixes."""

from __future__ import annotations

import random
from pathlib import Path
from typing import Any

import pytest
from made_up import one_size

from logarithm import Study
from logarithm.api import subject as _  # noqa: F401 - so that results can show themselves
from logarithm.errors import StudyError
from logarithm.logbook.memory import LogbookBuilder
from logarithm.logbook.records import ContenderRecord, FamilyRecord, Header, StudyRecord, Trial
from logarithm.protocol import clock
from logarithm.report.figure.views import draw
from logarithm.statistics.analysis import Analysis
from logarithm.study.expressions import Expression
from logarithm.study.files.plain import Plain, Setup, study_of, value_of
from logarithm.worker.timing.operations import Objects, answers, pattern, turns_of


def test_each_version_stands_beside_the_one_before_and_the_first() -> None:
    found = Analysis(one_size({"first": (900, 90), "second": (900, 30), "third": (900, 30.2)})).findings()
    first, second, third = found.versions
    assert first.before is None and second.before is not None and third.first is not None
    assert second.is_clear and second.before.low < 1 / 3 + 0.02 < second.before.high + 0.05
    assert not third.is_clear and third.first.value == pytest.approx(1 / 3, rel=0.05)
    assert {each.size for each in found.versions} == {2048} and second.order == "n"
    text = " ".join(str(found).split())
    assert "second brought most on bay: 3.0 × as fast as the one before" in text
    assert "second brought most" in draw(found, "versions").get_suptitle()
    assert not Analysis(one_size({"first": (900, 90), "second": (900, 30)}, versions=False)).findings().versions
    study = Study("bells")
    study.contender(max, name="blast")
    study.family(lambda n, rng: [n], name="bay")
    study.versions("blast", "echo")
    with pytest.raises(StudyError, match="versions name the contender 'echo'"):
        study.check()


@pytest.mark.parametrize("sizes", [(100, 200), (100, 150, 200)])
def test_a_line_goes_through_few_sizes(sizes: tuple[int, ...]) -> None:
    (row,) = Analysis(one_size({"added": (5000, 40)}, sizes)).findings().growth
    assert row.order is None and row.straight is not None
    assert row.straight.fixed.low < 5000e-9 < row.straight.fixed.high
    assert row.straight.each.low < 40e-9 < row.straight.each.high
    assert "an item, if it is a line" in str(Analysis(one_size({"added": (5000, 40)}, sizes)).findings())


def test_an_expression_takes_its_names_from_the_instance() -> None:
    made = Expression.of("lamp in lit and near(lamp)", {"near": lambda lamp: lamp < 3})
    assert made.names == ("lamp", "lit")
    call = made.function()
    assert [call({"lamp": at, "lit": {1, 4}}) for at in (1, 2, 4)] == [True, False, False]
    rows = [tuple(made.values({"lamp": at, "lit": {1}}) for at in range(10))] * 20
    assert made.loop(10, clock.now)(rows, None) > made.loop(10, clock.now, is_empty=True)(rows, None) > 0
    whole = Expression.of("max(x)", {})
    assert (whole.function()([3, 9]), whole.values([3, 9])) == (9, ([3, 9],))
    with pytest.raises(StudyError, match="uses lit, which the instance does not give: there is only 'lamp'"):
        made.values({"lamp": 1})
    with pytest.raises(StudyError, match="is not an expression"):
        Expression.of("lamp =", {})


def test_an_input_of_ones_own_is_read(tmp_path: Path) -> None:
    texts = {"a.json": "[[1, 2], [3]]", "b.txt": "3\n4.5\n", "c.txt": "1, 2\n3 4\n", "d.txt": "ebb\nflood\n"}
    for name, text in texts.items():
        (tmp_path / name).write_text(text)
    read = [value_of(str(tmp_path / name)) for name in texts]
    assert read == [[[1, 2], [3]], [3, 4.5], [[1, 2], [3, 4]], ["ebb", "flood"]]
    assert value_of("{'lamp': 3}") == {"lamp": 3}
    with pytest.raises(StudyError, match="neither a file nor a value"):
        value_of("lamp(3)")


def test_plain_code_makes_a_study(tmp_path: Path) -> None:
    setup = tmp_path / "lamps.py"
    setup.write_text("FAR = 9\ndef lit(n, rng): return list(range(n))\n")
    assert set(Setup.of(str(setup)).makers) == {"lit"}
    with study_of(Plain(expressions=["len(lit) < FAR", "lit[-1] < FAR - 1"], setup=setup)) as study:
        assert study.families[0].instance(4, 1) == {"lit": [0, 1, 2, 3]}
        assert [each.code({"lit": [0, 1, 2]}) for each in study.contenders] == [True, True]
    with study_of(Plain("statistics", ["mean", "fmean"], given="[1, 2, 6]")) as study:
        assert (study.sizes, study.families[0].instance(3, 1), study.contenders[0].code([1, 2, 6])) == (
            (3,),
            [1, 2, 6],
            3,
        )
    with (
        pytest.raises(StudyError, match="the module statistics has no function 'mien'"),
        study_of(Plain("statistics", ["mien"])),
    ):
        pass


class Berths:
    """A list of ships."""

    def build(self, ships: list[int]) -> None:
        self.ships = list(ships)

    def dock(self, ship: int) -> int:
        self.ships.append(ship)
        return len(self.ships)

    def seek(self, ship: int) -> bool:
        return ship in self.ships

    def many(self) -> int:
        return len(self.ships)


def berths(n: int, rng: random.Random) -> dict[str, list[int]]:
    return {"holds": [*range(n)], "dock": [*range(40)], "seek": [1, 2, 3, n]}


def test_operations_leave_objects_as_large_as_they_should_be() -> None:
    study = Study("berths", sizes="20")
    study.family(berths)
    study.contender(Berths, operations=["dock", "seek", "many"])
    study.mix("mostly seeking", seek=3, dock=1)
    study.check()
    contender, made = study.contenders[0], berths(20, random.Random(1))
    assert contender.stages == ("build", "dock", "seek", "many", "mostly seeking")
    assert answers(contender, made)["dock"] == [*range(21, 61)] and answers(contender, made)["many"] == [20]
    objects, instances = Objects(contender, 20.0), [made, made]
    objects.hold(instances)
    for name, is_changing in (("dock", True), ("seek", False), ("many", False), ("mostly seeking", True)):
        assert objects.changes(name, instances) is is_changing
        pairs = objects.pairs(name, 50, 0, instances)
        given = [call(argument) for call, argument in pairs]
        assert len(pairs) == 50
        if name == "dock":
            assert max(given) <= 22  # a tenth of twenty, and never more
    assert {len(each.ships) for each in objects.kept} == {20}
    assert pattern({"seek": 3, "dock": 1}).count("seek") == 3
    turns = turns_of(contender, "mostly seeking", made)
    assert {argument for name, argument in turns if name == "dock"} == {*range(40)}


def test_a_mix_is_priced_from_its_operations() -> None:
    builder = LogbookBuilder(Path("mix.jsonl"))
    opening = StudyRecord(name="bells", sizes=[8, 64], budget=9.0, metrics=["time"], mixes={"both": {"a": 3, "b": 1}})
    costs = {"build": 900, "a": 100, "b": 500, "both": 210}
    builder.add([Header(), opening, ContenderRecord(name="ship", stages=[*costs]), FamilyRecord(name="bay")])
    builder.add(
        [
            Trial("ship", "bay", n, heat, 1 + heat // 2, calls=100, elapsed=100 * cost, stage=stage)
            for n in (8, 64)
            for heat in range(1, 9)
            for stage, cost in costs.items()
        ]
    )
    found = Analysis(builder.logbook()).findings()
    assert [(each.size, round(each.priced.value * 1e9), round(each.off, 3)) for each in found.mixes] == [
        (8, 200, 0.05),
        (64, 200, 0.05),
    ]
    assert "+5 %" in str(found)


@pytest.mark.parametrize(
    ("more", "told"),
    [
        ({"operations": ["dock", "sink"]}, "has no method sink: it needs build, dock, sink"),
        ({"operations": ["dock"], "mixed": {"seek": 1, "dock": 1}}, "mix 'both' names seek, which Berths has not"),
        ({"operations": [], "mixed": {"seek": 1, "dock": 1}}, "has no method use"),
    ],
)
def test_operations_that_are_not_there_are_named(more: dict[str, Any], told: str) -> None:
    study = Study("berths")
    study.family(berths)
    with pytest.raises(StudyError, match=told):
        study.contender(Berths, operations=more["operations"])
        study.mix("both", **more["mixed"])
        study.check()


def test_the_best_value_of_a_level_and_of_an_axis_is_told_with_those_alike() -> None:
    costs = {1: 900, 4: 200, 16: 203, 64: 420}
    for axis in ("size", "part"):
        builder = LogbookBuilder(Path("best.jsonl"))
        opening = StudyRecord(name="bells", sizes=[8, 64], axis=axis, budget=9.0, metrics=["time"])
        names = {f"ring[part={part}]": part for part in costs} if axis == "size" else {"ring": None}
        records = [
            ContenderRecord(name=name, base="ring" if part else "", levels={"part": str(part)} if part else {})
            for name, part in names.items()
        ]
        builder.add([Header(), opening, *records, FamilyRecord(name="bay")])
        places = [(name, n, costs[part] * n) for name, part in names.items() if part for n in (8, 64)]
        places += [("ring", part, cost) for part, cost in costs.items()] if axis == "part" else []
        rng = random.Random(4)
        builder.add(
            [
                Trial(
                    name, "bay", at, heat, 1 + heat // 2, calls=100, elapsed=round(100 * cost * rng.uniform(0.99, 1.01))
                )
                for heat in range(1, 9)
                for name, at, cost in places
            ]
        )
        (found,) = Analysis(builder.logbook()).findings().best_values
        assert [str(value) for value in found.alike] == ["4", "16"] and str(found.dearest) == "1"
        assert found.contender == "ring" and found.times == pytest.approx(4.5, rel=0.05) and not found.is_flat
        assert "costs least" in str(Analysis(builder.logbook()).findings())
