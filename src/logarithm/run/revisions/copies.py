"""Copies of a project at other commits: each with today's study in it, and its contenders added to the plan."""

from __future__ import annotations

import json
import os
import shlex
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from pathlib import Path

from ...errors import StudyError, one_line
from ...logbook.records import Note
from ...results.revisions import TODAYS_STUDY
from ...study.files.fingerprints import definition_in, fingerprint_of_program
from ...study.files.modules import loaded_within
from ...study.parts import Contender, Revision
from ...study.study import Study
from ...supervisor.templates import environment_of
from ..git import Commit, commit_of, copy_at, range_of, top_of
from ..record.preamble import code_of

LOOKING_S_MOST, PREPARING_S_MOST = 60.0, 900.0
INSTALLED = ".installed"  # where pip puts what a revision installs


@dataclass(frozen=True, slots=True)
class Copy:
    """A project at one commit.

    Attributes:
        label: how users called it.
        commit: which one it is.
        folder: where its files are.
        file: today's study in it.
        paths: where its modules are looked for.
        codes: the fingerprint of each contender's code there.
        files: the modules of the project that its contenders use.
        study: what the study's file said there.
        fault: why it does not run; empty where it does.
    """

    label: str
    commit: Commit
    folder: Path
    file: Path
    paths: tuple[str, ...]
    codes: dict[str, str] = field(default_factory=dict)
    files: frozenset[str] = frozenset()
    study: str = ""
    fault: str = ""

    def contender(self, contender: Contender, beside: str | None = None) -> Contender:
        """A contender as it is here, which makes no claim and has no rank, beside today's or another one."""
        beside = contender.name if beside is None else beside
        options = replace(contender.options, claims=(), baseline=False, yardstick=True)
        revision = Revision(self.label, self.commit.sha, str(self.file), self.paths, contender.name, beside)
        return replace(contender, name=f"{contender.name} at {self.label}", options=options, revision=revision)


class Copies:
    """Makes copies of the project of a study, in a folder that goes away at the end.

    Args:
        study, file: what is asked, and where it stands.
        prepare: commands that are run in each copy.
    """

    def __init__(self, study: Study, file: Path, prepare: Sequence[str] = ()) -> None:
        self.study, self.file, self.prepare = study, file.resolve(), prepare
        self.top = top_of(self.file)
        self.room = tempfile.TemporaryDirectory(prefix="logarithm-revisions-")
        self.roots = loaded_within(self.top)

    def at(self, commit: Commit, label: str) -> Copy:
        """The copy of a commit.

        Raises:
            StudyError: where git refuses.
        """
        folder = Path(self.room.name) / commit.sha
        there = folder / self.file.relative_to(self.top)
        paths = tuple(str(folder / root.relative_to(self.top)) for root in self.roots)
        then = there.with_name(f"{there.name}.then")
        if not folder.exists():
            copy_at(self.top, commit.sha, folder)
            there.parent.mkdir(parents=True, exist_ok=True)
            if there.exists():
                there.rename(then)
            shutil.copy2(self.file, there)
        study = then.read_text(encoding="utf-8", errors="replace") if then.exists() else ""
        made = Copy(label, commit, folder, there, (str(folder / INSTALLED), *paths), study=study)
        for command in self.prepare:
            fault = _prepared(command, made)
            if fault:
                return replace(made, fault=fault)
        return self._looked_at(made)

    def _looked_at(self, made: Copy) -> Copy:
        """The copy with what its code says, found out by a process of its own."""
        command = [
            sys.executable,
            "-P",
            "-m",
            "logarithm.worker.probe",
            str(made.file),
            str(self.top),
            str(made.folder),
        ]
        environment = environment_of(0, made.paths)
        try:
            done = subprocess.run(
                command, capture_output=True, timeout=LOOKING_S_MOST, env=environment, stdin=subprocess.DEVNULL
            )
            found = json.loads(done.stdout)
        except subprocess.TimeoutExpired:
            return replace(made, fault=f"loading the study took more than {LOOKING_S_MOST:g} s")
        except ValueError:
            return replace(made, fault=one_line(done.stderr.decode(errors="replace").strip() or "it says nothing", 200))
        if found["fault"]:
            return replace(made, fault=found["fault"].replace(str(made.folder), made.label))
        if found["strays"]:
            names = ", ".join(found["strays"][:3])
            return replace(made, fault=f"{names} come from today's tree, not from that revision: name it in --prepare")
        return replace(made, codes=found["codes"], files=frozenset(found["files"]))

    def code(self, contender: Contender, made: Copy) -> str:
        """The fingerprint of a contender's code in a copy."""
        program = contender.program
        if program is not None:
            return fingerprint_of_program(program.arguments, program.build, made.file.parent)
        return made.codes.get(contender.name, "")

    def end(self) -> None:
        """Take the copies away."""
        self.room.cleanup()


