"""Files that are written whole or not at all."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path

from ..errors import LogarithmError


def write_file(path: Path, content: str | bytes, replace: bool = True) -> None:
    """Write a file so that at any moment it holds all of this or what it held before.

    Args:
        path: the file.
        content: texts are written as UTF-8.
        replace: whether a file that exists is replaced.

    Raises:
        FileExistsError: where it exists and is not to be replaced.
        LogarithmError: where it cannot be written; nothing is left then.
    """
    raw = content.encode("utf-8", "replace") if isinstance(content, str) else content
    made: str | None = None
    try:
        handle, made = tempfile.mkstemp(prefix=".", suffix=".part", dir=path.parent)
        with os.fdopen(handle, "wb") as stream:
            stream.write(raw)
        Path(made).chmod(0o666 & ~_mask())
        if replace or not path.exists():
            Path(made).replace(path)
            made = None
        else:
            raise FileExistsError
    except FileExistsError:
        raise
    except OSError as error:
        raise LogarithmError(f"{path} cannot be written: {error.strerror or error}") from None
    finally:
        if made is not None:
            Path(made).unlink(missing_ok=True)


def _mask() -> int:
    """What the system takes off the rights of a new file; it can only be read by setting it."""
    mask = os.umask(0o022)
    os.umask(mask)
    return mask
