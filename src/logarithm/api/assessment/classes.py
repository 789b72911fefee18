"""The tasks on what a class hands in: assess it, write what students get, and their own check."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from ..tasks import Asked

if TYPE_CHECKING:
    from ...results.tasks.grades import Class, SelfCheck


def assess(
    study: Asked,
    *,
    memory: str = "1GiB",
    seed: int | None = None,
    trusted: bool = False,
    out: str | Path | None = None,
    resume: str | Path | None = None,
    on: str | None = None,
    quiet: bool = False,
) -> Class:
    """Assess what a class handed in: right or not, the order against what is asked, time and steps.

    Args:
        study: what is asked.
        memory: how much each submission may fill.
        seed: draws the same instances again; a secret one if none is named.
        trusted: run it without a sandbox: you have read it all and trust it.
        out: the logbook to write.
        resume: the logbook of an assessment that was interrupted.
        on: the address of a cluster's scheduler, or "local".
        quiet: show no progress.

    Raises:
        SandboxError: where the system cannot keep what was handed in apart.
        LogarithmError: where nothing was handed in, or there is no reference.
    """
    from ...executors.local import executor_at
    from ...notation.durations import capacity
    from ...report.progress import bar
    from ..subject import opened
    from .assess import assess_class

    with opened(study) as (plan, file, usual), bar(quiet) as progress:
        path = Path(resume) if resume is not None else usual if out is None else Path(out)
        return assess_class(
            plan,
            file,
            path,
            executor_at(on, plan, file),
            progress,
            memory=capacity(memory),
            seed=seed,
            trusted=trusted,
            resume=resume is not None,
        )


def hand_out(study: Asked, folder: str | Path, overwrite: bool = False) -> list[Path]:
    """Write what students get of an exercise: a page, the same as Markdown, and what `check` takes.

    Args:
        study: with submissions and a reference; the reference does not go along.
        folder: where to.
        overwrite: replace what is there.

    Returns:
        the files.

    Raises:
        LogarithmError: where something of the instructor's is at fault, or a file is there already.
    """
    from ...grading.exercise import exercise_of
    from ...report.present import written_exercise
    from ..subject import opened

    with opened(study) as (plan, file, _):
        return written_exercise(exercise_of(plan, file), Path(folder), overwrite)


def check(file: str | Path, exercise: str | Path | None = None) -> SelfCheck:
    """Look at an own file before it is handed in: the cases that are shown, how its work grows, and the rules.

    Args:
        file: what is about to be handed in.
        exercise: exercise.json of the hand-out; else the one beside the file, or in this folder.

    Raises:
        LogarithmError: where one of both cannot be read.
    """
    from ...grading.exercise import read_exercise, self_check

    beside = Path(file).with_name("exercise.json")
    usual = beside if beside.exists() else Path("exercise.json")
    return self_check(read_exercise(usual if exercise is None else Path(exercise)), Path(file))
