"""Whether work goes on after a call has returned: in a thread that it started, or in a child process."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from ..protocol import clock
from ..protocol.scheduling import of_process

LOOK_NS, STEP_S = 60_000_000, 0.003
WORKED = 1_000_000  # nanoseconds of the processor: what waits for work uses less
sleep = time.sleep


def unfinished(call: Callable[[], Any]) -> dict[str, str]:
    """The trap of that name, with what is still at work when a call has returned: a thread, or a process.

    What only waits for work, as a pool does, is not at work. A thread or a process that was started by the call and
    ends soon afterwards was.
    """
    threads, children = set(threading.enumerate()), _children()
    answer = call()  # held, so that what it holds is not ended
    started = [each for each in threading.enumerate() if each not in threads]
    alive = {each for each in _children() - children if _is_running(each)}
    others = [each for each in threads if each is not threading.current_thread()]
    if not started and not alive and not others:
        return {}
    begun, ran = clock.now(), clock.busy_elsewhere()
    used = {each: of_process(each) for each in alive}
    while clock.now() - begun < LOOK_NS:
        sleep(STEP_S)
        if any(not each.is_alive() for each in started) or clock.busy_elsewhere() - ran > WORKED:
            return {"unfinished": "a thread"}
        for each, before in used.items():
            after = of_process(each)
            if not _is_running(each) or (before and after and after[0] - before[0] > WORKED):
                return {"unfinished": "a process"}
    del answer
    return {}


def is_alone() -> bool:
    """Whether this process has one thread, and no child that is running."""
    return threading.active_count() == 1 and not any(map(_is_running, _children()))


def _children() -> set[int]:
    """The processes that this one started; empty where the system does not tell."""
    try:
        tasks = list(Path("/proc/self/task").iterdir())
        return {int(child) for task in tasks for child in (task / "children").read_text().split()}
    except (OSError, ValueError):
        return set()


def _is_running(process: int) -> bool:
    """Whether a process has not ended; one that ended and was not waited for has."""
    try:
        return Path(f"/proc/{process}/stat").read_text().rpartition(")")[2].split()[0] not in "ZX"
    except (OSError, IndexError):
        return False
