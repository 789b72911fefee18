"""Hearing what a process says, and waiting for it as long as it may take, the time of others not counted."""

from __future__ import annotations

import contextlib
import math
import queue
import threading
import time
from typing import IO

from ..protocol.clock import NANO
from ..protocol.scheduling import of_process

WAITING_MOST = 20.0  # times the limit, however long it stood in the queue


def listen(stream: IO[bytes], lines: queue.Queue[bytes], most: int) -> None:
    """Hear a process in a thread of its own, line by line, until it says no more; then an empty line is put.

    Args:
        stream: what it says.
        lines: where it is put; the thread waits while there is no room.
        most: bytes of a line; one that is longer is cut there, and nothing more is heard.
    """

    def hear() -> None:
        with contextlib.suppress(OSError, ValueError):
            while line := stream.readline(most):
                lines.put(line)
                if not line.endswith(b"\n"):
                    break
        lines.put(b"")

    threading.Thread(target=hear, daemon=True).start()


def next_line(lines: queue.Queue[bytes], process: int, limit: float) -> bytes | None:
    """The next line that a process says, or None where it took more than `limit` seconds of its own.

    Args:
        lines: that were heard; an empty one says that there will be no more.
        process: who says them.
        limit: seconds, those not counted that it stood in the queue for a processor.
    """
    if math.isinf(limit):
        return lines.get()
    before, begun = of_process(process), time.monotonic()
    left = limit
    while True:
        try:
            return lines.get(timeout=left)
        except queue.Empty:
            passed, now = time.monotonic() - begun, of_process(process)
            queued = (now[1] - before[1]) * NANO if before is not None and now is not None else 0.0
            left = limit - (passed - queued)
            if left <= 0.01 * limit or passed > WAITING_MOST * limit:
                return None
