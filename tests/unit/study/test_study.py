from __future__ import annotations

import math
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from logarithm.errors import StudyError
from logarithm.notation.durations import seconds
from logarithm.notation.orders import parse
from logarithm.notation.sizes import parse as sizes_of


@pytest.mark.parametrize(
    ("text", "sizes"),
    [
        ("8..64 *2", (8, 16, 32, 64)),
        ("8..", (8, math.inf)),
        ("100..350 +100", (100, 200, 300)),
        ("10, 100, 1000", (10, 100, 1000)),
        ("0..0.3 +0.1", (0, 0.1, 0.2, 0.3)),
        ("1e3", (1000,)),
        ([4, 5], (4, 5)),
    ],
)
def test_ladders(text: str, sizes: tuple[float, ...]) -> None:
    assert sizes_of(text) == sizes


@pytest.mark.parametrize(
    "text", ["", "..8", "0..", "9..8", "8..9 *1", "0..8", "3, 2", "a", "1..1e9 +1", "5, 5", [True]]
)
def test_a_bad_ladder_is_told(text: str) -> None:
    with pytest.raises(StudyError):
        sizes_of(text)


@given(st.integers(1, 10**6), st.integers(0, 10**9))
def test_a_ladder_rises_from_end_to_end(low: int, more: int) -> None:
    sizes = sizes_of(f"{low}..{low + more}")
    assert sizes[0] == low
    assert sizes[-1] == low + more
    assert all(earlier < later for earlier, later in pairwise(sizes))


@pytest.mark.parametrize(
    ("text", "spelled"),
    [
        ("O(n²)", "n^2"),
        ("n**2 * log(n)", "n^2 log n"),
        ("N LOG N", "n log n"),
        ("n lg n", "n log n"),
        ("quadratic", "n^2"),
        ("sqrt(n)", "sqrt n"),
        ("2^n", "2^n"),
        ("n!", "n!"),
        ("n^1.58", "n^1.58"),
        ("1", "1"),
    ],
)
def test_orders_are_read_as_people_write_them(text: str, spelled: str) -> None:
    assert str(parse(text)) == spelled
    assert parse(spelled) == parse(text)


def test_what_is_no_order_or_time_is_told() -> None:
    for text in ("fast", "", "n^", "0.5^n", "m"):
        with pytest.raises(StudyError):
            parse(text)
    for text in ("soon", "0s", "-1s", "5 knots"):
        with pytest.raises(StudyError):
            seconds(text)


BROKEN = [
    ("study.contender(add_up)\n", ":27: ", "two contenders are named 'add_up'"),
    ("@study.contender(families=['ebb'])\ndef other(x): return x\n", "study.py: ", "names the family 'ebb'"),
    ("@study.contender(claim='fast')\ndef other(x): return x\n", ":27: ", "is not an order"),
    ("@study.contender(sizes='9..8')\ndef other(x): return x\n", ":27: ", "falls"),
    ("@study.contender(claim={'ebb': 'n'})\ndef other(x): return x\n", "study.py: ", "a claim of contender 'other'"),
    ("@study.contender\nclass Other: pass\n", ":27: ", "has no method build"),
    ("import nowhere_at_all\n", ":27: ", "ModuleNotFoundError"),
    ("def broken(:\n", ":27: ", "cannot read this"),
    ("1 / 0\n", ":27: ", "ZeroDivisionError"),
    ("exit(3)\n", ":27: ", "SystemExit"),
    ("other = Study('second')\n", "study.py: ", "2 studies"),
    ("study.agree(within=2)\n", ":27: ", "not a tolerance"),
]


@pytest.mark.parametrize(("more", "place", "told"), BROKEN)
def test_a_study_that_is_wrong_is_told_in_one_line(harbour, more: str, place: str, told: str) -> None:
    done = harbour.call("measure", harbour.study(more=more))
    assert done.code == 2
    assert place in done.err
    assert told in done.err
    assert len(done.err.splitlines()) == 1
    assert not (harbour.folder / "logbooks").exists()


def test_a_study_without_parts_is_told(harbour) -> None:
    for text, told in (
        ("from logarithm import Study\nstudy = Study('empty')", "no contender"),
        ("x = 1", "no study"),
    ):
        done = harbour.call("measure", harbour.study(text))
        assert (done.code, told in done.err) == (2, True)
    assert "no such file" in harbour.call("measure", "nowhere.py").err


def test_levels_make_variants() -> None:
    from logarithm import Study

    study = Study("cells")

    @study.contender(levels={"cell": [1, 4], "deep": [True]})
    def grid(x, cell, deep):
        return x

    assert [each.name for each in study.contenders] == ["grid[cell=1,deep=True]", "grid[cell=4,deep=True]"]
    assert study.the_contender("grid[cell=4,deep=True]").values == {"cell": 4, "deep": True}