def _prepared(command: str, made: Copy) -> str:
    """Run a command in a copy. Returns why it failed; what pip installs goes into the copy, without what it needs."""
    installed = str(made.folder / INSTALLED)
    environment = {**os.environ, "PIP_TARGET": installed, "PIP_NO_DEPS": "1", "PIP_NO_INPUT": "1", "PIP_UPGRADE": "1"}
    words = shlex.split(command)
    if words and words[0] in ("pip", "python", "python3"):
        words = [sys.executable, *(["-m", "pip"] if words[0] == "pip" else []), *words[1:]]
    try:
        done = subprocess.run(
            words,
            cwd=made.folder,
            capture_output=True,
            timeout=PREPARING_S_MOST,
            env=environment,
            stdin=subprocess.DEVNULL,
        )
    except (OSError, subprocess.TimeoutExpired) as error:
        return one_line(f"--prepare '{command}' cannot be run there: {error}", 200)
    told = (done.stderr or done.stdout).decode(errors="replace").strip()
    if not done.returncode:
        return ""
    said = told.splitlines()[-1].strip() if told else "it says nothing"
    return one_line(f"--prepare '{command}' ended with {done.returncode} there: {said}; try it in a checkout", 300)


@contextmanager
def measured_against(
    study: Study, file: Path, names: Mapping[str, str], prepare: Sequence[str] = (), only: Sequence[str] = ()
) -> Iterator[list[Note]]:
    """The study with its contenders as they are at some revisions, for as long as that is needed.

    Args:
        study, file: what is asked, and where it stands.
        names: branches, tags, commits, or ranges such as v1..v4, by what they are called.
        prepare: commands that are run in each copy.
        only: contenders; all where none is named.

    Yields:
        what is worth telling: code that is the same, revisions that do not run.

    Raises:
        StudyError: where there is no such revision, or none of them runs.
    """
    if not names:
        yield []
        return
    copies, before = Copies(study, file, prepare), list(study.contenders)
    try:
        notes, added, faults = list[Note](), list[Contender](), list[str]()
        for label, commit in labelled(copies.top, names):
            made = copies.at(commit, label)
            if made.fault:
                faults.append(f"{label} does not run: {made.fault}")
                notes.append(Note(topic="revision", text=faults[-1], cause="fault"))
                continue
            for contender in before:
                if contender.source is not None or (only and contender.name not in only):
                    continue
                code, own = code_of(contender, copies.file.parent), copies.code(contender, made)
                if code and code == own and changed_in_study(contender, file, made.study):
                    text = f"changed in the study's own file since {label}, {TODAYS_STUDY}"
                    notes.append(Note(topic="revision", text=text, contender=contender.name, cause="study"))
                elif code and code == own:
                    text = f"is the same code at {label} as now, so it is measured once"
                    notes.append(Note(topic="revision", text=text, contender=contender.name, cause="same"))
                else:
                    added.append(made.contender(contender))
        if not added and faults:
            raise StudyError(faults[0])
        study.contenders += added
        yield notes
    finally:
        study.contenders[:] = before
        copies.end()


def changed_in_study(contender: Contender, file: Path, then: str) -> bool:
    """Whether a contender is defined in the study's own file, and said something else `then`."""
    name = getattr(contender.code, "__name__", "")
    now, before = definition_in(file.read_text(encoding="utf-8", errors="replace"), name), definition_in(then, name)
    return bool(now and before and now != before)


def labelled(top: Path, names: Mapping[str, str]) -> Iterator[tuple[str, Commit]]:
    """Each revision with what it is called; a range is all its commits."""
    for label, name in names.items():
        if ".." in name:
            yield from ((each.label, each) for each in range_of(top, name))
        else:
            yield label, commit_of(top, name)
