"""What is listed once is known everywhere: metrics, orders, views, formats of tables, drafts, public names, options."""

from __future__ import annotations

import ast
import importlib.util
import re
from functools import cache
from pathlib import Path
from typing import get_type_hints

import pytest
from made_up import LAWS_OF_TWO, two_contenders, written
from typer.testing import CliRunner

import logarithm
from logarithm.cli.app import app
from logarithm.drafts import OTHERS, draft_of
from logarithm.errors import LogarithmError, StudyError, TableError
from logarithm.logbook.exchange import exporting
from logarithm.logbook.exchange.importing import imported
from logarithm.logbook.records import Trial
from logarithm.notation.metrics import ASKED, METRICS, Metric
from logarithm.notation.orders import parse
from logarithm.report.figure import views
from logarithm.report.view import ON_PAGE, View
from logarithm.statistics.growth.catalogue import CATALOGUE, ORDERS
from logarithm.study.run_options import RunOptions

ROOT = Path(__file__).parents[3]


@cache
def help_of(command: str) -> str:
    shown = CliRunner().invoke(app, [command, "--help"], env={"COLUMNS": "200", "TERM": "dumb"}).output
    return re.sub(r"\x1b\[[0-9;]*m", "", shown)


def page_writer():
    spec = importlib.util.spec_from_file_location("write_api", ROOT / "docs" / "write_api.py")
    module = importlib.util.module_from_spec(spec)  # type: ignore[arg-type]
    spec.loader.exec_module(module)  # type: ignore[union-attr]
    return module


def test_every_view_is_drawn_and_offered(tmp_path: Path) -> None:
    found = logarithm.read_logbook(two_contenders(tmp_path)).findings()
    assert set(views._DRAWN) == set(View) >= set(ON_PAGE)
    for view in View:
        assert view in help_of("plot")
        # Nothing was counted, there is one size, one revision, one version, no operation, and nobody calls it.
        if view not in (View.WORK, View.MAP, View.CHANGE, View.WORKLOAD, View.VERSIONS, View.MIX):
            assert found.plot(view=view).axes
    with pytest.raises(LogarithmError, match="there is no view 'tide'"):
        found.plot(view="tide")


def test_a_figure_is_drawn_into_axes_of_another(tmp_path: Path) -> None:
    from matplotlib.figure import Figure

    figure = Figure()
    axes = figure.subplots(1, 2)
    found = logarithm.read_logbook(two_contenders(tmp_path)).findings()
    assert found.plot(ax=axes[1]) is figure
    assert axes[1].lines and not axes[0].lines


def test_every_format_of_a_table_is_written_and_read_back(tmp_path: Path) -> None:
    book = written(tmp_path / "run.jsonl", LAWS_OF_TWO)
    for kind in exporting.FORMATS:
        for wide in (False, True):
            text = exporting.exported(book, kind, wide)
            assert "near" in text and "512" in text
        path = tmp_path / f"table.{kind}"
        path.write_text(exporting.exported(book, kind))
        if kind == "csv":
            trials = [each for each in imported(path) if isinstance(each, Trial)]
            assert len(trials) == len(book.trials.cost)
    with pytest.raises(TableError, match="is not a kind of table"):
        exporting.exported(book, "barnacle")


