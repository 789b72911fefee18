"""Building programs, once for each variant, and asking tools for their version."""

from __future__ import annotations

import contextlib
import logging
import subprocess
import tempfile
from pathlib import Path

from ...errors import MeasuringError, one_line
from ...study.parts import Contender
from .exchange import filled

_BUILT: dict[tuple[Path, tuple[str, ...]], tempfile.TemporaryDirectory[str]] = {}
PLACE = "{build}"

log = logging.getLogger(__name__)


def built(contender: Contender, folder: Path, seconds: float = 120.0) -> Path:
    """The folder in which a program was built; built at first, once for each command line that builds.

    Raises:
        MeasuringError: where the build fails, with what it printed.
    """
    program = contender.program
    levels = {name: str(value) for name, value in contender.values.items()}
    build = filled(program.build, {**levels, "build": PLACE}) if program is not None and program.build else []
    # What is not built needs a folder of its own.
    key = folder, tuple(build) or (contender.name,)
    if key not in _BUILT:
        room = tempfile.TemporaryDirectory(prefix="logarithm-")
        if build:
            log.info("building %s: %s", contender.name, " ".join(build))
            _build(contender.name, [part.replace(PLACE, room.name) for part in build], folder, seconds)
        _BUILT[key] = room
    return Path(_BUILT[key].name)


def _build(contender: str, command: list[str], folder: Path, seconds: float) -> None:
    try:
        done = subprocess.run(
            command, cwd=folder, capture_output=True, timeout=seconds, stdin=subprocess.DEVNULL, start_new_session=True
        )
    except subprocess.TimeoutExpired:
        raise MeasuringError(f"building '{contender}' took more than {seconds:g} s") from None
    except OSError as error:
        raise MeasuringError(f"building '{contender}': {command[0]} cannot be started: {error.strerror}") from None
    if done.returncode:
        printed = (done.stderr + done.stdout).decode("utf-8", "replace").strip()
        shown = "\n".join(printed.splitlines()[:20]) or "it printed nothing"
        raise MeasuringError(f"building '{contender}' failed with exit code {done.returncode}:\n{shown}")


def version_of(tool: str) -> str:
    """What a tool on the search path says of its version, in a line; empty where it says nothing quickly."""
    with contextlib.suppress(OSError, subprocess.TimeoutExpired):
        done = subprocess.run([tool, "--version"], capture_output=True, timeout=10, stdin=subprocess.DEVNULL)
        if done.returncode:
            return ""
        lines = (done.stdout or done.stderr).decode("utf-8", "replace").splitlines()
        return one_line(next((line for line in lines if line.strip()), ""), 120)
    return ""
