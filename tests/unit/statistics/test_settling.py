"""What is settled while a run goes on, and where more trials would tell, on made-up logbooks."""

from __future__ import annotations

from pathlib import Path

import pytest
from made_up import Laws, written

from logarithm.report.text.live import View, render
from logarithm.results.questions import (
    BEYOND,
    CROSSOVER,
    LEAD,
    OPEN,
    ORDER,
    SETTLED,
    TIE,
    Look,
    Question,
    Remaining,
)
from logarithm.statistics.stopping.rule import StoppingRule

LOW_HIGH: Laws = {("low", "bay", None): lambda n: 10 * n * n, ("high", "bay", None): lambda n: 900 * n}  # cross at 90


def seen(path: Path, laws: Laws, noise: float, left: float = 10.0, reach: float = 0.0) -> Look:
    """A look at made-up trials with so much noise, `left` seconds before the end."""
    path.mkdir(exist_ok=True)
    book = written(path / f"{len(list(path.iterdir()))}.jsonl", laws, noise=noise)
    costs = {(who, family, float(size)): 0.01 for who, family, _ in laws for size in book.trials.size}
    reaches = {(who, family): reach for who, family, _ in laws if reach}
    return StoppingRule()(book, Remaining(left, 0.3, costs, reaches))


def of(look: Look, kind: str) -> list[Question]:
    return [each for each in look.asked if each.kind == kind]


def test_clear_leads_and_narrow_crossovers_are_settled(tmp_path: Path) -> None:
    look = seen(tmp_path, LOW_HIGH, noise=0.003)
    (crossing,) = of(look, CROSSOVER)
    assert crossing.contenders == ("low", "high")
    assert crossing.start < 90 < crossing.end
    assert {each.state for each in (*of(look, LEAD), crossing)} == {SETTLED}
    assert [each.orders for each in of(look, ORDER)] == [("n^2",), ("n",)]
    assert look.over
    assert not look.points


def test_an_open_crossover_asks_for_sizes_around_it_of_both_contenders(tmp_path: Path) -> None:
    look = seen(tmp_path, LOW_HIGH, noise=0.2, left=300.0)
    (crossing,) = of(look, CROSSOVER)
    assert crossing.state == OPEN
    assert set(look.between) == {("low", "bay"), ("high", "bay")}
    assert look.between["low", "bay"] == look.between["high", "bay"]
    assert {name for name, _, _ in look.points} == {"low", "high"}
    assert all(crossing.start / 4 < size < crossing.end * 4 for _, _, size in look.points)
    assert not look.over


def test_a_question_that_the_time_will_not_settle_is_not_dismissed(tmp_path: Path) -> None:
    look = seen(tmp_path, LOW_HIGH, noise=0.2, left=0.1)
    assert of(look, CROSSOVER)[0].state == BEYOND
    assert not look.over and look.points
    assert any("where high overtakes low on bay" in str(each) for each in look.unsettled)


def test_twins_are_a_tie_that_no_budget_turns_into_a_lead(tmp_path: Path) -> None:
    twins: Laws = {("one", "bay", None): lambda n: 50 * n, ("other", "bay", None): lambda n: 50 * n}
    look = seen(tmp_path, twins, noise=0.02, left=0.1)
    assert not of(look, LEAD)
    (tie,) = of(look, TIE)
    assert tie.within < 0.2
    assert look.over


def test_a_larger_size_is_asked_for_only_within_reach(tmp_path: Path) -> None:
    near: Laws = {("deep", "bay", None): lambda n: 900 * n + 30 * n * max(n, 2) ** 0.15}
    looks = [seen(tmp_path / str(reach), near, noise=0.05, reach=reach) for reach in (0.0, 1e9)]
    for look in looks:
        (order,) = of(look, ORDER)
        assert len(order.orders) > 1 or order.state == SETTLED
    assert not looks[0].larger
    assert all(size > 1000 for size in looks[1].larger.values())


def test_what_a_run_is_measuring_now_is_said_in_words(tmp_path: Path) -> None:
    look = seen(tmp_path, LOW_HIGH, noise=0.2, left=300.0)
    assert look.purpose.startswith("where high overtakes low on bay (")
    assert Look().purpose == "every size"


@pytest.mark.parametrize("width", [60, 120])
def test_the_view_of_a_run_fits_any_terminal(tmp_path: Path, width: int) -> None:
    from rich.console import Console

    view = View("harbour", 3.0, 20.0, seen(tmp_path, LOW_HIGH, 0.2, 300.0).purpose)
    view.look = seen(tmp_path, LOW_HIGH, noise=0.02)
    console = Console(width=width, record=True, force_terminal=False)
    with console.capture() as shown:
        console.print(render(view, width, 24))
    lines = shown.get().splitlines()
    assert max(map(len, lines)) <= width
    assert any("3 s of at most 20 s" in line for line in lines)
    assert any("high over low" in line for line in lines)
    assert len(lines) < 24
