"""Every result shows itself in every form, has its tables even when empty, and comes back out of a logbook alone."""

from __future__ import annotations

import json
from pathlib import Path

import msgspec
import pytest
from made_up import SIZES, STUDY_OF_TWO, two_contenders, written

import logarithm
from logarithm.api.assessment.assess import class_of
from logarithm.api.searches.worst import search_of
from logarithm.counting.walk.event import Event
from logarithm.errors import LogarithmError
from logarithm.logbook.records import (
    Assessed,
    ContenderRecord,
    FamilyRecord,
    Instance,
    Machine,
    Note,
    Searched,
    StudyRecord,
    Trial,
)
from logarithm.report.result_documents import DOCUMENTS
from logarithm.results.base import Drawn, Interval, Part, Result, frame_of
from logarithm.results.tasks.grades import Class, SelfCheck
from logarithm.results.tasks.history import CostAt, History, Skipped, Step
from logarithm.results.tasks.machine import Conditions, LengthBias, RepeatedBias
from logarithm.results.tasks.rehearsal import Disagreement, Estimate, Rehearsal, Trap
from logarithm.results.tasks.walk import Walk
from logarithm.results.tasks.worst import Search


def every_result(folder: Path) -> list[Result]:
    one, two = two_contenders(folder), two_contenders(folder, "later.jsonl", seed=2)
    book = logarithm.read_logbook(one)
    found = book.findings()
    bias = RepeatedBias(lengths=[LengthBias(length=64, ratio=1.4)])
    walk = Walk(
        contender="near",
        family="bay",
        size=2,
        events=[Event("read", "read levels[0]", 2, "near", 0, 1, {"levels": [0]}, {}, {"reads": 1})],
        answer="3",
        failure="",
        source=["def near(levels):", "    return levels[0]"],
        first=1,
        cut=False,
    )
    machine = Conditions(
        machine=Machine(processor="made up"),
        turn=1e-8,
        empty=3e-8,
        smallest=2e-9,
        quickest=1e-3,
        typical=1.1e-3,
        slowest=1.4e-3,
        others=0.2,
        pressure=0.3,
        processor=None,
        bias=bias,
    )
    rehearsal = Rehearsal(
        study="tide",
        disagreements=[
            Disagreement(contender="near", against="far", family="bay", size=8, seed=1, answer="3", expected="4")
        ],
        compared=8,
        largest=64,
        is_judged=False,
        failures=[],
        axis="size",
        budget=60.0,
        heat=1e-3,
        heats=30,
        settled=9.0,
        traps=[Trap(contender="near", kind="input", text="changes its input")],
        estimates=[Estimate(contender="near", family="bay", reach=512, call=1e-4, heat=2e-4, stops="budget")],
        missing={"buoy": "no compiler"},
        bias=bias,
    )
    seen = a_class(folder)
    own = SelfCheck(seen.study, seen.question, "", seen.rows[:1], ["Not looked at here: time."])
    return [
        own,
        *(found, found.verify(), found.forecast(at=4096.0), found.crossover("near", "far"), found.growth_in_depth()),
        *(found.lines_in_depth(), logarithm.contrast(one, two, anyway=True), logarithm.across(one, two)),
        *(logarithm.contrast(one, two, one, anyway=True), seen, a_search(folder)),
        *(walk, machine, rehearsal, a_history()),
    ]


def a_history() -> History:
    first, second = "1" * 40, "2" * 40
    where = {"contender": "near", "family": "bay", "stage": None, "metric": "time"}
    step = Step(
        **where,
        commit=second,
        date="2026-01-02",
        subject="Look twice",
        verdict="slower",
        factor=2.4,
        low=2.2,
        high=2.6,
        size=512,
        order_before="n",
        order_now="n^2",
        worst=2.2,
    )
    costs = [
        CostAt(**where, commit=commit, subject="made up", size=512, typical=cost, low=cost, high=1.1 * cost)
        for commit, cost in ((first, 1e-3), (second, 2.4e-3))
    ]
    skipped = [Skipped("3" * 40, "2026-01-03", "Break", "it stops with ValueError")]
    return History("tide", "v1..HEAD", 4, 1, 2, [step], skipped, costs, True, ["made.jsonl"], 9.0)


def a_class(folder: Path) -> Class:
    more = (
        StudyRecord(name="class", question="How high is it?"),
        ContenderRecord(name="reference", baseline=True),
        *(ContenderRecord(name=who, require="n", handed_in=True, doc=f"{who}.py") for who in ("anna", "ben", "cem")),
        *(
            Trial(contender=who, family="bay", size=n, heat=1, metric="steps", value=float(steps(n)))
            for who, steps in (("reference", lambda n: 5 * n), ("anna", lambda n: 7 * n), ("ben", lambda n: n * n))
            for n in SIZES
        ),
        Note(topic="incorrect", text="answers 3 where 4 is right", contender="cem"),
        *(Assessed(contender=who) for who in ("anna", "ben", "cem")),
    )
    return class_of(written(folder / "class.jsonl", {}, more=more))