def test_a_further_metric_needs_its_row_alone(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setitem(METRICS, "echoes", Metric("echoes", "of a foghorn", way="memory", slower=3.0))
    study = logarithm.Study("foghorns")
    study.family(lambda n, rng: [n], name="bay")
    study.contender(max, name="blast", claim={"echoes": "n"})
    study.count("echoes")
    from logarithm.run.counters.counts import wanted
    from logarithm.run.plan.settings import Settings

    assert wanted(study, Settings()).kinds == ("memory",)
    assert all(metric in METRICS for metric in ASKED)


def test_orders_rise_and_work_looks_for_all_that_time_looks_for() -> None:
    assert [str(parse(order)) for order in ORDERS] == [str(parse(str(parse(order)))) for order in ORDERS]
    ranks = [parse(order).rank for order in ORDERS]
    assert ranks == sorted(ranks)
    assert all(0 < counted <= 1 for _, counted in ORDERS.values())
    assert {str(order) for order in CATALOGUE} <= set(map(str, map(parse, ORDERS)))


def test_every_other_language_has_a_draft() -> None:
    for ending in OTHERS:
        text = draft_of(Path(f"Peak{ending}"))
        assert len(text) > 200 and "{name}" not in text and "{class}" not in text
    with pytest.raises(LogarithmError, match="says what to write"):
        draft_of(Path("peak.cobol"))


def test_options_are_the_same_in_a_command_a_file_and_python(tmp_path: Path) -> None:
    names = set(get_type_hints(RunOptions))
    shown = help_of("measure")
    assert all(f"--{name.replace('_', '-')}" in shown for name in names)
    study = logarithm.Study("tide", sizes="8..64 *2")
    study.defaults(ceiling="2s", seed=3, whole_budget=True)
    file = tmp_path / "tide.toml"
    toml = 'name = "tide"\nsizes = "8..64 *2"\n[run]\nceiling = "2s"\nseed = 3\nwhole_budget = true\n'
    toml += '[[family]]\nready = "decimals"\n[[contender]]\npython = "builtins:max"\n'
    file.write_text(toml)
    from logarithm.study.files.loading import load

    assert load(file).run_options == study.run_options
    with pytest.raises(StudyError, match="ceilling"):
        study.defaults(ceilling="2s")  # type: ignore[call-arg]
    file.write_text(toml.replace("ceiling", "ceilling"))
    with pytest.raises(StudyError, match="ceilling"):
        load(file)


def test_public_names_are_there_and_their_own() -> None:
    homes = {name for names in logarithm.HOMES.values() for name in names}
    assert homes | set(logarithm.MODULES) | {"__version__"} == set(logarithm.__all__)
    for name in logarithm.__all__:
        assert getattr(logarithm, name) is not None
    import logarithm.families as ready

    assert ready.decimals is logarithm.families.decimals
    with pytest.raises(AttributeError, match="no attribute 'anchor'"):
        logarithm.anchor  # noqa: B018


def test_the_page_on_python_is_current_and_its_signatures_are_python() -> None:
    page = page_writer().written()
    assert (ROOT / "docs" / "api.md").read_text(encoding="utf-8") == page, "run python docs/write_api.py"
    signatures = re.findall(r"^    (def .*)$", page, flags=re.MULTILINE)
    assert len(signatures) > 30
    for each in signatures:
        ast.parse(each)


def test_a_contender_can_be_removed_and_a_cell_run_again_replaces_it() -> None:
    study = logarithm.Study("tide")
    study.family(lambda n, rng: [n], name="bay")
    study.contender(max, name="highest")
    study.remove("highest")
    assert not study.contenders
    with pytest.raises(StudyError, match="highest"):
        study.remove("highest")


def test_every_place_that_a_recipe_names_is_there() -> None:
    text = (ROOT / "CONTRIBUTING.md").read_text(encoding="utf-8")
    recipes = text[text.index("## Recipe") :]
    assert recipes.count("## Recipe") == 5
    named = set(re.findall(r"`((?:src|tests|docs)/[\w./]+)`", recipes))
    homes = {
        "METRICS": "notation/metrics",
        "ORDERS": "statistics/growth/catalogue",
        "_DRAWN": "report/figure/views",
        "FORMATS": "logbook/exchange/exporting",
        "OTHERS": "drafts/__init__",
        "ON_PAGE": "report/view",
    }
    new = {"src/logarithm/counting/exceptions.py", "src/logarithm/drafts/worker.go"}
    assert new <= named
    for each in named - new:
        assert (ROOT / each).exists(), each
    for name, home in homes.items():
        assert f"`{name}`" in recipes
        assert re.search(rf"^{name}\b", (ROOT / "src" / "logarithm" / f"{home}.py").read_text(), re.MULTILINE), name
