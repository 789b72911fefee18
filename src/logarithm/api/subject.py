"""The study or logbook that a task is about: found, loaded, or written down from a notebook's cells."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from ..errors import StudyError
from ..logbook.folder import fresh_path, newest
from ..logbook.memory import Logbook
from ..logbook.reading import read_logbook as read
from ..report.present import Reports
from ..results.base import present_with
from ..study.current import is_loading
from ..study.files.cells import file_of, written_down
from ..study.files.loading import load
from ..study.study import Study

present_with(Reports())


@contextmanager
def opened(study: Study | str | Path, beside: str = "") -> Iterator[tuple[Study, Path, Path]]:
    """A study, the file that workers read it from, and where a logbook of it may be written.

    Args:
        study: a study, or the file of one. One that was defined in a notebook is written down beside the logbook.
        beside: what stands behind its name in that of the logbook.

    Raises:
        StudyError: where it cannot be used, or its functions cannot go along to other processes.
    """
    if isinstance(study, str | Path):
        study = load(study)
    if is_loading():
        raise StudyError('in the file of a study, this must stand under if __name__ == "__main__":')
    study.check()
    logbook = fresh_path(f"{study.name}{beside}")
    file = study.file or file_of(study)
    if file is None:
        file = logbook.with_suffix(".py")
        text = written_down(study)
        file.parent.mkdir(parents=True, exist_ok=True)
        file.write_text(text, encoding="utf-8")
    yield study, file, logbook


def read_logbook(path: str | Path | Logbook | None = None) -> Logbook:
    """Read a logbook, the newest one if none is named. Nothing in it is run.

    Raises:
        LogbookError: if there is none, or it cannot be read.
    """
    if isinstance(path, Logbook):
        return path
    return read(newest() if path is None else path)
