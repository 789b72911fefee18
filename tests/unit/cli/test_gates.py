"""Gates: what fails where it should work stops them; counts are contrasted exactly; a change is said in one way."""

from __future__ import annotations

from pathlib import Path
from xml.etree import ElementTree

import pytest

from logarithm.api import subject as _  # noqa: F401 - so that results can show themselves
from logarithm.cli.gates import shares_of
from logarithm.errors import LogarithmError, TableError
from logarithm.logbook.exchange.importing import imported
from logarithm.logbook.memory import Logbook, LogbookBuilder
from logarithm.logbook.records import ClaimRecord, ContenderRecord, Failure, FamilyRecord, Header, StudyRecord, Trial
from logarithm.report.text.junit import write_changes, write_junit
from logarithm.results.tasks.gates import breaches, limit_of
from logarithm.results.tasks.verdicts import verdicts_of
from logarithm.statistics.analysis import Analysis
from logarithm.statistics.logbooks.contrast import contrast
from logarithm.study.files.fingerprints import fingerprint_of
from logarithm.study.files.loading import load
from logarithm.study.options import Options

SIZES = (8, 16, 32, 64, 128, 256)


def counted(path: str, formulas: dict[str, str], failures: list[Failure] = [], **more: object) -> Logbook:  # noqa: B006
    """A logbook of counted steps, each contender's written as a formula of n."""
    builder = LogbookBuilder(Path(path))
    opening = StudyRecord(name="bells", sizes=[*SIZES], budget=9.0, metrics=["steps"])
    options = {"claims": [ClaimRecord("n")], **more}
    records = [ContenderRecord(name=name, **options) for name in (*formulas, *{each.contender for each in failures})]
    trials = [
        Trial(contender=name, family="levels", size=n, heat=1, metric="steps", value=eval(formula, {"n": n}))
        for name, formula in formulas.items()
        for n in SIZES
    ]
    builder.add([Header(), opening, *{each.name: each for each in records}.values(), FamilyRecord(name="levels")])
    builder.add([*trials, *failures])
    return builder.logbook()


def failing(size: int, works: int | None = 64, reason: str = "ValueError") -> Failure:
    return Failure(contender="deep", family="levels", size=size, reason=reason, detail="too deep", works=works)


def test_what_fails_where_it_should_work_stops_a_gate(tmp_path: Path) -> None:
    found = Analysis(counted("a.jsonl", {"add": "7*n", "deep": "7*n"}, [failing(128)])).findings()
    (breach,) = breaches(found)
    assert (breach.contender, breach.size, breach.works) == ("deep", 128, 64)
    verdicts = verdicts_of(found)
    assert verdicts.fails and not any(row.fails for row in verdicts)
    assert "deep on levels works up to 64, then fails with ValueError at n = 128 (too deep)" in str(verdicts)
    write_junit(verdicts, tmp_path / "a.xml")
    suite = ElementTree.parse(tmp_path / "a.xml").getroot()[0]
    assert (suite.get("errors"), suite.get("failures")) == ("1", "0") and suite.find("testcase/error") is not None


@pytest.mark.parametrize(
    ("failure", "more"),
    [
        (failing(128, reason="timeout"), {}),  # it became too slow, that is all
        (failing(128), {"fails_from": 100}),
        (failing(128), {"yardstick": True}),
    ],
)
def test_what_is_expected_to_fail_stops_none(failure: Failure, more: dict[str, object]) -> None:
    assert breaches(Analysis(counted("a.jsonl", {"deep": "7*n"}, [failure], **more)).findings()) == []


def test_where_sizes_grow_by_themselves_a_size_counts_at_which_others_work() -> None:
    logbook = counted("a.jsonl", {"add": "7*n", "deep": "7*n"}, [failing(128), failing(512)], claims=[])
    logbook.study.sizes = None
    assert [each.size for each in breaches(Analysis(logbook).findings())] == [128]


def test_a_size_from_which_on_a_failure_is_expected_is_read() -> None:
    assert [Options.read({"fails_from": text}).fails_from for text in (100, "n > 100", "n >= 100")] == [100, 101, 100]
    with pytest.raises(LogarithmError, match="fails_from='soon' is not a size"):
        Options.read({"fails_from": "soon"})


def test_counts_are_contrasted_without_an_error() -> None:
    change = contrast([counted("a.jsonl", {"add": "21*n+7"}), counted("b.jsonl", {"add": "23*n+7"})])
    (only,) = change.changes
    assert only.verdict == "slower" and all(each.is_clear for each in only.sizes)
    assert only.slower_by(limit_of("steps", shares_of(["steps=0%"]))) is not None
    assert only.slower_by(limit_of("steps", shares_of(["10%", "time=0%"]))) is None
    same = contrast([counted("a.jsonl", {"add": "21*n"}), counted("b.jsonl", {"add": "21*n"})])
    assert same.changes[0].verdict == "no difference seen" and same.changes[0].slower_by(0.0) is None


