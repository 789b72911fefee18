"""Reading a logbook: its records, with the trials as columns. Reading one runs no code."""

from __future__ import annotations

import gc
import io
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO

import msgspec

from ..errors import LogbookError
from .exchange.cleaning import cleaned, may_harm
from .memory import Logbook, LogbookBuilder, changes, parts
from .records import FORMAT, VERSION, AnyRecord, Trial

CHUNK = 8 * 2**20
_ANY = msgspec.json.Decoder(AnyRecord)
_KIND = msgspec.json.Decoder(dict)


def read_logbook(path: str | Path) -> Logbook:
    """Read a logbook. A last line that was torn off is dropped, with a warning, as is any line that is damaged.

    Raises:
        LogbookError: where there is no such file, or it is no logbook of a version that is known.

    """
    file = Path(path)
    try:
        with file.open("rb") as stream, _without_collection():
            return _read(file, stream).logbook()
    except FileNotFoundError:
        raise LogbookError(f"{path}: there is no such logbook") from None
    except IsADirectoryError:
        raise LogbookError(f"{path} is a folder: name a logbook in it") from None
    except OSError as error:
        raise LogbookError(f"{path} cannot be read: {error.strerror or error}") from None


def logbook_of(path: str | Path, lines: bytes) -> Logbook:
    """The logbook in some lines, which need not stand in a file; `path` is what it is called."""
    with _without_collection():
        return _read(Path(path), io.BytesIO(lines)).logbook()


def read_trials(path: Path) -> list[Trial]:
    """The trials of a logbook one by one, with all that was read."""
    with path.open("rb") as stream, _without_collection():
        found: list[Trial] = []
        known: dict[tuple[int, str], str] = {}
        for records in _chunks(path, stream, []):
            for part in parts(records):
                if (changed := changes(part[0], known)) is not None:
                    found = [each for each in found if (each.contender, each.family)[changed[0]] != changed[1]]
                found += [record for record in part if type(record) is Trial]
        return found


@contextmanager
def _without_collection() -> Iterator[None]:
    """Keep the garbage collector from looking through a million records that are no garbage."""
    was_on = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was_on:
            gc.enable()


def builder_of(path: Path) -> LogbookBuilder:
    """What a logbook holds, to be added to."""
    with path.open("rb") as stream, _without_collection():
        return _read(path, stream)


def _read(path: Path, stream: BinaryIO) -> LogbookBuilder:
    builder = LogbookBuilder(path)
    for records in _chunks(path, stream, builder.warnings):
        builder.add(records)
    return builder


def _check_version(path: Path, lines: bytes) -> None:
    """Raise a LogbookError if the first line is no header of a logbook, or names another version."""
    try:
        first = _KIND.decode(lines.split(b"\n", 1)[0])
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        first = {}
    version = first.get("version")
    if first.get("kind") != "logbook" or first.get("format") != FORMAT or not isinstance(version, int):
        raise LogbookError(f"{path} is not a logbook: its first line is not a record of kind 'logbook'")
    if version > VERSION:
        raise LogbookError(f"{path} is of version {version}, newer than this program knows: update Logarithm")
    if version < VERSION:
        raise LogbookError(f"{path} is of version {version}, which is no longer read: measure again")


def _chunks(path: Path, stream: BinaryIO, warnings: list[str]) -> Iterator[list[AnyRecord]]:
    """The records of some whole lines at a time, so that a large logbook is never held whole as text."""
    line, tail = 1, b""
    while True:
        block = stream.read(CHUNK)
        if not block:
            break
        whole, newline, tail_of_block = block.rpartition(b"\n")
        if not newline:
            tail += block
            continue
        lines = tail + whole
        tail = tail_of_block
        if line == 1:
            _check_version(path, lines)
        yield _decoded(lines, line, path, warnings)
        line += lines.count(b"\n") + 1
    if tail.strip():
        if line == 1:
            _check_version(path, tail)
        yield _decoded(tail, line, path, warnings, "the last line is incomplete and was left out")
    if line == 1 and not tail.strip():
        _check_version(path, b"")


def _decoded(
    lines: bytes,
    line: int,
    path: Path,
    warnings: list[str],
    damage: str = "this line is damaged and was left out",
) -> list[AnyRecord]:
    clean = cleaned if may_harm(lines) else list[AnyRecord]
    return clean(_decode(lines, line, path, warnings, damage))


def _decode(lines: bytes, line: int, path: Path, warnings: list[str], damage: str) -> list[AnyRecord]:
    try:
        return _ANY.decode_lines(lines)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        pass
    records: list[AnyRecord] = []
    for number, text in enumerate(lines.split(b"\n"), start=line):
        try:
            if text.strip():
                records.append(_ANY.decode(text))
        except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
            if not _is_foreign(text):
                warnings.append(f"{path}:{number}: {damage}")
    return records


def _is_foreign(text: bytes) -> bool:
    """Whether a line is a record of a kind that this version does not know."""
    known = {str(kind.__struct_config__.tag) for kind in AnyRecord.__args__}
    try:
        return str(_KIND.decode(text).get("kind")) not in known
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        return False
