"""What a worker must keep to on this machine."""

from __future__ import annotations

import psutil

from ..host.machine import quiet_processor
from ..shared.messages import Limits

ROOM_MOST = 2**30


def limits(workers: int, memory: float | None = None) -> Limits:
    """What each of so many workers must keep to, `memory` bytes in all if that is said."""
    available = psutil.virtual_memory().available
    return Limits(
        room=min(ROOM_MOST, available / (2 * max(workers, 1))),
        memory=memory or available / 2,
        processor=quiet_processor(),
    )
