"""What a worker must keep to."""

from __future__ import annotations

from typing import Any

import psutil

from ..host.machine import quiet_processor
from ..run.plan import Settings

ROOM_MOST = 2**30


def limits(settings: Settings, workers: int) -> dict[str, Any]:
    """What a worker must keep to: bytes of memory in all, bytes of instances to keep, its processor."""
    available = psutil.virtual_memory().available
    return {
        "room": min(ROOM_MOST, available / (2 * max(workers, 1))),
        "memory": settings.memory or available / 2,
        "processor": quiet_processor(),
    }
