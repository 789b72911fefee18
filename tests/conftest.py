"""What the tests share: the installed command, run in a folder of its own."""

from __future__ import annotations

import io
import json
import os
import subprocess
import sys
import tempfile
from contextlib import redirect_stderr, redirect_stdout
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pytest
from tests.forked import FORKS, forked

import golden
import profiles
from studies import HARBOUR

READING = ("report", "plot", "growth", "crossover", "forecast", "contrast", "import", "export")
COMMAND = Path(sys.executable).with_name("logarithm")

profiles.load_profile()

PATIENCE = 120  # seconds that a command may take


@dataclass
class Done:
    code: int
    out: str
    err: str

    @property
    def json(self) -> Any:
        return json.loads(self.out)


def surroundings() -> dict[str, str]:
    """The environment of a command."""
    return {**os.environ, "COLUMNS": "120", "MPLBACKEND": "agg"}


class Harbour:
    """A folder with studies in it, and the command run there."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def study(self, text: str = HARBOUR, more: str = "", name: str = "study.py") -> Path:
        path = self.folder / name
        path.write_text(text + more, encoding="utf-8")
        return path

    def run(self, *arguments: object, **environment: str) -> Done:
        """Run the command in a process of its own; one that only reads and writes files in this one: quicker."""
        if environment or FORKS is None:  # what a new Python is to see
            return self.installed(*arguments, **environment)
        if arguments and arguments[0] in READING:
            return self.call(*arguments)
        with tempfile.TemporaryDirectory() as room:
            code = forked([str(COMMAND), *map(str, arguments)], self.folder, surroundings(), Path(room), PATIENCE)
            out, err = ((Path(room) / each).read_text(encoding="utf-8") for each in ("out", "err"))
            return Done(code, out, err)

    def installed(self, *arguments: object, **environment: str) -> Done:
        """Run the installed command, as a user does."""
        command, env = [str(COMMAND), *map(str, arguments)], {**surroundings(), **environment}
        done = subprocess.run(
            command, cwd=self.folder, capture_output=True, timeout=PATIENCE, env=env, encoding="utf-8"
        )
        return Done(done.returncode, done.stdout, done.stderr)

    def call(self, *arguments: object) -> Done:
        """The same in this process: what the command's entry point does with these words."""
        from logarithm.cli import main

        before, words = Path.cwd(), sys.argv
        out, err = io.StringIO(), io.StringIO()
        os.chdir(self.folder)
        sys.argv = [str(COMMAND), *map(str, arguments)]
        code: Any = 0
        try:
            with pytest.MonkeyPatch.context() as patch, redirect_stdout(out), redirect_stderr(err):
                patch.setenv("COLUMNS", "120")
                main()
        except SystemExit as left:
            code = left.code
        finally:
            os.chdir(before)
            sys.argv = words
        return Done(int(code or 0), out.getvalue(), err.getvalue())

    def stored(self, name: str) -> Done:
        """Put a stored logbook where the newest is looked for, and show its report."""
        (self.folder / "logbooks").mkdir(exist_ok=True)
        golden.unpack(name, self.folder / "logbooks")
        return self.run("report")

    def records(self, kind: str) -> list[dict[str, Any]]:
        newest = max((self.folder / "logbooks").glob("*.jsonl"), key=lambda path: path.stat().st_mtime)
        records = [json.loads(line) for line in newest.read_text(encoding="utf-8").splitlines()]
        return [record for record in records if record["kind"] == kind]


@pytest.fixture(autouse=True, scope="session")
def fonts_are_known() -> None:
    """On a new machine Matplotlib starts a program once to list the fonts."""
    import matplotlib.font_manager  # noqa: F401


@pytest.fixture(autouse=True)
def no_process_in_units(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> None:
    """What is in tests/unit may start no process: that is what makes it quick."""
    if "unit" in request.path.parts:

        def refused(*_: object, **__: object) -> None:
            raise AssertionError("a unit test starts a process: it belongs in tests/system")

        monkeypatch.setattr(subprocess, "Popen", refused)


@pytest.fixture
def harbour(tmp_path: Path) -> Harbour:
    return Harbour(tmp_path)


@pytest.fixture(autouse=True)
def nothing_is_withheld(monkeypatch: pytest.MonkeyPatch) -> None:
    """Whatever a test concludes in this process must pass the audit."""
    for name in ("logarithm.statistics.findings",):
        analysing = sys.modules.get(name)
        if analysing is None:
            continue
        audited = analysing.audited

        def strictly(findings: Any, audited: Any = audited) -> Any:
            made = audited(findings)
            assert made.withheld == []
            return made

        monkeypatch.setattr(analysing, "audited", strictly)
