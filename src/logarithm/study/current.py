"""The file of a study that is being run just now."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

_FILES: list[Path] = []


@contextmanager
def running(file: Path) -> Iterator[None]:
    """Meanwhile this file is being run."""
    _FILES.append(file)
    try:
        yield
    finally:
        _FILES.pop()


def is_loading() -> bool:
    """Whether a file of a study is being run just now."""
    return bool(_FILES)
