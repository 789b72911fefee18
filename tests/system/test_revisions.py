"""Revisions of a made project: measured beside today's code, and the commits that changed a cost found."""

from __future__ import annotations

import shutil
import subprocess
from pathlib import Path

import pytest
from tests.conftest import Harbour

from studies import make_project

pytestmark = pytest.mark.skipif(shutil.which("git") is None, reason="git is not installed")


@pytest.fixture(scope="module")
def project(tmp_path_factory: pytest.TempPathFactory) -> Harbour:
    folder = tmp_path_factory.mktemp("project")
    make_project(folder)
    return Harbour(folder)


def test_a_revision_is_measured_beside_todays_code(project: Harbour) -> None:
    done = project.run("measure", "bench/study.py", "--against", "v1", "--budget", "20s", "--out", "a.jsonl", "-q")
    assert done.code == 0, done.err
    found = project.run("report", "a.jsonl", "--format", "json").json
    (change,) = found["changes"]
    assert (change["contender"], change["from"], change["to"], change["verdict"]) == ("spread", "v1", "now", "faster")
    assert change["sizes"][-1]["factor"] < 0.5 and found["study"]["yardsticks"] == ["spread at v1"]
    assert "spread on gauge since v1: " in project.run("report", "a.jsonl", "--section", "changes").out
    on = project.run(
        "measure", "bench/study.py", "--resume", "a.jsonl", "--budget", "6s", "-q", "--format", "json"
    ).json
    assert on["changes"][0]["verdict"] == "faster" and on["run"]["trials"] > found["run"]["trials"]
    refused = project.run("measure", "bench/study.py", "--against", "v1", "--prepare", "false", "-q")
    assert refused.code == 2 and "--prepare 'false' ended with 1" in refused.err
    assert project.run("plot", "a.jsonl", "--view", "change", "--out", "change.png").code == 0
    assert subprocess.run(["git", "-C", project.folder, "status", "--porcelain"], capture_output=True).stdout == b""


def test_the_same_code_is_measured_once_and_revisions_that_do_not_run_are_told(project: Harbour) -> None:
    done = project.run("measure", "bench/study.py", "--against", "HEAD~1", "--budget", "3s", "--format", "json", "-q")
    assert done.code == 0, done.err
    assert done.json["changes"] == []
    assert any("is the same code at HEAD~1 as now" in each["text"] for each in done.json["notes"])
    broken = project.run("measure", "bench/study.py", "--against", "HEAD~2", "--budget", "3s", "-q")
    assert broken.code == 2 and "HEAD~2 does not run: " in broken.err and "cannot import name 'added'" in broken.err
    unknown = project.run("measure", "bench/study.py", "--against", "v9", "--budget", "3s", "-q")
    assert unknown.code == 2 and "there is no revision 'v9'" in unknown.err


def test_a_change_in_the_studys_own_file_is_told(project: Harbour, tmp_path: Path) -> None:
    project = Harbour(Path(shutil.copytree(project.folder, tmp_path / "own")))
    study = project.folder / "bench" / "study.py"
    whole = study.read_text()
    own = "@study.contender\ndef spread(levels):\n    return max(levels) - min(levels)\n"
    mine = whole.replace("study.contender(spread)\n", own).replace("from tides.levels import spread\n", "")
    (project.folder / "bench" / "own.py").write_text(mine)
    subprocess.run(["git", "-C", project.folder, "add", "-A"], check=True)
    who = ["-c", "user.name=harbour", "-c", "user.email=harbour"]
    subprocess.run(["git", "-C", project.folder, *who, "commit", "-qm", "Own"], check=True)
    (project.folder / "bench" / "own.py").write_text(mine.replace("max(levels)", "sorted(levels)[-1]"))
    done = project.run("measure", "bench/own.py", "--against", "HEAD", "--budget", "1s", "-q")
    assert "spread: changed in the study's own file since HEAD" in " ".join(done.out.split())
    found = project.run("history", "bench/own.py", "HEAD~1..HEAD", "--budget", "1s", "-q")
    assert "spread changed in the study's own file" in " ".join(found.out.split()), found.err


def test_history_names_the_commit_that_changed_the_cost(project: Harbour, tmp_path: Path) -> None:
    figure = tmp_path / "history.png"
    words = ("history", "bench/study.py", "v1..HEAD", "--budget", "40s", "--figure", figure)
    done = project.run(*words, "--format", "json", "-q", "--fail-on-slower", "10%")
    assert done.code == 0, done.err
    (step,) = done.json["steps"]
    assert (step["subject"], step["verdict"], step["since"]) == ("Order first", "faster", None)
    assert [each["subject"] for each in done.json["skipped"]] == ["Another name"]
    assert (done.json["commits"], done.json["same"], done.json["is_whole"]) == (5, 2, True)
    assert figure.exists()
    wrong = project.run("history", "bench/study.py", "v1", "-q")
    assert wrong.code == 2 and "is not a range of revisions: write for example v1..HEAD" in wrong.err
