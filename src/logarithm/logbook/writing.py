"""Writing a logbook: one record a line, appended as the work goes on."""

from __future__ import annotations

import contextlib
import os
import time
from collections.abc import Iterable, Iterator, Sequence
from pathlib import Path
from types import TracebackType
from typing import IO

import msgspec
from filelock import FileLock, Timeout

from ..errors import LogbookError
from .exchange.cleaning import cleaned
from .memory import LogbookBuilder
from .reading import builder_of
from .records import AnyRecord

SYNC_EVERY = 2.0

_ENCODER = msgspec.json.Encoder()


def lines_of(records: Sequence[AnyRecord]) -> bytes:
    """Records as lines of JSON; half characters, which no file can hold, are replaced."""
    try:
        return _ENCODER.encode_lines(records)
    except UnicodeEncodeError:
        return _ENCODER.encode_lines(cleaned(records))


class LogbookWriter:
    """The one writer of a logbook, which knows what it holds. Use it in a `with` statement.

    Args:
        path: a file that does not exist yet; nothing is ever overwritten.
        append: go on with a logbook that exists, after taking off a last line that was torn.

    Raises:
        LogbookError: where the file exists, is being written, or cannot be written.
    """

    def __init__(self, path: Path, append: bool = False) -> None:
        self.path = path
        self.lock = FileLock(path.with_name(f".{path.name}.lock"), timeout=0)
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            # Opened first: where it cannot be, a lock that cannot be had either would be taken for another's.
            self.file: IO[bytes] = path.open("r+b" if append else "xb")
            self.lock.acquire()
        except Timeout:
            raise LogbookError(
                f"{path} is being written by another run: wait for it, or choose another --out"
            ) from None
        except FileExistsError:
            self._unlock()
            raise LogbookError(f"{path} exists: choose another name with --out, nothing is overwritten") from None
        except OSError as error:
            self._unlock()
            raise LogbookError(f"{path} cannot be written: {error.strerror or error}") from None
        self.synced = time.monotonic()
        self.memory = LogbookBuilder(path)
        if append:
            whole = _whole_lines(self.file)
            self.file.truncate(whole)
            self.memory = builder_of(path)
            self.file.seek(whole)

    def write(self, *records: AnyRecord) -> None:
        """Append records; they are safe once flushed. Half characters, which no file can hold, are replaced."""
        with self._written():
            self.file.write(lines_of(records))
        self.memory.add(records)

    @contextlib.contextmanager
    def _written(self) -> Iterator[None]:
        """Where nothing more can be written, say so in our words."""
        try:
            yield
        except OSError as error:
            raise LogbookError(
                f"{self.path} cannot be written any further: {error.strerror or error}; what was measured until then "
                "stands in it: make room, then go on with --resume"
            ) from None

    def flush(self) -> None:
        """Hand everything written so far to the system, and every two seconds bring it to the disk."""
        with self._written():
            self.file.flush()
        # What the system has survives our death at once; the disk, which survives the system's, is slow to ask.
        if time.monotonic() - self.synced > SYNC_EVERY:
            with contextlib.suppress(OSError):
                os.fsync(self.file.fileno())
            self.synced = time.monotonic()

    def __enter__(self) -> LogbookWriter:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.synced = 0.0
        try:
            if error is None:
                self.flush()
            with contextlib.suppress(OSError):  # closing writes what could not be written before
                self.file.close()
        finally:
            if self.path.exists() and not self.path.stat().st_size:
                self.path.unlink()
            self._unlock()

    def _unlock(self) -> None:
        """Let others write, and leave no lock behind."""
        if self.lock.is_locked:
            with contextlib.suppress(OSError):
                Path(self.lock.lock_file).unlink()
            self.lock.release()


def write_logbook(path: Path, records: Iterable[AnyRecord]) -> None:
    """Write a whole logbook at once."""
    with LogbookWriter(path) as writer:
        writer.write(*records)


def _whole_lines(file: IO[bytes]) -> int:
    """How many bytes of a file are whole lines."""
    end = file.seek(0, os.SEEK_END)
    while end:
        start = max(0, end - 65536)
        file.seek(start)
        newline = file.read(end - start).rfind(b"\n")
        if newline >= 0:
            return start + newline + 1
        end = start
    return 0
