"""What was handed in, read as what it is: a file of its own, and no more than a person writes."""

from __future__ import annotations

import os
import stat
from collections.abc import Sequence
from pathlib import Path

from ..errors import MeasuringError
from ..study.parts import Contender, Source

FILE_MOST = 2**20  # bytes


def text_of(source: Source) -> bytes:
    """What is in a file that was handed in. It is opened once, and no link is followed.

    Raises:
        MeasuringError: where it is no regular file, or too large.
    """
    flags = os.O_RDONLY | getattr(os, "O_NOFOLLOW", 0) | getattr(os, "O_NONBLOCK", 0) | getattr(os, "O_BINARY", 0)
    path = Path(source.file)
    inside = not source.folder or path.resolve().is_relative_to(Path(source.folder).resolve())
    if path.is_symlink() or not inside:
        raise MeasuringError("what was handed in is a link to something else: hand in the file itself")
    try:
        opened = os.open(path, flags)
    except OSError as error:
        raise MeasuringError(f"what was handed in cannot be read: {error.strerror}") from None
    try:
        about = os.fstat(opened)
        if not stat.S_ISREG(about.st_mode):
            raise MeasuringError("what was handed in is no file")
        if about.st_size > FILE_MOST:
            raise MeasuringError(f"what was handed in has more than {FILE_MOST // 2**20} MiB")
        parts, left = [], FILE_MOST + 1
        while left > 0 and (part := os.read(opened, left)):
            parts.append(part)
            left -= len(part)
    except OSError as error:
        raise MeasuringError(f"what was handed in cannot be read: {error.strerror}") from None
    finally:
        os.close(opened)
    if left <= 0:
        raise MeasuringError(f"what was handed in has more than {FILE_MOST // 2**20} MiB")
    return b"".join(parts)


def by_text(contenders: Sequence[Contender]) -> dict[str, list[str]]:
    """Submissions of one text, by the name of the first: what is the same is looked at once, and marked alike."""
    groups: dict[tuple[object, ...], list[str]] = {}
    for each in contenders:
        assert each.source is not None
        try:
            text: object = text_of(each.source).replace(b"\r\n", b"\n").rstrip()
        except MeasuringError:
            text = each.name
        groups.setdefault((text, each.source.function, each.require, each.options.families), []).append(each.name)
    return {names[0]: names for names in groups.values()}
