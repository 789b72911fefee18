"""How a run shows itself: nothing, lines, a log, a view in a terminal, a bar in a notebook."""

from __future__ import annotations

import io
import logging
import re
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import pytest

from logarithm.report import progress
from logarithm.results.questions import Look

SEEN = SimpleNamespace(last=Look())


@contextmanager
def a_notebook(monkeypatch: pytest.MonkeyPatch) -> Iterator[list[str]]:
    """What an interactive shell is shown, one text after another."""
    shown: list[str] = []
    cell = SimpleNamespace(update=lambda html: shown.append(html.text))
    display = SimpleNamespace(HTML=lambda text: SimpleNamespace(text=text), display=lambda *_, **__: cell)
    monkeypatch.setitem(sys.modules, "IPython", SimpleNamespace(get_ipython=lambda: object(), display=display))
    monkeypatch.setitem(sys.modules, "IPython.display", display)
    monkeypatch.setattr(progress, "A_SECOND", 1e9)
    yield shown


def test_whoever_wants_no_words_gets_none(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    with progress.watching("tides", 9.0, SEEN, tmp_path / "run.jsonl", quiet=True) as tell:
        tell(0.5, "measuring")
    with progress.bar(quiet=True) as tell:
        tell(0.5, "measuring")
    assert capsys.readouterr().err == ""


def test_where_no_terminal_is_there_are_lines_now_and_then(
    capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    clock = [100.0]
    monkeypatch.setattr(progress.time, "monotonic", lambda: clock[0])
    with progress.watching("tides", 20.0, SEEN, tmp_path / "run.jsonl") as tell:
        for share in (0.1, 0.2, 0.5):
            clock[0] += progress.NOW_AND_THEN * 0.6
            tell(share, f"heat {share:g}")
    assert capsys.readouterr().err == "4 s of at most 20 s: heat 0.2\n"


def test_what_is_decided_is_logged_beside_the_logbook(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    logger = logging.getLogger("logarithm")
    before = logger.level, list(logger.handlers)
    with progress.watching("tides", 9.0, SEEN, tmp_path / "run.jsonl", verbose=True) as tell:
        logging.getLogger("logarithm.run").info("n = %d tells its order", 64)
        tell(0.5, "is no line of a log")
    (written,) = tmp_path.iterdir()
    lines = written.read_text().splitlines()
    assert re.match(r" *\d+\.\d\d s  logarithm \d", lines[0]) and re.fullmatch(
        r" *\d+\.\d\d s  n = 64 tells its order", lines[1]
    )
    assert lines == capsys.readouterr().err.splitlines() and len(lines) == 2
    assert (logger.level, list(logger.handlers)) == before


def test_a_terminal_has_a_view_and_a_bar(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    from rich.console import Console

    written = io.StringIO()
    plain = {"file": written, "force_terminal": True, "width": 90, "height": 20}
    monkeypatch.setattr("rich.console.Console", lambda **_: Console(**plain))
    with progress.watching("tides", 20.0, SEEN, tmp_path / "run.jsonl") as tell:
        tell(0.25, "heat 3")
    assert "tides" in written.getvalue() and "heat 3" in written.getvalue()
    with progress.bar() as tell:
        tell(0.5, "counting [n = 8]")
    assert "counting [n = 8]" in written.getvalue()


def test_a_notebook_has_a_bar_that_goes_away(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    with a_notebook(monkeypatch) as shown, progress.watching("tides", 9.0, SEEN, tmp_path / "x") as tell:
        tell(0.5, "<heat>")
        assert 'value="0.500"' in shown[-1] and "&lt;heat&gt;" in shown[-1]
    assert shown[-1] == ""
    with a_notebook(monkeypatch) as shown, pytest.raises(KeyboardInterrupt), progress.bar() as tell:
        raise KeyboardInterrupt
    assert shown == [""]


def test_a_warning_is_one_line(capsys: pytest.CaptureFixture[str]) -> None:
    progress.warn("the clock is coarse")
    found: Any = capsys.readouterr()
    assert (found.out, found.err) == ("", "warning: the clock is coarse\n")