def test_who_is_gone_or_works_no_more_is_told(tmp_path: Path) -> None:
    before = counted("a.jsonl", {"add": "7*n", "deep": "7*n", "gone": "9*n"})
    after = counted("b.jsonl", {"add": "7*n"}, [failing(128)])
    found = contrast([before, after])
    assert [(each.contender, each.reason) for each in found.broken] == [("deep", "ValueError"), ("gone", "gone")]
    assert "gone is gone" in str(found)
    write_changes(found.changes, found.broken, [], tmp_path / "c.xml")
    assert ElementTree.parse(tmp_path / "c.xml").getroot()[0].get("errors") == "2"


@pytest.mark.parametrize("text", ["10", "0.1", "-5%", "soon%", "steps=5"])
def test_a_share_is_written_in_per_cent(text: str) -> None:
    with pytest.raises(LogarithmError, match="is not a share: write"):
        shares_of([text])


@pytest.mark.parametrize(
    ("rows", "told"),
    [
        ("add,0,1,1", "line 2, column 'size': 0 cannot be"),
        ("add,8,1,1\nadd,8,2,1", "line 3: heat 1 of add at this size stands in line 2 already"),
        ("add,8,-1,1", "line 2, column 'value': -1 cannot be"),
    ],
)
def test_numbers_that_cannot_be_are_told_with_their_line(tmp_path: Path, rows: str, told: str) -> None:
    table = tmp_path / "table.csv"
    table.write_text(f"contender,size,value,heat\n{rows}\n")
    with pytest.raises(TableError, match=told):
        imported(table)


def test_a_first_look_may_stand_in_a_table_twice(tmp_path: Path) -> None:
    table = tmp_path / "table.csv"
    table.write_text("contender,size,value,heat\nadd,8,3,0\nadd,8,2,0\nadd,16,5,0\n")
    trials = [each for each in imported(table) if isinstance(each, Trial)]
    assert [(each.heat, each.elapsed) for each in trials] == [(0, 3e9), (0, 2e9), (0, 5e9)]


def test_a_fingerprint_sees_every_module_of_the_project(tmp_path: Path) -> None:
    for name, text in {
        "pier/__init__.py": "from .deep import inner\n",
        "pier/deep/__init__.py": "",
        "pier/deep/inner.py": "from . import leaf\n\ndef go(x):\n    return leaf.f(x)\n",
        "pier/deep/leaf.py": "def f(x):\n    return 1\n",
    }.items():
        (tmp_path / name).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / name).write_text(text)
    study = tmp_path / "study.py"
    study.write_text(
        "from logarithm import Study\nfrom pier.deep.inner import go\ns = Study('a')\n@s.family\n"
        "def f(n, rng): return n\n@s.contender\ndef c(x):\n    return go(x)\n"
    )
    code = load(study).contenders[0].code
    seen = [fingerprint_of(code)]
    for text in ("def f(x):\n    # a remark\n    return 1\n", "def f(x):\n    return 2\n"):
        (tmp_path / "pier/deep/leaf.py").write_text(text)
        seen.append(fingerprint_of(code))
    assert seen[0] == seen[1] != seen[2]


@pytest.mark.parametrize(
    "ways",
    [
        "from pier_{n} import go",
        "import pier_{n}\ngo = pier_{n}.go",
        "try:\n    from no_such_pier import go\nexcept ImportError:\n    from pier_{n} import go",
        "import sys\nif sys.maxsize:\n    from pier_{n} import go\nelse:\n    go = None",
        "def go(x):\n    import pier_{n} as own\n    return own.go(x)",
        "class Pier:\n    from pier_{n} import go\ngo = Pier.go",
        "from functools import partial\nfrom pier_{n} import far\ngo = partial(far, 1)",
    ],
)
def test_an_edit_is_seen_however_a_module_is_imported(tmp_path: Path, ways: str) -> None:
    number = abs(hash(ways)) % 10**9
    module, study = tmp_path / f"pier_{number}.py", tmp_path / "study.py"
    text = "def go(x):\n    return 1\n\ndef far(a, x):\n    return 1\n"
    module.write_text(text)
    study.write_text(
        f"from logarithm import Study\n{ways.format(n=number)}\ns = Study('a')\n@s.family\ndef f(n, rng): return n\n"
        "@s.contender\ndef c(x):\n    return go(x)\n"
    )
    code = load(study).contenders[0].code
    before = fingerprint_of(code)
    module.write_text(text.replace("return 1", "return 2 + 1"))
    assert fingerprint_of(code) != before
