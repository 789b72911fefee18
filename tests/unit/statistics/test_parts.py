"""Findings of a part of a logbook: every further question is answered from that part alone."""

from __future__ import annotations

from pathlib import Path

import pytest

import golden
import logarithm
from logarithm.errors import LogarithmError


@pytest.fixture(scope="module")
def stored(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("stored")
    for name in ("map", "bay"):
        golden.unpack(name, folder)
    return folder


def test_one_value_of_a_map_answers_as_a_logbook_of_one_size(stored: Path) -> None:
    whole = logarithm.read_logbook(stored / "map.jsonl")
    value = whole.findings().study.second_values[1]
    found = whole.at(k=value).findings()
    ahead = found.forecast(at=8192)
    assert ahead.second is None and all(row.value or row.why for row in ahead.rows)
    pairs = found.crossover("heap", "look_again")
    assert pairs.pairs and not pairs.on_map and pairs.names == []
    assert {each.family for each in found.growth_in_depth().curves} == {"gauges"}
    assert found.logbook().slices == {}


def test_a_part_answers_for_its_contenders_alone(stored: Path) -> None:
    whole = logarithm.read_logbook(stored / "bay.jsonl")
    first, *others = [each.name for each in whole.contenders]
    found = whole.part(only=first).findings()
    assert {each.contender for each in found.growth_in_depth().curves} == {first}
    assert {each.contender for each in found.forecast(at=1e4).rows} == {first}
    with pytest.raises(LogarithmError, match=others[0]):
        found.growth_in_depth(only=others[0])


def test_the_growth_in_depth_has_the_weights_of_the_findings(stored: Path) -> None:
    found = logarithm.read_logbook(stored / "bay.jsonl").findings()
    named = {each.key: {row.order: row.weight for row in each.plausible} for each in found.growth if each.order}
    for each in found.growth_in_depth().curves:
        weights = {row.order: round(row.weight, 4) for row in each.candidates if row.weight}
        assert weights == named.get(each.key, weights)


def test_questions_read_no_file_again(stored: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    found = logarithm.read_logbook(stored / "bay.jsonl").findings()
    monkeypatch.setattr(Path, "open", lambda *_, **__: pytest.fail("a file is read again"))
    monkeypatch.setattr(Path, "read_bytes", lambda *_: pytest.fail("a file is read again"))
    assert found.forecast(at=1e4).rows and found.growth_in_depth().curves and found.crossover().pairs
    assert found.logbook().findings().costs == found.costs
