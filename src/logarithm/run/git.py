"""What git knows of a project, asked through its command. Nothing in the user's tree or repository is touched."""

from __future__ import annotations

import os
import subprocess
from dataclasses import dataclass
from pathlib import Path

from ..errors import StudyError, one_line
from ..results.tasks.history import label_of

GIT_S_MOST = 120.0
SUBMODULE = "160000"
INSTALL = "git is not installed, and revisions are read by it: install git, or leave --against out"


@dataclass(frozen=True, slots=True)
class Commit:
    """One commit: its 40 digits, the day it was made, and the first line of what it says."""

    sha: str
    date: str
    subject: str

    @property
    def label(self) -> str:
        """The digits that name it where it has no other name."""
        return label_of(self.sha)


@dataclass(frozen=True, slots=True)
class State:
    """Where a project stands: its commit, its branch, and whether there are changes that are not committed."""

    commit: str
    branch: str
    changed: bool


def asked(folder: Path, *arguments: str, environment: dict[str, str] | None = None) -> str:
    """What git prints.

    Raises:
        StudyError: where there is no git, or it refuses.
    """
    try:
        done = subprocess.run(
            ["git", "-C", str(folder), *arguments],
            capture_output=True,
            timeout=GIT_S_MOST,
            stdin=subprocess.DEVNULL,
            env={**os.environ, "GIT_OPTIONAL_LOCKS": "0", **(environment or {})},
        )
    except FileNotFoundError:
        raise StudyError(INSTALL) from None
    except subprocess.TimeoutExpired:
        raise StudyError(f"git {arguments[0]} took more than {GIT_S_MOST:g} s in {folder}") from None
    if done.returncode:
        raise StudyError(one_line(f"git {arguments[0]}: {done.stderr.decode(errors='replace').strip()}", 200))
    return done.stdout.decode(errors="replace")


def top_of(file: Path) -> Path:
    """The folder at the top of the repository that a file lies in.

    Raises:
        StudyError: where it lies in none.
    """
    try:
        return Path(asked(file.resolve().parent, "rev-parse", "--show-toplevel").strip())
    except StudyError as error:
        if str(error) == INSTALL:
            raise
        raise StudyError(f"{file} lies in no git repository, so there are no revisions of it") from None


def state_of(file: Path) -> State | None:
    """Where the project of a file stands; None where it is in no repository, or there is no git."""
    try:
        folder = file.resolve().parent
        commit = asked(folder, "rev-parse", "HEAD").strip()
        branch = asked(folder, "rev-parse", "--abbrev-ref", "HEAD").strip()
        return State(commit, branch, bool(asked(folder, "status", "--porcelain", "--untracked-files=no").strip()))
    except StudyError:
        return None


def commit_of(top: Path, name: str) -> Commit:
    """The commit that a name stands for.

    Raises:
        StudyError: where there is none.
    """
    try:
        told = asked(top, "log", "-1", "--format=%H%x00%as%x00%s", f"{name}^{{commit}}", "--")
    except StudyError:
        raise StudyError(f"there is no revision '{name}' in {top}: name a branch, a tag or a commit") from None
    return Commit(*told.strip("\n").split("\0"))


def range_of(top: Path, text: str) -> list[Commit]:
    """The commits of a range such as v1..HEAD, the first one included, from the oldest on along the first parents.

    Raises:
        StudyError: where it is no range, or an end is no commit.
    """
    first, dots, last = text.partition("..")
    if not dots or not first:
        raise StudyError(f"'{text}' is not a range of revisions: write for example v1..HEAD")
    oldest, newest = commit_of(top, first), commit_of(top, last or "HEAD")
    lines = asked(
        top, "log", "--first-parent", "--reverse", "--format=%H%x00%as%x00%s", f"{oldest.sha}..{newest.sha}", "--"
    ).splitlines()
    return [oldest, *(Commit(*line.split("\0")) for line in lines if line)]


def copy_at(top: Path, sha: str, folder: Path) -> None:
    """Write the tree of a commit into a folder, submodules included where they are there.

    It goes through an index of its own: unlike an archive, that leaves nothing out.

    Raises:
        StudyError: where git refuses.
    """
    folder.mkdir(parents=True, exist_ok=True)
    environment = {"GIT_INDEX_FILE": str(folder.parent / f"index-{sha}")}
    asked(top, "read-tree", sha, environment=environment)
    asked(top, "checkout-index", "--all", f"--prefix={folder}/", environment=environment)
    for line in asked(top, "ls-tree", "-r", sha).splitlines():
        facts, _, path = line.partition("\t")
        mode, _, own = facts.split(" ")[:3]
        if mode == SUBMODULE and (top / path / ".git").exists():
            copy_at(top / path, own, folder / path)


def changed_files(top: Path, one: str, other: str) -> set[Path]:
    """The files that differ between two commits."""
    lines = asked(top, "diff", "--name-only", "-z", one, other, "--").split("\0")
    return {(top / line).resolve() for line in lines if line}
