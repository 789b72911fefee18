"""Everything that the program says about the stored logbooks is as it is stored."""

from __future__ import annotations

import pytest

import golden


@pytest.mark.parametrize("name", golden.names())
def test_everything_said_is_as_stored(name: str) -> None:
    found = golden.differences(name, drawn=name in golden.DRAWN)
    assert not found, "\n\n".join([*found, f"if that is meant: python tests/golden/golden.py write {name}"])


def test_a_changed_sentence_is_shown_as_a_difference() -> None:
    before = {"report.txt": "sweep leads at every size\nnext: measure\n"}
    shown = golden.difference("bay: report.txt", before["report.txt"], "sweep is ahead at every size\nnext: measure\n")
    assert shown.splitlines()[:1] == ["--- bay: report.txt"]
    assert "-sweep leads at every size\n+sweep is ahead at every size" in shown


def test_rounding_of_another_processor_is_no_difference() -> None:
    assert golden.is_rounding('"value": 1.9971908831522023, -0.0 %', '"value": 1.9971908831522018, +0.0 %')
    assert golden.is_rounding("url(#p47bb69993e) 3", "url(#pfc9103bef7) 3")
    assert not golden.is_rounding("n = 67 (50 to 91)", "n = 68 (50 to 91)")
    assert not golden.is_rounding("sweep leads", "grid leads")
