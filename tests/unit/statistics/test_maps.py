"""Maps of two sizes: laws, boundaries and leads on known truths; what a study of two sizes takes, and refuses."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from logarithm import Study
from logarithm.errors import LogbookError, StudyError
from logarithm.logbook.memory import Logbook, LogbookBuilder
from logarithm.logbook.records import ClaimRecord, ContenderRecord, FamilyRecord, Header, StudyRecord, Trial
from logarithm.notation.laws import Term, leading, parse
from logarithm.notation.orders import Order
from logarithm.results.findings import Findings
from logarithm.run.plan.settings import Settings
from logarithm.run.plan.track import expected_of, seconds_of, tracks
from logarithm.statistics.analysis import Analysis
from logarithm.statistics.maps.laws import is_beyond, law_of
from profiles import some

NAMES = ("n", "k")
FIRST, SECOND = [64, 256, 1024, 4096, 16384], [1, 4, 16, 64, 256]
GRID = np.array([(n, k) for k in SECOND for n in FIRST if k <= n], dtype=float)


def made(
    costs: dict[str, str], claims: dict[str, str] | None = None, noise: float = 0.01, is_size: bool = True
) -> Logbook:
    """A logbook of contenders whose cost is written as a formula of n and k."""
    rng = np.random.default_rng(3)
    builder = LogbookBuilder(Path("made.jsonl"))
    opening = StudyRecord(name="made", names=[*NAMES], seconds=[*SECOND], budget=60.0, is_second_size=is_size)
    contenders = [
        ContenderRecord(name=n, claims=[ClaimRecord(claims[n])] if claims and n in claims else []) for n in costs
    ]
    builder.add([Header(), opening, *contenders, FamilyRecord(name="gauges")])
    trials = []
    for heat in range(1, 13):
        for n, k in GRID:
            for name, formula in costs.items():
                cost = eval(formula, {"n": n, "k": k, "log": math.log2, "sqrt": math.sqrt})  # the test's own text
                value = 1e-8 * cost * math.exp(rng.normal(0, noise))
                place = {"size": int(n), "second": int(k), "heat": heat, "process": 1 + heat // 3}
                trials.append(Trial(contender=name, family="gauges", elapsed=1e9 * value, **place))
    builder.add(trials)
    return builder.logbook()


@pytest.fixture(scope="module")
def found() -> Findings:
    costs = {"heap": "n + 2 * k * log(n)", "sort": "n * log(n) / 2"}
    return Analysis(made(costs, {"heap": "n + k log n", "sort": "n"})).findings()


def test_laws_are_named_boundaries_placed_and_claims_judged(found: Findings) -> None:
    orders = {each.contender: each.order for each in found.growth}
    assert orders["sort"] == "n log n" and orders["heap"] in ("n + k log n", "n + k")
    assert {each.contender: each.verdict for each in found.claims}["sort"] in ("contradicted", "undecided")
    (edge,) = found.boundaries
    assert (edge.before, edge.after, edge.along, edge.matters) == ("heap", "sort", "k", True)
    for row in edge.curve:
        truth = (row["n"] * math.log2(row["n"]) / 2 - row["n"]) / (2 * math.log2(row["n"]))
        assert row["k"] == pytest.approx(truth, rel=0.15) and row["low"] <= row["k"] <= row["high"]
    assert edge.law is not None and edge.law.startswith("k = n / ") and not found.withheld
    leads = {(each.first, each.second): (each.leader, each.verdict) for each in found.leads}
    assert leads[16384, 1] == ("heap", "leads") and leads[256, 256] == ("sort", "leads")
    (drawn,) = found.maps
    assert len(drawn.leader) == len(drawn.first) and drawn.leader[0][-1] == -1  # k is never more than n


def test_twins_have_no_boundary_and_no_leader() -> None:
    same = Analysis(made({"heap": "n + k", "other": "n + k"})).findings()
    assert not same.boundaries and not any(each.verdict == "leads" for each in same.leads)


def test_a_second_number_that_is_no_size_has_leads_without_laws() -> None:
    varied = Analysis(made({"heap": "n * (1 + k)", "sort": "20 * n"}, is_size=False)).findings()
    assert not varied.growth and varied.boundaries[0].law == "k = 19, whatever n"


def test_a_slice_is_a_study_of_one_size(found: Findings) -> None:
    logbook = made({"heap": "n + 2 * k * log(n)", "sort": "n * log(n) / 2"}, {"heap": "n + k log n"})
    part = Analysis(logbook.at_second(64)).findings()
    assert part.study.families == ["gauges"] and not part.maps and part.crossovers[0].after == "heap"
    assert [each.claim for each in part.claims] == ["n"]
    with pytest.raises(LogbookError, match="was not measured at k = 63: there are k = 1, 4, 16, 64, 256"):
        logbook.at_second(63)
    with pytest.raises(LogbookError, match="has one size only"):
        logbook.at_second(64).at_second(64)
    ahead = Analysis(logbook).forecast({"": 32768, "k": 64})
    heap = next(row for row in ahead.rows if row.contender == "heap")
    truth = 1e-8 * (32768 + 2 * 64 * 15)
    assert heap.low is not None and heap.high is not None and heap.low < truth < heap.high < 1.6 * truth
    within = Analysis(logbook).forecast({"k": 64}, 1e-4).rows[0]
    assert within.value == pytest.approx(1e4 - 2 * 64 * math.log2(8400), rel=0.1)


@pytest.mark.parametrize(
    "law",
    some(
        [
            "n k",
            "n + k",
            "min(n, k)",
            "k log(n/k)",
            "k log n",
            "n^2 + k",
            "n^2 k",
            "n log k",
            "n",
            "k^2",
            "n log n + k log n",
        ]
    ),
)
def test_the_law_of_exact_work_is_named(law: str) -> None:
    terms = parse(law, NAMES).terms
    n, k = np.meshgrid([8, 16, 48, 96, 256], [8, 24, 64, 200, 600])
    places = n.ravel().astype(float), k.ravel().astype(float)
    work = np.array(
        [9 + sum(7 * math.exp(term.log_value(*place)) for term in terms) for place in zip(*places, strict=True)]
    )
    found = law_of(*places, work)
    assert found is not None and found.law.spelled(NAMES) == parse(law, NAMES).spelled(NAMES)
    assert not is_beyond(parse(law, NAMES), *places, work)
    assert is_beyond(parse("log n", NAMES), *places, work)


ORDERS = st.sampled_from([Order(power, logs) for power in (0.0, 0.5, 1.0, 2.0) for logs in (0.0, 1.0)])
TERMS = st.lists(st.builds(Term, ORDERS, ORDERS), min_size=1, max_size=4)


@given(TERMS, st.booleans())
def test_a_law_is_read_as_it_is_written_and_bounds_its_terms(terms: list[Term], is_below: bool) -> None:
    law = leading(terms, is_below)
    assert set(parse(law.spelled(NAMES), NAMES).terms) <= {*law.terms, *leading(law.terms).terms}
    assert all(any(term.is_within(bound, is_below) for bound in law.terms) for term in terms)


def study(**words: object) -> Study:
    made_of = Study("gauges", **{"sizes": {"n": "64..1024 *4", "k": "1..256 *4"}, **words})  # type: ignore[arg-type]

    @made_of.family
    def gauges(n: int, k: int, rng: object) -> object:
        return n, k

    @made_of.contender(claim="n k")
    def heap(asked: object) -> object:
        return asked

    return made_of


def test_only_points_that_make_sense_are_planned_a_coarse_grid_first() -> None:
    asked = study()
    asked.where(lambda n, k: k <= n)
    asked.check()
    planned = {track.family.name: track.planned for track in tracks(asked, Settings(budget=60))}
    assert planned["gauges[k=256]"] == (256, 1024) and planned["gauges[k=1]"] == (64, 256, 1024)
    wide = study(sizes={"n": "64..65536 *2", "k": "1..4096 *2"})
    assert seconds_of(wide, Settings(budget=1)) == (1, 8, 64, 512, 4096)
    assert asked.the_family("gauges[k=16]").instance(8, 1) == (8, 16)
    first, second = tracks(asked, Settings(budget=60))[:2]
    assert expected_of([first, second], second) == 0.0


def test_a_family_of_one_size_stands_beside_the_second() -> None:
    asked = study()

    @asked.family
    def levels(n: int, rng: object) -> int:
        return n

    assert asked.the_family("levels[k=4]").instance(8, 1) == (8, 4)


@pytest.mark.parametrize(
    ("words", "where", "told"),
    [
        ({"sizes": {"n": "8", "k": "8", "m": "8"}}, None, "a study has two sizes at most.* levels"),
        ({"sizes": {"n": "8..64", "k": ""}}, None, "is not a list of sizes"),
        ({"sizes": {"n": "8..64", "k": "8.."}}, None, "k has no end"),
        ({}, lambda n, k: False, "where leaves no point of n and k"),
        ({}, lambda n, k: n / 0, "where raises at n = 64, k = 1: ZeroDivisionError"),
        ({"sizes": "8..64"}, lambda n, k: True, "where is for two sizes|not an order"),
    ],
)
def test_what_a_study_of_two_sizes_cannot_be_is_told(words: dict[str, object], where: object, told: str) -> None:
    with pytest.raises(StudyError, match=told):
        asked = study(**words)
        if where is not None:
            asked.where(where)  # type: ignore[type-var]
        asked.check()


def test_a_claim_names_sizes_that_there_are() -> None:
    asked = study()
    for claim, told in (
        ("n + m", "names m, which is not a size of this study: there are n and k"),
        ("n k^", "is not a law"),
    ):
        with pytest.raises(StudyError, match=told):
            asked.contender(lambda x: x, name=claim, claim=claim)
