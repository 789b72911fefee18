"""Instructions that a compiled program executes, counted by an instrument that runs it: valgrind, where there is one.

They are the same again and again, and so the work of a program in another language. Programs that are compiled while
they run, and scripts, are left to time: what their interpreter does is not their work. The processor's own counters
would be quicker, but are not to be had in most containers.
"""

from __future__ import annotations

import re
import shutil
import subprocess
import tempfile
from collections.abc import Callable
from pathlib import Path

from ..failed import Failed

TOOL = "valgrind"
MISSING = "its instructions are not counted: valgrind is not installed"
FOREIGN = "its instructions are not counted: it is not a compiled program"
SWITCHES = ("--tool=cachegrind", "--cache-sim=no", "--cachegrind-out-file=/dev/null")
NATIVE = (b"\x7fELF", b"\xcf\xfa\xed\xfe", b"\xca\xfe\xba\xbe")
COUNT = re.compile(r"I\s+refs:\s+([\d,]+)")


def why_not(arguments: list[str], folder: Path) -> str:
    """Why the instructions of a program cannot be counted; empty where they can."""
    if not is_native(arguments, folder):
        return FOREIGN
    return "" if shutil.which(TOOL) else MISSING


def is_native(arguments: list[str], folder: Path) -> bool:
    """Whether the first argument is a compiled program of somebody's own, and none that runs scripts."""
    if "/" not in arguments[0]:
        return False
    try:
        with (folder / arguments[0]).open("rb") as stream:
            return stream.read(4) in NATIVE
    except OSError:
        return False


def of_command(arguments: list[str], folder: Path, limit: float) -> int:
    """The instructions of a command from its start to its end.

    Raises:
        Failed: where it does not end well, or within `limit` seconds.
    """
    return _counted(arguments, folder, limit, None)


def of_worker(arguments: list[str], folder: Path, limit: float, lines: Callable[[int], str]) -> int:
    """The instructions of one call of a worker: what a second call adds to the first.

    Args:
        arguments: of the worker.
        folder: that it runs in.
        limit: seconds for each.
        lines: what is said to it for some calls.

    Raises:
        Failed: where it does not end well, or within `limit` seconds.
    """
    once, twice = (_counted(arguments, folder, limit, lines(calls)) for calls in (1, 2))
    return max(twice - once, 1)


def _counted(arguments: list[str], folder: Path, limit: float, given: str | None) -> int:
    with tempfile.NamedTemporaryFile("r", suffix=".log") as log:
        command = [TOOL, *SWITCHES, f"--log-file={log.name}", *arguments]
        try:
            done = subprocess.run(
                command,
                cwd=folder,
                input=given.encode() if given is not None else b"",
                capture_output=True,
                timeout=limit,
                start_new_session=True,
                check=False,
            )
        except subprocess.TimeoutExpired:
            raise Failed("timeout", f"it took more than {limit:.3g} s while its instructions were counted") from None
        except OSError as error:
            raise Failed("missing", f"{TOOL} cannot be started: {error.strerror or error}") from None
        found = COUNT.search(log.read())
    if done.returncode or found is None:
        raise Failed("uncounted", f"it ended with exit code {done.returncode} while its instructions were counted")
    return int(found[1].replace(",", ""))
