"""Noting the sizes that a running program calls a function with, for weighing costs by them later.

Needs the standard library alone: it runs in other people's programs.
"""

from __future__ import annotations

import atexit
import functools
import os
import random
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

Code = TypeVar("Code", bound=Callable[..., Any])

WRITTEN_EVERY, DISTINCT_MOST = 2**16, 2**12  # calls that are noted, and distinct sizes, until they are written down
FILE_MOST = 10_000_000  # bytes: a file that has grown so large is not added to
DIGITS = 3  # of a size above a thousand: calls of 12 345 and of 12 300 cost much the same


def note_calls(
    function: Code, size: Callable[..., float] = len, to: str | Path = "calls.csv", share: float = 1.0
) -> Code:
    """A function that does what another one does, and notes the sizes of its calls.

    Sizes are written, no contents: added up, to a CSV table with the columns size and count, at the end of the process
    and every so many calls. Threads and processes may share the file.

    Args:
        function: that is called.
        size: of the arguments of a call; `len` of the first one.
        to: the file, which is added to, up to 10 MB.
        share: of the calls that are noted, at random; 0.01 where they are very many and short.

    >>> import os, tempfile
    >>> path = os.path.join(tempfile.mkdtemp(), "calls.csv")
    >>> highest = note_calls(max, to=path)
    >>> highest([1.2, 3.4]), highest([0.7, 2.1])
    (3.4, 2.1)
    >>> highest.write_down()
    >>> Path(path).read_text().split()
    ['size,count', '2,2.0']

    Raises:
        ValueError: where the share is not one.
    """
    if not 0 < share <= 1:
        raise ValueError(f"share={share!r} is not a share of the calls: write for example 0.01")
    noted = _Noted(Path(to), share)
    of = (lambda first, *_, **__: len(first)) if size is len else size

    @functools.wraps(function)
    def called(*given: Any, **named: Any) -> Any:
        if share == 1.0 or random.random() < share:
            noted.one(of(*given, **named))
        return function(*given, **named)

    called.write_down = noted.write_down  # type: ignore[attr-defined]
    return called  # type: ignore[return-value]


class _Noted:
    """Sizes with how often each was met, until they are written down."""

    def __init__(self, path: Path, share: float) -> None:
        self.path, self.each = path, 1 / share
        self.counts: dict[float, int] = {}
        self.many = 0
        self.lock = threading.Lock()
        atexit.register(self.write_down)
        if hasattr(os, "register_at_fork"):
            # What the parent has met is the parent's to write.
            os.register_at_fork(after_in_child=self.forget)

    def one(self, size: float) -> None:
        """Note one call."""
        counts = self.counts
        counts[size] = counts.get(size, 0) + 1
        self.many += 1
        if self.many >= WRITTEN_EVERY or len(counts) >= DISTINCT_MOST:
            self.write_down()

    def forget(self) -> None:
        """Begin anew."""
        self.counts, self.many, self.lock = {}, 0, threading.Lock()

    def write_down(self) -> None:
        """Add what was met to the file; where that cannot be done, the program goes on without it."""
        with self.lock:
            counts, self.counts, self.many = self.counts, {}, 0
        added: dict[str, int] = {}
        for size, count in counts.items():
            text = f"{size:.{DIGITS}g}" if size >= 10**DIGITS else f"{size:g}"
            text = f"{float(text):g}" if "e" not in text else str(round(float(text)))
            added[text] = added.get(text, 0) + count
        try:
            has = self.path.stat().st_size if self.path.exists() else 0
            if not added or has > FILE_MOST:
                return
            head = "" if has else "size,count\n"
            rows = "".join(f"{size},{count * self.each}\n" for size, count in added.items())
            # One write that appends is not torn by another process's.
            file = os.open(self.path, os.O_WRONLY | os.O_APPEND | os.O_CREAT, 0o644)
            try:
                os.write(file, (head + rows).encode())
            finally:
                os.close(file)
        except OSError:
            return