def a_search(folder: Path) -> Search:
    case = Searched(contender="near", family="bay", metric="work", size=512, tries=90, typical=1536.0, most=262144.0)
    kept = Instance(contender="near", family="bay", metric="work", size=8, sort="worst", count=64.0, instance=[1, 2])
    more = (
        *STUDY_OF_TWO[:3],
        FamilyRecord(name="typical", role="typical", of="bay"),
        FamilyRecord(name="worst", role="worst", of="bay"),
        *(
            Trial(contender="near", family=family, size=n, heat=1, metric="work", value=float(cost(n)))
            for family, cost in (("typical", lambda n: 3 * n), ("worst", lambda n: n * n))
            for n in SIZES
        ),
        *(case, kept),
    )
    found = search_of(written(folder / "worst.jsonl", {}, more=more))
    assert (found.cases, found.instances) == ([case], [kept])
    return found


@pytest.fixture(scope="module")
def results(tmp_path_factory: pytest.TempPathFactory) -> list[Result]:
    return every_result(tmp_path_factory.mktemp("results"))


def test_every_kind_of_result_is_tried_here(results) -> None:
    assert {kind for each in results for kind in type(each).__mro__ if kind in DOCUMENTS} == set(DOCUMENTS)


def test_every_result_is_text_markdown_a_page_and_json(results) -> None:
    for each in results:
        text, markdown, page, data = (each.render(form) for form in ("text", "markdown", "html", "json"))
        for form in (text, markdown, page):
            assert "near" in form or "far" in form or "anna" in form or "made up" in form or "overtak" in form, type(
                each
            )
        assert max(map(len, text.splitlines())) <= 200
        assert "\x1b" not in text + markdown
        assert page.startswith("<!DOCTYPE html>") and page.rstrip().endswith("</html>")
        assert "|" in markdown or "#" in markdown
        assert isinstance(json.loads(data), dict)
        assert str(each) == text
        assert len(repr(each)) < 200 and "\n" not in repr(each)
        assert "<" in each._repr_html_()


def test_every_table_of_every_result_has_its_columns_even_when_empty(results) -> None:
    for each in results:
        for part, kind in each._frames.items():
            full, empty = each.to_frame(part), frame_of(kind, [])
            assert len(full.columns) >= 1
            assert len(empty) == 0
            if not isinstance(each, Class) and part != "costs":
                assert list(empty.columns) == list(full.columns), (type(each), part)
            for column in full:
                assert not any(isinstance(value, list | dict | Part) for value in full[column]), (
                    type(each),
                    part,
                    column,
                )
        with pytest.raises(LogarithmError, match="has no part 'anchors'"):
            each.to_frame("anchors")


def test_an_interval_is_three_columns() -> None:
    class Depth(Part):
        at: str
        metres: Interval | None

    frame = frame_of(
        Depth, [Depth(at="pier", metres=Interval(value=4.0, low=3.5, high=4.5)), Depth(at="sea", metres=None)]
    )
    assert list(frame.columns) == ["at", "metres", "metres_low", "metres_high"]
    assert frame["metres_high"].tolist()[0] == 4.5
    assert frame["metres"].isna().tolist() == [False, True]


def test_a_class_is_remade_from_its_logbook(tmp_path: Path) -> None:
    frame = a_class(tmp_path).to_frame()
    assert frame["submission"].tolist() == ["anna", "ben", "cem"]
    assert frame["verdict"].tolist() == ["correct", "correct", "incorrect"]
    assert frame["bay"].tolist() == ["n", "n^2", ""]
    assert frame["required order"].tolist() == ["meets", "exceeds", ""]
    assert frame["marks"].isna().all()


def test_a_search_is_remade_from_its_logbook(tmp_path: Path) -> None:
    found = a_search(tmp_path)
    (case,) = found.cases
    assert [found.growth(case, role).order for role in ("typical", "worst")] == ["n", "n^2"]  # type: ignore[union-attr]
    kept = json.loads(found.keep(tmp_path / "worst.json").read_text())
    assert [(row["size"], row["kind"], row["instance"]) for row in kept["instances"]] == [(8, "worst", [1, 2])]


def test_what_has_a_figure_draws_it(results) -> None:
    for each in results:
        if isinstance(each, Drawn) and not isinstance(each, logarithm.Search):
            assert each.plot().axes, type(each)


def test_results_go_through_json_and_back(results) -> None:
    for each in results:
        if type(each).__name__ in ("Forecast", "Verdicts", "Contrast", "Conditions", "Rehearsal", "Lines"):
            assert msgspec.json.decode(each.json(), type=type(each)) == each
