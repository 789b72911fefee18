"""The folder of logbooks: the name of a new one, and the newest. Apart from writing, which needs locks."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path

from ..errors import LogbookError

FOLDER = Path("logbooks")


def fresh_path(study: str, folder: Path | None = None, suffix: str = ".jsonl") -> Path:
    """`logbooks/STUDY-YYYYMMDD-HHMMSS.jsonl`, with a count added where that exists."""
    where = FOLDER if folder is None else folder
    safe = "".join(letter if letter.isalnum() or letter in "-_." else "-" for letter in study).strip(".-") or "study"
    stem = f"{safe}-{datetime.now():%Y%m%d-%H%M%S}"
    path = where / f"{stem}{suffix}"
    count = 1
    while path.exists():
        count += 1
        path = where / f"{stem}-{count}{suffix}"
    return path


def newest(folder: Path | None = None) -> Path:
    """The logbook written last in the folder.

    Raises:
        LogbookError: where there is none.

    """
    where = FOLDER if folder is None else folder
    found = sorted(where.glob("*.jsonl"), key=lambda path: path.stat().st_mtime)
    if not found:
        raise LogbookError(f"no logbook in {where}/: name one, or make one with logarithm measure STUDY")
    return found[-1]
