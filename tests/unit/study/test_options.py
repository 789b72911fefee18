"""What is said of a run, and what a study's text says: read, checked, refused in one line."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from logarithm import Study
from logarithm.api.options import check_options, named_sizes, second_of, settings_of, sizes_of
from logarithm.errors import LogarithmError, StudyError
from logarithm.study.tally_names import check_metrics, tally_names


def gauges(**words: Any) -> Study:
    study = Study("gauges", **{"sizes": "8..64 *2", **words})
    study.family(lambda n, rng: [n], name="ebb")
    study.family(lambda n, rng: [n], name="flood")
    study.contender(max, name="sweep")
    study.contender(min, name="grid")
    return study


def test_what_is_said_comes_before_what_the_study_says() -> None:
    study = gauges()
    study.run_options = {"budget": "90s", "ceiling": "3s", "only": "grid"}
    as_it_says = settings_of(study, None, {})
    assert (as_it_says.budget, as_it_says.ceiling, as_it_says.contenders) == (90.0, 3.0, ("grid",))
    said = settings_of(study, "2m", {"only": ["sweep", "grid", "sweep"], "family": "ebb", "sizes": "8, 16", "seed": 7})
    assert (said.budget, said.ceiling, said.contenders, said.families) == (120.0, 3.0, ("sweep", "grid"), ("ebb",))
    assert (said.sizes, said.seed, said.same, said.whole) == ((8, 16), 7, False, False)
    more = settings_of(study, "1s", {"inputs": "same", "memory": "2GiB", "wait": "5m", "whole_budget": True})
    assert (more.same, more.memory, more.wait, more.whole) == (True, 2 * 2**30, 300.0, True)
    assert settings_of(gauges(), None, {}).sizes is None


@pytest.mark.parametrize(
    ("options", "told"),
    [
        ({"speed": 3}, "a run has no option 'speed'"),
        ({"inputs": "new"}, "inputs='new': there are fresh and same"),
        ({"only": "tree"}, "no contender 'tree'"),
        ({"family": "storm"}, "no family 'storm'"),
        ({"sizes": "k=8..64"}, "the study has no size 'k'"),
        ({"sizes": "64..8"}, "falls"),
        ({"memory": "much"}, "much"),
        ({"ceiling": "soon"}, "soon"),
        ({"workload": "none.csv"}, "none.csv"),
    ],
)
def test_what_cannot_be_said_is_told(options: dict[str, Any], told: str) -> None:
    with pytest.raises(LogarithmError, match=told) as found:
        settings_of(gauges(), None, options)
    assert "\n" not in str(found.value)


def test_sizes_are_named_and_places_are_values_of_the_second_size() -> None:
    two = gauges(sizes={"n": "64..1024 *4", "k": "1..16 *4"})
    assert sizes_of(two, ["n=64", "k=1..4 *2"]) == ((64,), (1, 2, 4))
    assert sizes_of(two, {"k": [1, 4]}) == (None, (1, 4))
    assert named_sizes([8, 16]) == {"": [8, 16]} and named_sizes(None) == {}
    assert second_of(two, "k=4") == 4 and second_of(two, None, usual=16) == 16 and second_of(gauges(), None) is None
    for study, at, told in (
        (two, None, r"say at which k, such as --at k=1"),
        (two, "n=4", "--at n=4 is no value of k"),
        (gauges(), "k=4", "has one size only: leave --at k=4 out"),
    ):
        with pytest.raises(StudyError, match=told):
            second_of(study, at)
    check_options({"sizes": 1, "seed": 2})


def test_names_that_are_tallied_are_read_from_the_text(tmp_path: Path) -> None:
    (tmp_path / "beside.py").write_text("from logarithm import tally as count\ncount('looks', 2)\n")
    text = "import beside\nfrom logarithm import tally\nimport logarithm\ntally('blasts')\nlogarithm.tally('waves')\n"
    (tmp_path / "study.py").write_text(text)
    assert tally_names(tmp_path / "study.py") == (["blasts", "waves", "looks"], True)
    (tmp_path / "study.py").write_text(text + "tally(name)\n")
    assert tally_names(tmp_path / "study.py") == (["blasts", "waves", "looks"], False)
    (tmp_path / "beside.py").write_text("def (:")
    assert tally_names(tmp_path / "study.py")[1] is False
    assert tally_names(tmp_path / "none.py") == ([], False)


def test_a_misspelt_metric_is_refused_with_the_name_that_was_meant(tmp_path: Path) -> None:
    study = gauges()
    study.file = tmp_path / "study.py"
    study.file.write_text("from logarithm import tally\ntally('blasts')\n")
    check_metrics(study, ["blasts", "time", "steps"])
    with pytest.raises(StudyError, match=r"nothing counts 'blast': .*blasts"):
        check_metrics(study, ["blast"])
    study.file.write_text("from logarithm import tally\ntally(made_up())\n")
    check_metrics(study, ["blast"])  # what is computed may be it
