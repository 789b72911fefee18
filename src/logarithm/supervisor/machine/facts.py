"""What machine this is, for the logbook."""

from __future__ import annotations

import os
import platform
from pathlib import Path

import psutil

from ...logbook.records import Machine
from ...protocol import clock


def this_machine() -> Machine:
    """The facts by which a reader can judge the numbers: system, processor, memory, Python, clock, load."""
    return Machine(
        system=f"{platform.system()} {platform.release()}",
        processor=_processor(),
        cores=len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else (os.cpu_count() or 1),
        memory=psutil.virtual_memory().total,
        python=f"{platform.python_implementation()} {platform.python_version()}",
        clock_step=clock.step() * 1e-9,
        clock_cost=clock.reading_cost() * 1e-9,
        load=load(),
        caches=caches(),
    )


def caches() -> list[int]:
    """The bytes of the data caches of the first processor, the smallest first; none where the system does not tell."""
    found = set()
    for place in Path("/sys/devices/system/cpu/cpu0/cache").glob("index*"):
        try:
            kind, size = ((place / name).read_text().strip() for name in ("type", "size"))
        except OSError:
            continue
        if kind != "Instruction" and size[:-1].isdigit() and size[-1] in "KM":
            found.add(int(size[:-1]) * (2**10 if size[-1] == "K" else 2**20))
    return sorted(found)


def load() -> float | None:
    """The load of the last minute: how many processes wanted a processor, on average."""
    try:
        return round(psutil.getloadavg()[0], 2)
    except OSError:
        return None


def _processor() -> str:
    try:
        for line in Path("/proc/cpuinfo").read_text().splitlines():
            if line.startswith("model name"):
                return line.split(":", 1)[1].strip()
    except OSError:
        pass
    return platform.processor() or platform.machine()
