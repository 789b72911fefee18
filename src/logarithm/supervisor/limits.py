"""What a worker must keep to on this machine."""

from __future__ import annotations

import math

import psutil

from ..protocol.requests import Limits

ROOM_MOST = 2**30
START_LEAST, START_SHARE, START_MOST = 2.0, 0.2, 20.0  # seconds, or a share of the budget, that a start may take


def limits(workers: int, memory: float | None = None, budget: float = math.inf, processor: int | None = None) -> Limits:
    """What each of so many workers must keep to: `memory` bytes if that is said, a budget of seconds, one processor."""
    available = psutil.virtual_memory().available
    return Limits(
        room=min(ROOM_MOST, available / (2 * max(workers, 1))),
        memory=memory or available / 2,
        processor=processor,
        start=min(START_MOST, max(START_LEAST, START_SHARE * budget)),
    )
